<script setup lang="ts">
/** A continuous servo: the pulse at which it stands, and its speed at six pulses each way. */
import Button from 'primevue/button';
import { computed, ref } from 'vue';
import { entryOf, type DriveOf } from '@cork-elbow/core/rig';
import NumberField from '../../../shared/NumberField.vue';
import { today } from '../../../shared/today';
import { useRigStore } from '../../../stores/rig';
import { useMotor } from '../useMotor';
import { useOneMotor } from '../useOneMotor';

const rigs = useRigStore();
const { row, onBuild } = useMotor();
const problem = ref('');
const { isOn, sent, send } = useOneMotor();
const drive = computed(() => row.value!.drive as DriveOf<'continuous-servo'>);
const speeds = computed(() => entryOf(rigs.build!.speeds, drive.value.id));
const stop = computed(() => speeds.value?.stopUs ?? drive.value.stopUs);
/** Six pulses each way, spread to the one of full speed, by what the figures say where nothing was measured. */
const SIX = 6;
const rows = computed(() =>
  [-1, 1].flatMap((way) =>
    Array.from({ length: SIX }, (_, k) => {
      const n = way < 0 ? SIX - k : k + 1;
      const us = Math.round(stop.value + (way * n * drive.value.fullUs) / SIX);
      const measured = speeds.value?.points.find((p) => p.us === us);
      return { us, degPerS: measured?.degPerS ?? null };
    }),
  ),
);
const setStop = (us: number): string | void =>
  onBuild(`Stop pulse of ${drive.value.name}`, (build) => {
    build.speeds[drive.value.id] = {
      points: speeds.value?.points.map((p) => ({ ...p })) ?? [],
      stopUs: us,
      takenOn: today(),
    };
  });
const setSpeed = (us: number, degPerS: number): string | void =>
  onBuild(`Speed at ${us} µs`, (build) => {
    const before = build.speeds[drive.value.id] ?? { stopUs: stop.value, points: [], takenOn: '' };
    build.speeds[drive.value.id] = {
      ...before,
      points: [...before.points.filter((p) => p.us !== us), { us, degPerS }].sort((a, b) => a.us - b.us),
      takenOn: today(),
    };
  });
function forget(): void {
  problem.value = onBuild('Forget the speeds', (build) => void delete build.speeds[drive.value.id]) ?? '';
}
const nominal = (us: number): number =>
  Math.round(((us - stop.value) / drive.value.fullUs) * drive.value.speedDegPerS) * drive.value.direction;
const W = 300;
const H = 120;
const graph = computed(() => {
  const top = Math.max(drive.value.speedDegPerS, ...(speeds.value?.points ?? []).map((p) => Math.abs(p.degPerS)));
  const full = drive.value.fullUs;
  const x = (us: number): number => 30 + ((us - stop.value + full) / (2 * full)) * (W - 40);
  const y = (v: number): number => H / 2 - (v / top) * (H / 2 - 10);
  return {
    x,
    y,
    line: `M${x(stop.value - full)} ${y(nominal(stop.value - full))}L${x(stop.value + full)} ${y(nominal(stop.value + full))}`,
  };
});
</script>

<template>
  <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
  <p class="muted small">
    Find the pulse at which it just stands, coming from both sides. Then count turns at each pulse for ten seconds and
    type the speed; keep fingers away from what it turns.
  </p>
  <div class="form">
    <NumberField
      prefix="stands at"
      :value="stop"
      dimension="pulse"
      :decimals="0"
      label="Stop pulse measured"
      :min="1"
      :commit="setStop"
    />
    <Button
      v-if="isOn && sent !== null"
      size="small"
      severity="secondary"
      :label="`It stands at ${sent} µs`"
      :disabled="sent === stop"
      @click="problem = setStop(sent!) ?? ''"
    />
  </div>
  <div class="two">
    <table class="plain">
      <thead>
        <tr>
          <th class="r">pulse</th>
          <th class="r">by the figures</th>
          <th>measured</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="r in rows" :key="r.us">
          <td class="r num nowrap">
            <Button
              v-if="isOn"
              size="small"
              variant="text"
              label="Send"
              :aria-label="`Send ${r.us} µs`"
              @click="send(r.us)"
            />
            {{ r.us }} µs
          </td>
          <td class="r num muted">{{ nominal(r.us) }} °/s</td>
          <td>
            <NumberField
              :value="r.degPerS ?? nominal(r.us)"
              dimension="angularSpeed"
              :decimals="0"
              :label="`Speed at ${r.us} µs`"
              :commit="(v: number) => setSpeed(r.us, v)"
            />
          </td>
        </tr>
      </tbody>
    </table>
    <svg :viewBox="`0 0 ${W} ${H}`" class="drawing" role="img" aria-label="Speed over pulse">
      <path class="grid axis" :d="`M30 ${H / 2}H${W - 10}M${graph.x(stop)} 5V${H - 5}`" />
      <path class="nominal" :d="graph.line" />
      <circle
        v-for="p in speeds?.points ?? []"
        :key="p.us"
        :cx="graph.x(p.us)"
        :cy="graph.y(p.degPerS)"
        r="4"
        class="dot"
      />
    </svg>
  </div>
  <Button v-if="speeds" size="small" variant="text" severity="secondary" label="Forget the speeds" @click="forget" />
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: minmax(0, 1.3fr) 1fr;
  gap: 0.8rem;
  align-items: start;
}
table.plain td {
  padding: 0.08rem 0.25rem;
}
svg {
  width: 100%;
  height: auto;
}
.nominal {
  stroke: var(--ink-3);
  stroke-dasharray: 4 3;
  fill: none;
}
.dot {
  fill: var(--cork);
}
</style>
