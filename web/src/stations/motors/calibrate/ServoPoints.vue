<script setup lang="ts">
/** The measured points of a servo, how well they agree, its trim, and the map through them. */
import { IconArrowBarToLeft } from '@tabler/icons-vue';
import Button from 'primevue/button';
import { computed, ref } from 'vue';
import {
  calibrationOf,
  exactNative,
  farPoints,
  fromNative,
  fitCalibration,
  nativeAt,
  resolutionAt,
  servoLine,
  TICKS,
  trimOf,
} from '@cork-elbow/core/actuators';
import { formatNumber } from '@cork-elbow/core/units';
import ChoiceField from '../../../shared/ChoiceField.vue';
import IconButton from '../../../shared/IconButton.vue';
import NumberField from '../../../shared/NumberField.vue';
import { today } from '../../../shared/today';
import { useRigStore } from '../../../stores/rig';
import { useViewStore } from '../../../stores/view';
import { useMotor } from '../useMotor';
import { useOneMotor } from '../useOneMotor';

const rigs = useRigStore();
const view = useViewStore();
const { row: motorRow, onBuild } = useMotor();
const problem = ref('');
/** The pulse that the motor has been sent, while it is on alone. */
const { isOn, sent } = useOneMotor();
/** This page is for servos that turn one joint at a constant ratio. */
const row = computed(() => {
  const r = motorRow.value;
  return r?.drive?.kind === 'servo' && r.transmission?.kind === 'ratio'
    ? { ...r, drive: r.drive, transmission: r.transmission }
    : null;
});

const reduction = computed(() => row.value?.transmission.reduction ?? 1);
const calibration = computed(() => (row.value?.drive ? calibrationOf(rigs.build!, row.value.drive.id) : undefined));
interface Point {
  readonly at: number;
  readonly us: number;
  readonly from?: 'below' | 'above';
}
/** In the joint's unit: what was measured on this build, or, while nothing was, where the nominal line stands. */
const points = computed((): readonly Point[] => {
  const r = row.value;
  if (!r?.drive) return [];
  if (calibration.value) return calibration.value.points.map((p) => ({ ...p, at: p.at / reduction.value }));
  const line = servoLine(r.drive, rigs.build!);
  return [-45, 45].map((at) => ({ at: at / reduction.value, us: Math.round(line.atZeroUs + line.usPerDeg * at) }));
});
const fit = computed(() => (calibration.value ? fitCalibration(calibration.value) : null));
function keep(label: string, next: readonly Point[], how = calibration.value?.fit ?? 'line'): string | void {
  const { drive } = row.value!;
  return onBuild(`${label} of ${drive.name}`, (build) => {
    const kept = build.calibrations.find((c) => c.drive === drive.id);
    const takenOn = today();
    const taken = { points: next.map((p) => ({ ...p, at: p.at * reduction.value })), takenOn, fit: how };
    if (kept) Object.assign(kept, taken);
    else build.calibrations.push({ drive: drive.id, ...taken });
  });
}
const setPoint = (k: number, change: Partial<Point>): string | void =>
  keep(
    'Points',
    points.value.map((p, i) => (i === k ? { ...p, ...change } : p)),
  );
const setFrom = (k: number, from: unknown): void => {
  problem.value =
    keep(
      'Points',
      points.value.map(({ at, us, ...rest }, i) =>
        i !== k ? { at, us, ...rest } : from === 'below' || from === 'above' ? { at, us, from } : { at, us },
      ),
    ) ?? '';
};
/** The pose on show becomes a reading: its pulse, and the angle to be corrected by what the protractor says. */
function addPoint(): void {
  const r = row.value!;
  const us = (r.driveMap && nativeAt(r.driveMap, rigs.mechanism!, view.q)) ?? r.drive.centreUs;
  const at = Math.round(r.value * 10) / 10;
  problem.value = keep('Another point', [...points.value, { at, us }]) ?? '';
}
/** What the motor was sent becomes a reading; its angle is to be typed as the protractor says. */
function addSent(): void {
  const r = row.value!;
  const us = sent.value!;
  const at = r.driveMap ? Math.round((fromNative(r.driveMap.native, us) / reduction.value) * 10) / 10 : 0;
  problem.value = keep('Another point', [...points.value, { at, us }]) ?? '';
}
function dropPoint(k: number): void {
  problem.value =
    keep(
      'One point less',
      points.value.filter((_, i) => i !== k),
    ) ?? '';
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
const resolution = computed(() => {
  const map = row.value?.driveMap;
  const perUs = map ? resolutionAt(map, rigs.mechanism!, view.q)?.[0] : undefined;
  return perUs === undefined ? null : { perUs, perTick: (perUs * (1e6 / row.value!.drive.updateHz)) / TICKS };
});
const off = (k: number): number => (fit.value ? fit.value.offDeg[k] / Math.abs(reduction.value) : 0);
const told = computed(() => {
  const f = fit.value;
  const r = row.value;
  if (!f || !r || points.value.length < 3) return '';
  const u = r.info.unit;
  const own = (v: number): string => `${formatNumber(v / Math.abs(reduction.value), 2)}${u}`;
  const parts = [`Readings agree within ${own(f.rmsDeg)} (worst ${own(f.worstDeg)}).`];
  if (f.backlashDeg !== null) parts.push(`Backlash ${own(f.backlashDeg)} between both ways.`);
  if (f.outliers.length)
    parts.push(
      `The others speak against ${f.outliers.length > 1 ? 'points' : 'point'} ${f.outliers.map((k) => k + 1).join(', ')}: measure again.`,
    );
  return parts.join(' ');
});
/** What is far from where the motor's figures put it, said as soon as it is typed. */
const doubts = computed(() => {
  const r = row.value;
  if (!r || !calibration.value) return [];
  return farPoints(r.drive, calibration.value.points).map(
    ({ index, byDeg }) =>
      `Point ${index + 1} is ${formatNumber(Math.abs(byDeg / reduction.value), 0)}${r.info.unit} from where the motor’s figures put it. Check the reading, or the pulse; or its figures are of another motor.`,
  );
});
const froms = [
  { value: ':any', label: 'any way' },
  { value: 'below', label: 'from below' },
  { value: 'above', label: 'from above' },
];

/** What each reading is off, over the joint's range: a pattern in it says that a straight line is not enough. */
const residuals = computed(() => {
  const f = fit.value;
  const g = graph.value;
  if (!f || !g || points.value.length < 3) return null;
  const values = points.value.map((_, k) => off(k));
  const top = Math.max(0.1, ...values.map(Math.abs));
  return { top, dots: points.value.map((p, k) => ({ x: g.px(p.at), y: 30 - (values[k] / top) * 22, k })) };
});

// Graph of the line: joint range across, pulse range up.
const graph = computed(() => {
  const r = row.value;
  if (!r?.driveMap) return null;
  const { native } = r.driveMap;
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
  const us = (at: number): number => exactNative(native, at * r.transmission.reduction);
  const steps = Array.from({ length: 49 }, (_, k) => low + ((high - low) * k) / 48);
  const line = steps.map((at, k) => `${k ? 'L' : 'M'}${px(at).toFixed(1)} ${py(us(at)).toFixed(1)}`).join('');
  return { px, py, low, high, us, line, minUs: r.drive.minUs, maxUs: r.drive.maxUs };
});
</script>

<template>
  <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
  <template v-if="row">
    <p class="muted small">
      Points on <b>{{ rigs.build?.name }}</b>: send a pulse, measure the joint with a protractor, type both{{
        calibration?.takenOn ? ` (last on ${calibration.takenOn})` : ''
      }}.
    </p>
    <table class="plain readings">
      <thead>
        <tr>
          <th></th>
          <th>pulse</th>
          <th>joint stands at</th>
          <th>came there</th>
          <th class="r">off</th>
          <th></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(p, k) in points" :key="k" :class="{ odd: fit?.outliers.includes(k) }">
          <td class="num muted">{{ k + 1 }}</td>
          <td>
            <span class="pulse"
              ><NumberField
                :value="p.us"
                dimension="pulse"
                :decimals="0"
                :label="`Pulse of point ${k + 1}`"
                :min="1"
                :commit="(v: number) => setPoint(k, { us: v })" />
              <IconButton
                v-if="isOn && sent !== null"
                :icon="IconArrowBarToLeft"
                :label="`Point ${k + 1} takes the pulse sent`"
                :title="`Take the ${sent} µs that it has been sent`"
                @click="problem = setPoint(k, { us: sent! }) ?? ''"
            /></span>
          </td>
          <td>
            <NumberField
              :value="p.at"
              :dimension="row.info.unit === 'mm' ? 'length' : 'angle'"
              :decimals="1"
              :label="`Angle at point ${k + 1}`"
              :commit="(v: number) => setPoint(k, { at: v })"
            />
          </td>
          <td>
            <ChoiceField
              label=""
              :name="`Way to point ${k + 1}`"
              :options="froms"
              :value="p.from ?? ':any'"
              @change="setFrom(k, $event)"
            />
          </td>
          <td class="r num">{{ points.length > 2 ? `${formatNumber(off(k), 2)}${row.info.unit}` : '–' }}</td>
          <td class="r">
            <Button
              v-if="calibration && points.length > 2"
              size="small"
              variant="text"
              severity="secondary"
              label="×"
              :aria-label="`Delete point ${k + 1}`"
              @click="dropPoint(k)"
            />
          </td>
        </tr>
      </tbody>
    </table>
    <div class="row wrap">
      <Button
        v-if="isOn && sent !== null"
        size="small"
        :label="`Add a point at ${formatNumber(sent, 0)} µs`"
        @click="addSent"
      />
      <Button v-else size="small" severity="secondary" label="Add the pose on show" @click="addPoint" />
      <ChoiceField
        v-if="points.length > 2"
        label=""
        name="Kind of map"
        :options="[
          { value: 'line', label: 'one straight line' },
          { value: 'monotone', label: 'pieces that rise throughout' },
        ]"
        :value="calibration?.fit ?? 'line'"
        @change="problem = keep('Kind of map', points, $event as 'line') ?? ''"
      />
      <Button
        v-if="calibration"
        size="small"
        variant="text"
        severity="secondary"
        label="Forget points"
        @click="forget"
      />
    </div>
    <p v-for="doubt in doubts" :key="doubt" class="small doubt" role="status" data-doubt>{{ doubt }}</p>
    <p v-if="told" class="small told" role="status" :data-outliers="fit?.outliers.length">{{ told }}</p>
    <div class="two">
      <div class="stack tight">
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
        <path class="fit" :class="`j${(row.info.slot % 8) + 1}`" :d="graph.line" />
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
    <svg
      v-if="residuals"
      viewBox="0 0 316 60"
      class="drawing residuals"
      role="img"
      aria-label="What each reading is off"
    >
      <path class="grid axis" d="M46 30H306" />
      <text x="42" y="12" text-anchor="end" class="grid-label">
        +{{ formatNumber(residuals.top, 1) }}{{ row.info.unit }}
      </text>
      <text x="42" y="56" text-anchor="end" class="grid-label">
        −{{ formatNumber(residuals.top, 1) }}{{ row.info.unit }}
      </text>
      <g v-for="dot in residuals.dots" :key="dot.k">
        <path class="grid axis" :d="`M${dot.x} 30V${dot.y}`" />
        <circle :cx="dot.x" :cy="dot.y" r="4" :class="fit?.outliers.includes(dot.k) ? 'now' : 'dot'" />
      </g>
    </svg>
    <p v-if="resolution && row.driveMap" class="muted small">
      One µs turns {{ row.info.name }} by <b class="num">{{ formatNumber(resolution.perUs, 3) }}{{ row.info.unit }}</b
      >; a 12-bit driver at this rate steps by
      <b class="num">{{ formatNumber(resolution.perTick, 2) }}{{ row.info.unit }}</b
      >. Pulses sent for its range: <b class="num">{{ row.driveMap.native.low }}</b> to
      <b class="num">{{ row.driveMap.native.high }} µs</b>.
    </p>
  </template>
  <p v-else class="muted small">
    Points are measured for a servo that turns one joint at a constant ratio; choose such a joint above.
  </p>
</template>

<style scoped>
.doubt {
  color: var(--caution);
}
.readings td {
  padding: 0.14rem 0.2rem;
}
.readings td:nth-child(2),
.readings td:nth-child(3) {
  width: 6.2rem;
}
.readings td:nth-child(4) {
  width: 8rem;
}
.pulse {
  display: flex;
  align-items: center;
}
.odd {
  background: var(--caution-wash);
}
.told {
  margin: 0.4rem 0;
}
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 225px;
  gap: 0.8rem;
  margin: 0.5rem 0;
  align-items: start;
}
.tight {
  gap: 0.4rem;
}
.line {
  height: auto;
}
.line .grid-label {
  font-size: 15px;
}
.residuals {
  width: 225px;
  height: auto;
  margin-left: auto;
  display: block;
}
.residuals .grid-label {
  font-size: 13px;
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
</style>
