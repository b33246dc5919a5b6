<script setup lang="ts">
/** Two measured points of a servo, its trim, and the line through them. */
import Button from 'primevue/button';
import { computed, ref } from 'vue';
import { calibrationOf, resolutionOf, servoLine, trimOf } from '@cork-elbow/core/drives';
import { formatNumber } from '@cork-elbow/core/units';
import NumberField from '../../shared/NumberField.vue';
import { useRigStore } from '../../stores/rig';
import { useMotor } from './useMotor';

const rigs = useRigStore();
const { row: motorRow, onBuild } = useMotor();
const problem = ref('');
/** This page is for servos that turn one joint at a constant ratio. */
const row = computed(() => {
  const r = motorRow.value;
  return r?.drive?.kind === 'servo' && r.transmission?.kind === 'ratio'
    ? { ...r, drive: r.drive, transmission: r.transmission }
    : null;
});

// Two points: what was measured on this build, or, while nothing was, where the nominal line stands.
const reduction = computed(() => row.value?.transmission.reduction ?? 1);
const calibration = computed(() => (row.value?.drive ? calibrationOf(rigs.build!, row.value.drive.id) : undefined));
const points = computed(() => {
  const r = row.value;
  if (!r?.drive) return [];
  if (calibration.value)
    return calibration.value.points.slice(0, 2).map((p) => ({ at: p.at / reduction.value, us: p.us }));
  const line = servoLine(r.drive, rigs.build!);
  return [-45, 45].map((at) => ({ at: at / reduction.value, us: Math.round(line.atZeroUs + line.usPerDeg * at) }));
});
function setPoint(k: number, change: Partial<{ at: number; us: number }>): string | void {
  const { drive } = row.value!;
  const next = points.value
    .map((p, i) => (i === k ? { ...p, ...change } : p))
    .map((p) => ({ at: p.at * reduction.value, us: p.us }));
  return onBuild(`Points of ${drive.name}`, (build) => {
    const kept = build.calibrations.find((c) => c.drive === drive.id);
    const takenOn = new Date().toISOString().slice(0, 10);
    if (kept) Object.assign(kept, { points: [...next, ...kept.points.slice(2)], takenOn });
    else build.calibrations.push({ drive: drive.id, points: next, takenOn });
  });
}
function forget(): void {
  const { drive } = row.value!;
  problem.value =
    onBuild(
      `Forget the points of ${drive.name}`,
      (build) => void (build.calibrations = build.calibrations.filter((c) => c.drive !== drive.id)),
    ) ?? '';
}
const setTrim = (us: number): string | void =>
  onBuild(`Trim of ${row.value!.drive.name}`, (build) => void (build.trims[row.value!.drive.id] = us));
const resolution = computed(() =>
  row.value?.map ? resolutionOf(row.value.map, rigs.mechanism!.siPerUnit[row.value.info.slot]) : null,
);

// Graph of the line: joint range across, pulse range up.
const graph = computed(() => {
  const r = row.value;
  if (!r?.map || !r.drive) return null;
  const m = rigs.mechanism!;
  const unit = m.siPerUnit[r.info.slot];
  const [low, high] = [m.lower[r.info.slot], m.upper[r.info.slot]].map((v, i) =>
    Number.isFinite(v) ? v / unit : i ? 180 : -180,
  );
  const pad = (high - low) * 0.08;
  const [x0, x1] = [low - pad, high + pad];
  const [y0, y1] = [Math.min(r.drive.minUs, 500) - 100, Math.max(r.drive.maxUs, 2500) + 100];
  const px = (at: number): number => 46 + ((at - x0) / (x1 - x0)) * 260;
  const py = (us: number): number => 148 - ((us - y0) / (y1 - y0)) * 138;
  const us = (at: number): number => r.map!.offsetUs + r.map!.usPerSi * at * unit;
  return { px, py, low, high, us, minUs: r.drive.minUs, maxUs: r.drive.maxUs };
});
</script>

<template>
  <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
  <template v-if="row">
    <div class="two">
      <div class="stack tight">
        <span class="muted small"
          >Two points on <b>{{ rigs.build?.name }}</b>: send a pulse, measure the joint with a protractor{{
            calibration?.takenOn ? ` (last on ${calibration.takenOn})` : ''
          }}</span
        >
        <div v-for="(p, k) in points" :key="k" class="pair">
          <NumberField
            :prefix="`${k + 1}.`"
            :value="p.us"
            dimension="pulse"
            :decimals="0"
            :label="`Pulse of point ${k + 1}`"
            :min="1"
            :commit="(v: number) => setPoint(k, { us: v })"
          />
          <span aria-hidden="true">→</span>
          <NumberField
            :value="p.at"
            :dimension="row.info.unit === 'mm' ? 'length' : 'angle'"
            :decimals="1"
            :label="`Angle at point ${k + 1}`"
            :commit="(v: number) => setPoint(k, { at: v })"
          />
        </div>
        <div class="pair">
          <NumberField
            prefix="trim"
            :value="trimOf(rigs.build!, row.drive.id)"
            dimension="pulse"
            :decimals="0"
            label="Trim"
            :min="-500"
            :max="500"
            :commit="setTrim"
          />
          <span />
          <Button
            v-if="calibration"
            size="small"
            variant="text"
            severity="secondary"
            label="Forget points"
            @click="forget"
          />
        </div>
        <Button
          v-if="rigs.buildUndoLabel"
          size="small"
          variant="text"
          :label="`Take back: ${rigs.buildUndoLabel}`"
          @click="rigs.undo('build')"
        />
      </div>
      <svg
        v-if="graph"
        viewBox="0 0 316 176"
        class="drawing line"
        role="img"
        :aria-label="`Pulse over angle of ${row.info.name}`"
      >
        <rect
          :x="graph.px(graph.low)"
          y="10"
          :width="graph.px(graph.high) - graph.px(graph.low)"
          height="138"
          class="range"
        />
        <path class="grid axis" :d="`M46 ${graph.py(graph.minUs)}H306M46 ${graph.py(graph.maxUs)}H306`" />
        <text x="42" :y="graph.py(graph.minUs) + 4" text-anchor="end" class="grid-label">{{ graph.minUs }}</text>
        <text x="42" :y="graph.py(graph.maxUs) + 4" text-anchor="end" class="grid-label">{{ graph.maxUs }}</text>
        <text
          x="42"
          :y="(graph.py(graph.minUs) + graph.py(graph.maxUs)) / 2 + 4"
          text-anchor="end"
          class="grid-label"
        >
          µs
        </text>
        <path
          class="fit"
          :class="`j${(row.info.slot % 8) + 1}`"
          :d="`M${graph.px(graph.low)} ${graph.py(graph.us(graph.low))}L${graph.px(graph.high)} ${graph.py(graph.us(graph.high))}`"
        />
        <circle
          v-for="(p, k) in calibration ? points : []"
          :key="k"
          :cx="graph.px(p.at)"
          :cy="graph.py(p.us)"
          r="4.5"
          class="dot"
        />
        <circle :cx="graph.px(row.value)" :cy="graph.py(graph.us(row.value))" r="5" class="now" />
        <text :x="graph.px(graph.low)" y="163" text-anchor="middle" class="grid-label">
          {{ formatNumber(graph.low, 0) }}{{ row.info.unit }}
        </text>
        <text :x="graph.px(graph.high)" y="163" text-anchor="middle" class="grid-label">
          {{ formatNumber(graph.high, 0) }}{{ row.info.unit }}
        </text>
      </svg>
    </div>
    <p v-if="resolution && row.map" class="muted small">
      One µs turns {{ row.info.name }} by <b class="num">{{ formatNumber(resolution.perUs, 3) }}{{ row.info.unit }}</b
      >; a 12-bit driver at this rate steps by
      <b class="num">{{ formatNumber(resolution.perTick, 2) }}{{ row.info.unit }}</b
      >. Pulses sent: <b class="num">{{ row.map.lowUs }}</b> to <b class="num">{{ row.map.highUs }} µs</b>.
    </p>
  </template>
  <p v-else class="muted small">
    Points are measured for a servo that turns one joint at a constant ratio; choose such a joint above.
  </p>
</template>

<style scoped>
.caution {
  background: var(--caution-wash);
  border-left: 4px solid var(--caution);
  padding: 0.35rem 0.6rem;
  border-radius: 3px;
  font-size: 0.86rem;
  margin-bottom: 0.5rem;
}
.problem {
  color: var(--alarm);
}
.motors tr {
  cursor: pointer;
}
.nowrap {
  white-space: nowrap;
}
.model {
  max-width: 8.6rem;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.line .grid-label {
  font-size: 15px;
}
.chosen {
  background: var(--pine-wash);
}
.good {
  color: var(--good);
}
.pick {
  display: inline-flex;
  align-items: center;
  gap: 0.4rem;
  border: 0;
  background: none;
  padding: 0;
  cursor: pointer;
  font-weight: 600;
}
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 205px;
  gap: 0.8rem;
  margin: 0.5rem 0;
  align-items: center;
}
.tight {
  gap: 0.4rem;
}
.pair {
  display: grid;
  grid-template-columns: 1fr 1.2rem 1fr;
  align-items: center;
  gap: 0.2rem;
  text-align: center;
}
.line {
  height: auto;
}
.range {
  fill: var(--reach);
}
.fit {
  stroke: var(--jc);
  stroke-width: 2.5;
  fill: none;
}
.dot {
  fill: var(--paper);
  stroke: var(--ink);
  stroke-width: 2;
}
.now {
  fill: var(--cork);
}
.form {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 0.4rem 0.5rem;
  margin: 0.4rem 0;
  align-items: end;
}
.form label {
  display: grid;
  gap: 0.1rem;
  font-size: 0.82rem;
  color: var(--ink-2);
}
.name {
  grid-column: span 2;
}
.none {
  padding: 0.8rem 0;
}
</style>
