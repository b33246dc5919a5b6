<script setup lang="ts">
/** What ties the joint to its motor: a ratio, a horn with a rod, a table, or several motors for as many joints. */
import Button from 'primevue/button';
import { computed, ref } from 'vue';
import { couplingOf } from '@cork-elbow/core/transmissions';
import { driveSpeed, geared } from '@cork-elbow/core/actuators';
import type { Transmission } from '@cork-elbow/core/rig';
import { formatNumber } from '@cork-elbow/core/units';
import ChoiceField from '../../shared/ChoiceField.vue';
import NumberField from '../../shared/NumberField.vue';
import { useRigStore } from '../../stores/rig';
import GearTrain from './GearTrain.vue';
import MixTable from './MixTable.vue';
import PushRods from './PushRods.vue';
import RatioCurve from './RatioCurve.vue';
import { useMotor } from './useMotor';
import { inUnit } from '@cork-elbow/core/mechanism';

type Kind = Transmission['kind'];
const rigs = useRigStore();
const { row, rows, commit, onTie } = useMotor();
const problem = ref('');
const tie = computed(() => row.value?.transmission);
const unit = computed(() => row.value!.info.unit);

const kinds: { value: Kind; label: string }[] = [
  { value: 'ratio', label: 'straight, at a constant ratio' },
  { value: 'four-bar', label: 'horn, rod and lever (four-bar)' },
  { value: 'table', label: 'a measured table' },
  { value: 'matrix', label: 'motors mixing to as many joints' },
  { value: 'tilt-plate', label: 'plate tilted by two push rods' },
];
const needsTwo = (kind: Kind): boolean => kind === 'matrix' || kind === 'tilt-plate';
/** Joints that could share motors with this one: driven alone, at a ratio. */
const partners = computed(() =>
  rows.value.flatMap((r) =>
    r.transmission?.kind === 'ratio' && r.info.id !== row.value!.info.id
      ? [{ value: r.info.id, label: r.info.name }]
      : [],
  ),
);
const partner = ref<string | null>(null);
const wished = ref<Kind | null>(null);

/** Limits (document units) of the joint, half a turn where it has none. */
const range = computed(() => {
  const m = rigs.mechanism!;
  const { slot } = row.value!.info;
  const open = (v: number, k: number): number =>
    Number.isFinite(v) ? inUnit(m, slot, v) : (k ? 1 : -1) * (unit.value === 'mm' ? 50 : 90);
  return [open(m.lower[slot], 0), open(m.upper[slot], 1)] as const;
});

function setKind(kind: Kind): void {
  problem.value = '';
  wished.value = null;
  const now = tie.value!;
  if (kind === now.kind) return;
  if (needsTwo(kind)) {
    if (now.kind !== 'ratio') problem.value = 'First take a constant ratio, then join it with another joint.';
    else if (!partners.value.length) problem.value = 'Another joint with a motor of its own is needed for that.';
    else wished.value = kind;
    return;
  }
  const { id } = now;
  const joint = row.value!.info.id;
  const drive = row.value!.drive!.id;
  const [low, high] = range.value;
  const next: Transmission =
    kind === 'four-bar'
      ? {
          id,
          kind,
          joints: [joint],
          drives: [drive],
          crankMm: 18,
          couplerMm: 60,
          rockerMm: 24,
          groundMm: 60,
          crankZeroDeg: 90,
          rockerZeroDeg: 90,
          branch: 1,
          marginDeg: 15,
        }
      : kind === 'table'
        ? {
            id,
            kind,
            joints: [joint],
            drives: [drive],
            points: [low, (low + high) / 2, high].map((v) => ({ driveDeg: Math.round(v), joints: [Math.round(v)] })),
          }
        : { id, kind: 'ratio', joints: [joint], drives: [drive], reduction: 1 };
  replace(next, now.joints.slice(1), now.drives.slice(1));
}
/** Puts a transmission in place of the present one; joints and drives that it lets go of get a straight one each. */
function replace(next: Transmission, freeJoints: readonly string[], freeDrives: readonly string[]): void {
  problem.value =
    commit(`Transmission of ${row.value!.info.name}`, (draft) => {
      const k = draft.transmissions.findIndex((t) => t.id === next.id);
      // What is lost on the way is lost by the same teeth and belts.
      const { efficiency } = draft.transmissions[k];
      draft.transmissions[k] = efficiency === undefined ? next : { ...next, efficiency };
      freeJoints.forEach((joint, i) => {
        const drive = freeDrives[i];
        if (drive !== undefined)
          draft.transmissions.push({
            id: `${next.id}-${i + 2}`,
            kind: 'ratio',
            joints: [joint],
            drives: [drive],
            reduction: 1,
          });
      });
    }) ?? '';
}
function join(): void {
  const own = tie.value!;
  const other = rows.value.find((r) => r.info.id === partner.value)?.transmission;
  if (own.kind !== 'ratio' || other?.kind !== 'ratio' || !wished.value) return;
  const joints: [string, string] = [own.joints[0], other.joints[0]];
  const drives: [string, string] = [own.drives[0], other.drives[0]];
  const rod = (side: 1 | -1) => ({
    atMm: [40, side * 25, -60] as [number, number, number],
    axis: [0, 1, 0] as [number, number, number],
    along: [1, 0, 0] as [number, number, number],
    hornMm: 16,
    rodMm: 60,
    plateMm: [56, side * 25, 0] as [number, number, number],
  });
  const next: Transmission =
    wished.value === 'matrix'
      ? {
          id: own.id,
          kind: 'matrix',
          joints,
          drives,
          matrix: [
            [own.reduction, 0],
            [0, other.reduction],
          ],
        }
      : { id: own.id, kind: 'tilt-plate', joints, drives, rods: [rod(1), rod(-1)] };
  problem.value =
    commit(`Join ${row.value!.info.name} with another joint`, (draft) => {
      draft.transmissions = draft.transmissions.filter((t) => t.id !== other.id);
      draft.transmissions[draft.transmissions.findIndex((t) => t.id === own.id)] = next;
    }) ?? '';
  wished.value = null;
}
function part(): void {
  const now = tie.value!;
  if (now.kind !== 'matrix' && now.kind !== 'tilt-plate') return;
  const ratio = (k: number): number => (now.kind === 'matrix' ? now.matrix[k][k] || 1 : 1);
  replace(
    { id: now.id, kind: 'ratio', joints: [now.joints[0]], drives: [now.drives[0]], reduction: ratio(0) },
    now.joints.slice(1),
    now.drives.slice(1),
  );
}

/** All of it is not written down. */
const setEfficiency = (percent: number): string | void =>
  onTie('Losses', (t) => {
    if (percent < 100) t.efficiency = percent / 100;
    else delete t.efficiency;
  });
const set = (key: string, label: string, v: number): string | void =>
  onTie(label, (t) => void Object.assign(t, { [key]: v }));
const lengths = [
  { key: 'crankMm', label: 'Horn', prefix: 'horn' },
  { key: 'couplerMm', label: 'Rod', prefix: 'rod' },
  { key: 'rockerMm', label: 'Lever', prefix: 'lever' },
  { key: 'groundMm', label: 'Pivot to pivot', prefix: 'pivots' },
] as const;
const angles = [
  { key: 'crankZeroDeg', label: 'Horn at motor zero', prefix: 'horn at 0' },
  { key: 'rockerZeroDeg', label: 'Lever at joint zero', prefix: 'lever at 0' },
  { key: 'marginDeg', label: 'Margin to dead points', prefix: 'margin' },
] as const;
const nameOf = (id: string): string => rows.value.find((r) => r.info.id === id)?.info.name ?? id;

// ── What it comes to ──────────────────────────────────────────────────────────────────────────────────────────────
const coupling = computed(() => {
  const built = tie.value && couplingOf(tie.value);
  return built?.ok ? built.coupling : null;
});
const isSingle = computed(() => tie.value?.joints.length === 1 && tie.value.drives.length === 1);
const ends = computed(() =>
  isSingle.value && coupling.value ? range.value.map((v) => coupling.value!.toDrives([v])?.[0] ?? null) : null,
);
const ratioAt = (joint: number): number | null => coupling.value?.rates([joint])?.[0]?.[0] ?? null;
const says = computed(() => {
  const r = row.value;
  if (!coupling.value || !r?.drive || !isSingle.value || !ends.value) return '';
  const [a, b] = ends.value;
  const u = unit.value === 'mm' ? ' mm' : '°';
  const slope = ratioAt(r.value);
  const speed =
    slope === null
      ? ''
      : ` Here the joint makes at most ${formatNumber(Math.abs(slope) * driveSpeed(r.drive), 1)}${u}/s.`;
  if (a === null || b === null)
    return `Only part of the joint’s range ${formatNumber(range.value[0], 0)} to ${formatNumber(range.value[1], 0)}${u} can be reached: the linkage comes too near a dead point.${speed}`;
  return `The joint’s range takes the motor from ${formatNumber(Math.min(a, b), 1)}° to ${formatNumber(Math.max(a, b), 1)}°.${speed}`;
});
/** A servo behind its ratio as one motor: what a gear does to travel, speed, torque and fineness together. */
const seen = computed(() => {
  const r = row.value;
  if (tie.value?.kind !== 'ratio' || r?.drive?.kind !== 'servo' || unit.value === 'mm') return '';
  const { travelDeg, speedDegPerS, stallNm, usPerDeg } = geared(r.drive, Math.abs(tie.value.reduction));
  const torque = stallNm ? `, ${formatNumber(stallNm, 2)} N·m at stall without losses` : '';
  return `Seen from the joint: travel ${formatNumber(travelDeg, 0)}°, ${formatNumber(speedDegPerS, 0)}°/s${torque}, ${formatNumber(1 / usPerDeg, 3)}° for a µs.`;
});
// ── Table rows ────────────────────────────────────────────────────────────────────────────────────────────────────
function setCell(k: number, change: (p: { driveDeg: number; joints: number[] }) => void): string | void {
  return onTie('Table', (t) => t.kind === 'table' && change(t.points[k]));
}
function addRow(): void {
  problem.value =
    onTie('Add to the table', (t) => {
      if (t.kind !== 'table') return;
      const last = t.points.at(-1)!;
      const step = Math.sign(last.joints[0] - t.points[0].joints[0]) * 10;
      t.points.push({ driveDeg: last.driveDeg + 10, joints: last.joints.map((v) => v + step) });
    }) ?? '';
}
function dropRow(k: number): void {
  problem.value = onTie('Take from the table', (t) => t.kind === 'table' && void t.points.splice(k, 1)) ?? '';
}
</script>

<template>
  <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
  <template v-if="tie">
    <div class="form">
      <ChoiceField
        label="kind"
        name="Kind of transmission"
        class="wide"
        :options="kinds"
        :value="tie.kind"
        @change="setKind($event as Kind)"
      />
      <NumberField
        prefix="work that arrives"
        :value="100 * (tie.efficiency ?? 1)"
        dimension="share"
        label="Share of the motor’s work that arrives"
        :min="1"
        :max="100"
        :commit="setEfficiency"
      />
      <Button
        v-if="tie.kind === 'matrix' || tie.kind === 'tilt-plate'"
        size="small"
        severity="secondary"
        label="Part them again"
        @click="part"
      />
    </div>
    <div v-if="wished" class="form">
      <ChoiceField
        label="together with"
        name="Other joint"
        placeholder="choose"
        :options="partners"
        :value="partner"
        @change="partner = String($event)"
      />
      <Button size="small" label="Join the two" :disabled="!partner" @click="join" />
      <Button size="small" variant="text" label="Leave it" @click="wished = null" />
    </div>

    <template v-if="tie.kind === 'ratio'">
      <div class="form">
        <NumberField
          prefix="ratio"
          :value="tie.reduction"
          dimension="ratio"
          label="Reduction"
          :commit="(v: number) => set('reduction', 'Reduction', v)"
        />
        <NumberField
          v-if="unit === 'mm'"
          prefix="a turn is"
          :value="360 / tie.reduction"
          dimension="length"
          :decimals="3"
          label="Way per turn of the motor"
          :commit="
            (v: number) =>
              v === 0 ? 'A turn of the motor has to move the slide.' : set('reduction', 'Reduction', 360 / v)
          "
        />
        <p v-else class="muted small">degrees of the motor per degree of the joint</p>
      </div>
      <GearTrain :unit :reduction="tie.reduction" @take="problem = set('reduction', 'Reduction', $event) ?? ''" />
    </template>

    <template v-else-if="tie.kind === 'four-bar'">
      <div class="form">
        <NumberField
          v-for="l in lengths"
          :key="l.key"
          :prefix="l.prefix"
          :value="tie[l.key]"
          dimension="length"
          :decimals="1"
          :label="l.label"
          :min="1"
          :commit="(v: number) => set(l.key, l.label, v)"
        />
        <NumberField
          v-for="a in angles"
          :key="a.key"
          :prefix="a.prefix"
          :value="tie[a.key]"
          dimension="angle"
          :decimals="1"
          :label="a.label"
          :commit="(v: number) => set(a.key, a.label, v)"
        />
        <ChoiceField
          label=""
          name="How it is assembled"
          :options="[
            { value: 1, label: 'rod’s end on the left' },
            { value: -1, label: 'rod’s end on the right' },
          ]"
          :value="tie.branch"
          @change="set('branch', 'Assembly', $event as number)"
        />
      </div>
      <p class="muted small">
        Angles from the line that joins both pivots, seen along the joint’s axis. Keep fingers out of the linkage.
      </p>
    </template>

    <table v-else-if="tie.kind === 'table'" class="plain narrow">
      <thead>
        <tr>
          <th>motor</th>
          <th v-for="j in tie.joints" :key="j">{{ nameOf(j) }}</th>
          <th></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(p, k) in tie.points" :key="k">
          <td>
            <NumberField
              :value="p.driveDeg"
              dimension="angle"
              :decimals="2"
              :label="`Motor at row ${k + 1}`"
              :commit="(v: number) => setCell(k, (c) => (c.driveDeg = v))"
            />
          </td>
          <td v-for="(v, j) in p.joints" :key="j">
            <NumberField
              :value="v"
              :dimension="unit === 'mm' ? 'length' : 'angle'"
              :decimals="2"
              :label="`${nameOf(tie.joints[j])} at row ${k + 1}`"
              :commit="(w: number) => setCell(k, (c) => (c.joints[j] = w))"
            />
          </td>
          <td>
            <Button
              v-if="tie.points.length > 2"
              size="small"
              variant="text"
              severity="secondary"
              label="×"
              :aria-label="`Delete row ${k + 1}`"
              @click="dropRow(k)"
            />
          </td>
        </tr>
      </tbody>
    </table>
    <Button v-if="tie.kind === 'table'" size="small" variant="text" label="Add a row" @click="addRow" />

    <MixTable v-else-if="tie.kind === 'matrix'" :tie :partners />

    <PushRods v-else-if="tie.kind === 'tilt-plate'" :tie />

    <p v-if="says" class="small says" :data-fits="ends?.includes(null) ? 'part' : 'all'">{{ says }}</p>
    <p v-if="seen" class="muted small" data-seen>{{ seen }}</p>
    <RatioCurve
      v-if="coupling?.domain && isSingle"
      :coupling
      :unit
      :value="row!.value"
      :joint-class="`j${(row!.info.slot % 8) + 1}`"
    />
    <p v-if="tie.kind === 'four-bar'" class="muted small">
      Beyond both ends the linkage comes within {{ formatNumber(tie.marginDeg, 0) }}° of a dead point and is not used.
    </p>
  </template>
</template>

<style scoped>
.wide {
  grid-column: span 2;
}
.narrow td {
  padding-block: 0.2rem;
}
.says {
  margin: 0.5rem 0;
}
</style>
