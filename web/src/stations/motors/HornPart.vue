<script setup lang="ts">
/** The tooth that centres the joint's range in the servo's travel, and the trim that takes the rest. */
import Button from 'primevue/button';
import { computed, ref } from 'vue';
import { couplingOf } from '@cork-elbow/core/transmissions';
import { fitHorn, hornTrim } from '@cork-elbow/core/calibration';
import { fromNative, nativeOf } from '@cork-elbow/core/actuators';
import { formatNumber } from '@cork-elbow/core/units';
import NumberField from '../../shared/NumberField.vue';
import { useRigStore } from '../../stores/rig';
import { useRunStore } from '../../stores/run';
import { useMotor } from './useMotor';
import MotorLive from './MotorLive.vue';
import { inUnit } from '@cork-elbow/core/mechanism';

const rigs = useRigStore();
const run = useRunStore();
/** Joints do not count while horns are off: every servo goes to its own centre pulse, one after the other. */
const isClear = ref(false);
const canSend = computed(() => run.isLive && run.mayDrive && !run.status.armed && !run.isRunning);
const neutralWords = computed(() => {
  if (!run.isLive) return 'Connect a board on the Bench page first.';
  if (!run.mayDrive) return run.whyNotDrive;
  if (run.status.mode === 'neutral') return 'All motors stand at neutral: put the horns on now.';
  if (run.status.mode === 'bringing-up') return 'They go there one after the other.';
  return run.status.armed
    ? 'The board is armed; disarm it first.'
    : 'Each servo gets its centre pulse, limits of joints left aside.';
});
const { row, onDrive, onBuild } = useMotor();
/** Where the joint stands (its own unit) when the servo is sent its centre pulse. */
const standsAt = ref<number | null>(null);
const problem = ref('');

const servo = computed(() => {
  const r = row.value;
  if (r?.drive?.kind !== 'servo' || !r.transmission || r.transmission.joints.length !== 1) return null;
  const built = couplingOf(r.transmission);
  return built.ok ? { ...r, drive: r.drive, coupling: built.coupling } : null;
});
/** As the calibration says, until something else was measured. */
const nominal = computed(() => {
  const s = servo.value;
  if (!s) return 0;
  const shaft = fromNative(nativeOf(s.drive, rigs.build!)!, s.drive.centreUs);
  return s.coupling.toJoints([shaft])?.[0] ?? 0;
});
/** The same as the shaft's angle (°); null where the linkage does not reach it. */
const stands = computed(() => servo.value?.coupling.toDrives([standsAt.value ?? nominal.value])?.[0] ?? null);
const fit = computed(() => {
  const s = servo.value;
  const m = rigs.mechanism;
  if (!s || !m) return null;
  const { slot } = s.info;
  const ends = [m.lower[slot], m.upper[slot]].map((v) =>
    Number.isFinite(v) ? (s.coupling.toDrives([inUnit(m, slot, v)])?.[0] ?? null) : null,
  );
  const at = stands.value;
  if (ends[0] === null || ends[1] === null || at === null || !s.drive.splineTeeth) return null;
  return fitHorn({
    teeth: s.drive.splineTeeth,
    centreUs: s.drive.centreUs,
    native: nativeOf(s.drive, rigs.build!)!,
    lowDeg: Math.min(ends[0], ends[1]),
    highDeg: Math.max(ends[0], ends[1]),
    atCentreDeg: at,
  });
});
const sentence = computed(() => {
  const f = fit.value;
  if (!f) return '';
  const n = Math.abs(f.teeth);
  return n === 0
    ? 'The horn is on the best tooth.'
    : `Take the horn off and put it on ${n} ${n === 1 ? 'tooth' : 'teeth'} further towards ${f.teeth > 0 ? 'larger' : 'smaller'} angles of the motor.`;
});
/** The map then says where the joint stands at the centre pulse; `shaftDeg`: with the horn as it is on. */
function takeTrim(shaftDeg: number): void {
  const { drive } = servo.value!;
  const trimUs = hornTrim(drive, rigs.build!, shaftDeg);
  problem.value =
    onBuild(`Trim of ${drive.name}`, (build) => void (build.trims[drive.id] = Math.round(trimUs * 100) / 100)) ?? '';
}
const trimNow = computed(() => (stands.value === null ? 0 : hornTrim(servo.value!.drive, rigs.build!, stands.value)));
/** The horn was put on the tooth that is advised: it stands there now. */
function moved(): void {
  const { atCentreDeg } = fit.value!;
  takeTrim(atCentreDeg);
  if (!problem.value) standsAt.value = servo.value!.coupling.toJoints([atCentreDeg])?.[0] ?? null;
}
</script>

<template>
  <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
  <p v-if="!servo" class="muted small">
    A horn is fitted on a positional servo that moves one joint; choose such a joint above.
  </p>
  <template v-else>
    <ol class="small">
      <li>
        Take the horn off, power the servo and send it its centre pulse, {{ servo.drive.centreUs }} µs (below,
        “Centre”).
      </li>
      <li>Put the horn on so that the joint stands near the middle of its range, and let go.</li>
      <li>Measure where the joint stands now, and type it here.</li>
    </ol>
    <MotorLive v-if="run.status.mode !== 'neutral' && run.status.mode !== 'bringing-up'" />
    <div class="form">
      <label
        >joint stands at
        <NumberField
          :value="standsAt ?? nominal"
          :dimension="servo.info.unit === 'mm' ? 'length' : 'angle'"
          :decimals="1"
          label="Joint at the centre pulse"
          :commit="(v: number) => void (standsAt = v)"
      /></label>
      <label
        >teeth of the spline
        <NumberField
          :value="servo.drive.splineTeeth ?? 0"
          dimension="count"
          label="Teeth of the spline"
          :min="3"
          :max="120"
          :commit="(v: number) => onDrive('Spline', (d) => (d.splineTeeth = Math.round(v)))"
      /></label>
    </div>
    <template v-if="!servo.drive.splineTeeth">
      <p class="muted small">
        Count the teeth of the spline to see how the horn fits. With the horn as it is on, the trim is
        {{ formatNumber(trimNow, 0) }} µs.
      </p>
      <p v-if="stands !== null" class="row wrap">
        <Button size="small" severity="secondary" label="Apply this trim" @click="takeTrim(stands)" />
      </p>
    </template>
    <p v-else-if="!fit" class="muted small">
      The joint needs limits that the linkage can reach before a horn can be fitted.
    </p>
    <div v-else class="fit" role="status" :data-teeth="fit.teeth" :data-fits="fit.lostLowDeg + fit.lostHighDeg === 0">
      <p>
        <b>{{ sentence }}</b>
      </p>
      <dl>
        <dt>one tooth</dt>
        <dd class="num">{{ formatNumber(fit.stepDeg, 2) }}°</dd>
        <dt>left over then</dt>
        <dd class="num">{{ formatNumber(fit.leftDeg, 2) }}° of the motor</dd>
        <dt>that is a pulse of</dt>
        <dd class="num">{{ formatNumber(fit.leftUs, 0) }} µs</dd>
        <dt>trim as it is on now</dt>
        <dd class="num">{{ formatNumber(trimNow, 0) }} µs</dd>
        <dt>pulses sent for the joint’s range, now</dt>
        <dd class="num" data-sent>{{ servo.driveMap!.native.low }} to {{ servo.driveMap!.native.high }} µs</dd>
        <dt>{{ fit.teeth ? 'on that tooth, trimmed' : 'with this trim' }}</dt>
        <dd class="num" data-then>{{ fit.sent.low }} to {{ fit.sent.high }} µs</dd>
      </dl>
      <p v-if="fit.lostLowDeg + fit.lostHighDeg > 0" class="lost">
        It does not all fit: {{ formatNumber(fit.lostLowDeg, 1) }}° are lost at the lower end,
        {{ formatNumber(fit.lostHighDeg, 1) }}° at the upper. Narrow the joint’s limits, widen the pulses if the servo
        takes it, or gear it.
      </p>
      <p class="row wrap">
        <Button size="small" severity="secondary" label="Apply this trim" @click="takeTrim(stands!)" />
        <Button
          v-if="fit.teeth !== 0"
          size="small"
          variant="text"
          label="It is on the other tooth now"
          @click="moved"
        />
      </p>
    </div>
    <div class="card">
      <label class="row small"
        ><input v-model="isClear" type="checkbox" /> The horns are off, fingers and cables are clear, the cut-off
        switch of the motor supply is within reach.</label
      >
      <div class="row wrap">
        <Button
          size="small"
          severity="danger"
          label="Arm and bring every motor to neutral"
          :disabled="!canSend || !isClear"
          data-moves
          @click="run.send({ type: 'arm', how: 'neutral' })"
        />
        <span class="muted small" role="status" :data-mode="run.status.mode">{{ neutralWords }}</span>
        <Button
          v-if="run.status.mode === 'neutral'"
          size="small"
          severity="secondary"
          label="Disarm"
          :disabled="!run.mayDrive"
          @click="run.send({ type: 'disarm' })"
        />
      </div>
    </div>
    <p class="muted small">
      Without a board: turn the shaft gently by hand to its end stop, go back by half its travel ({{
        formatNumber(servo.drive.travelDeg / 2, 0)
      }}°), and put the horn on there.
    </p>
  </template>
</template>

<style scoped>
ol {
  margin: 0.3rem 0 0.4rem;
  padding-left: 1.2rem;
}
.card {
  margin: 0.5rem 0;
}
.card label.row {
  gap: 0.4rem;
  margin-bottom: 0.4rem;
}
.fit {
  background: var(--pine-wash);
  border-left: 4px solid var(--pine);
  border-radius: 3px;
  padding: 0.6rem 0.8rem;
  margin: 0.5rem 0;
  display: grid;
  gap: 0.5rem;
  justify-items: start;
}
dl {
  display: grid;
  grid-template-columns: auto auto;
  gap: 0.15rem 1rem;
  margin: 0;
  font-size: 0.9rem;
}
dt {
  color: var(--ink-2);
}
dd {
  margin: 0;
}
.lost {
  color: var(--alarm);
}
</style>
