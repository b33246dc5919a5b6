<script setup lang="ts">
/** Length advice: ranges in, the smallest arm that reaches all work spots out, applied as one edit. */
import Button from 'primevue/button';
import { computed, ref, watch } from 'vue';
import { vec3, type Vec3 } from '@cork-elbow/core/linear';
import { deltaMeasures, lengthNow, withLengths, type LengthRange } from '@cork-elbow/core/reach';
import { jointName } from '@cork-elbow/core/rig';
import { formatNumber, toM } from '@cork-elbow/core/units';
import NumberField from '../../shared/NumberField.vue';
import { useJob } from '../../shared/useJob';
import { useOverlay } from '../../shared/useOverlay';
import { useRigStore } from '../../stores/rig';
import SpotTable from './SpotTable.vue';
import { useReach } from './useReach';
import { measureNames } from './words';

const rigs = useRigStore();
const { tool } = useReach();

interface Row extends LengthRange {
  readonly name: string;
}
/** Shortest distance (mm) that counts as a length. */
const LEAST = 8;
/** What could change: every length on the way to the tool, and where the base stands. */
const candidates = computed((): Row[] => {
  const { rig, mechanism } = rigs;
  const { value: end } = tool;
  if (!rig || !mechanism || !end) return [];
  const { mechanism: doc } = rig;
  const range = (now: number): { min: number; max: number } => ({
    min: Math.round(Math.max(10, 0.4 * now)),
    max: Math.round(1.6 * now + 20),
  });
  const named = (id: string | null): string => {
    const joint = doc.joints.find((j) => j.id === id);
    return joint ? jointName(joint) : id === null ? 'Base' : 'Platform';
  };
  const rows: Row[] = [];
  const add = (of: LengthRange['of'], id: string, name: string): void => {
    const now = lengthNow(doc, { of, id, min: 0, max: 0 });
    if (now >= LEAST) rows.push({ of, id, name, ...range(now) });
  };
  if (doc.family === 'tree') {
    const path = new Set<string>();
    for (let j = end.parent; j >= 0; j = mechanism.parent[j]) path.add(mechanism.ids[j]);
    for (const joint of doc.joints)
      if (path.has(joint.id)) add('joint', joint.id, `${named(joint.parent)} to ${jointName(joint)}`);
  } else for (const measure of deltaMeasures) add('delta', measure, measureNames[measure]);
  add('tool', end.id, `${named(doc.tools.find((t) => t.id === end.id)?.parent ?? null)} to the tip`);
  // Where a build has a place of its own, the design's base says nothing.
  if (!rigs.build?.mounting)
    for (const [k, id] of (['x', 'y', 'z'] as const).entries()) {
      const now = doc.base.mounting.xyzMm[k];
      rows.push({
        of: 'base',
        id,
        name: `Base ${['forward', 'left', 'up'][k]}`,
        min: Math.round(now - 60),
        max: Math.round(now + 60),
      });
    }
  return rows;
});
const keyOf = (row: LengthRange): string => `${row.of}/${row.id}`;
const taken = ref(new Set<string>());
const bounds = ref(new Map<string, { min: number; max: number }>());
watch(
  () => [rigs.id, tool.value?.id],
  () => {
    bounds.value = new Map();
    // The two longest lengths are what people ask about first.
    const links = candidates.value.filter((c) => c.of !== 'base');
    taken.value = new Set(
      [...links]
        .sort((a, b) => b.max - a.max)
        .slice(0, 2)
        .map(keyOf),
    );
  },
  { immediate: true },
);
const rows = computed(() =>
  candidates.value.map((row) => ({
    ...row,
    ...(bounds.value.get(keyOf(row)) ?? {}),
    now: lengthNow(rigs.rig!.mechanism, row),
    on: taken.value.has(keyOf(row)),
  })),
);
function toggle(row: Row): void {
  const next = new Set(taken.value);
  if (!next.delete(keyOf(row))) next.add(keyOf(row));
  taken.value = next;
}
function bound(row: Row, side: 'min' | 'max', v: number): string | void {
  const own = rows.value.find((r) => keyOf(r) === keyOf(row))!;
  const next = { min: own.min, max: own.max, [side]: v };
  if (!(next.min < next.max)) return `${row.name}: the shortest must be below the longest.`;
  bounds.value = new Map(bounds.value).set(keyOf(row), next);
}
function edit(row: Row, v: number): string | void {
  const next = withLengths(rigs.rig!.mechanism, [row], [v]);
  const result = rigs.commit(`${row.name} ${formatNumber(v, 1)} mm`, (draft) => void (draft.mechanism = next));
  if (!result.ok) return result.message;
}

// ── The search ────────────────────────────────────────────────────────────────────────────────────────────────────
const margin = ref(10);
const chosen = computed(() => rows.value.filter((r) => r.on));
const lengths = useJob('lengths', {
  request: () => {
    const { rig } = rigs;
    if (!rig || !tool.value || !chosen.value.length) return null;
    const ranges = chosen.value.map(({ of, id, min, max }) => ({ of, id, min, max }));
    const spots = rig.spots.map((s) => ({
      name: s.name,
      position: s.xyzMm.map(toM) as unknown as Vec3,
      direction: s.direction && vec3.unit(s.direction),
    }));
    return { toolId: tool.value.id, spots, ranges, margin: margin.value / 100, seed: 1 };
  },
});
const isRunning = lengths.isBusy;
const advice = lengths.answer;
function apply(): void {
  if (!advice.value || !rigs.rig) return;
  const { ranges, advice: found } = advice.value;
  const next = withLengths(rigs.rig.mechanism, ranges, found.values);
  rigs.commit('Take the advised lengths', (draft) => void (draft.mechanism = next));
  lengths.answer.value = null;
}
useOverlay(() => ({ dimensions: true }));
</script>

<template>
  <p v-if="!candidates.length" class="muted small">
    This arm has no lengths to choose and stands where its build says; its measures stand on the Measure page.
  </p>
  <template v-else>
    <p class="small muted">
      Tick what may change and between which lengths; the rest of the arm stays. The work spots below are what it must
      reach.
    </p>
    <table class="plain">
      <thead>
        <tr>
          <th></th>
          <th>length</th>
          <th class="r">now</th>
          <th>from</th>
          <th>to</th>
          <th v-if="advice" class="r">advised</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in rows" :key="keyOf(row)">
          <td>
            <input type="checkbox" :checked="row.on" :aria-label="`Choose ${row.name}`" @change="toggle(row)" />
          </td>
          <td>{{ row.name }}</td>
          <td class="field">
            <NumberField
              :value="row.now"
              dimension="length"
              :decimals="1"
              :label="`${row.name} now`"
              :min="row.of === 'base' ? -5000 : 1"
              :max="5000"
              :commit="(v: number) => edit(row, v)"
            />
          </td>
          <td class="field">
            <NumberField
              v-if="row.on"
              :value="row.min"
              dimension="length"
              :decimals="0"
              :label="`${row.name} at least`"
              :min="row.of === 'base' ? -5000 : 1"
              :max="5000"
              :commit="(v: number) => bound(row, 'min', v)"
            />
          </td>
          <td class="field">
            <NumberField
              v-if="row.on"
              :value="row.max"
              dimension="length"
              :decimals="0"
              :label="`${row.name} at most`"
              :min="row.of === 'base' ? -5000 : 1"
              :max="5000"
              :commit="(v: number) => bound(row, 'max', v)"
            />
          </td>
          <td v-if="advice" class="r num">
            {{
              advice.ranges.some((r) => keyOf(r) === keyOf(row))
                ? `${advice.advice.values[advice.ranges.findIndex((r) => keyOf(r) === keyOf(row))]} mm`
                : ''
            }}
          </td>
        </tr>
      </tbody>
    </table>
    <div class="form">
      <label
        >keep from limits
        <NumberField
          :value="margin"
          dimension="share"
          :decimals="0"
          label="Margin to keep"
          :min="0"
          :max="60"
          :commit="(v: number) => void (margin = v)"
      /></label>
      <Button
        label="Find the smallest arm"
        size="small"
        :disabled="isRunning || !chosen.length || !rigs.rig?.spots.length"
        @click="lengths.again"
      />
    </div>
    <p v-if="!rigs.rig?.spots.length" class="small muted">
      Keep some work spots first: they say what must be reached.
    </p>
    <p v-if="isRunning" class="small muted">Trying arms …</p>
    <div v-else-if="advice" class="advice" role="status" :data-advice="advice.advice.allReached ? 'all' : 'some'">
      <p v-if="advice.advice.allReached">
        <b class="num">{{ formatNumber(advice.advice.total, 0) }} mm</b> of chosen lengths reach every spot (now
        <span class="num">{{ formatNumber(advice.advice.totalNow, 0) }} mm</span>), keeping at least
        {{ formatNumber(100 * Math.min(...advice.advice.spots.map((s) => s.margin)), 0) }} % from every limit.
      </p>
      <p v-else>
        Within these ranges not every spot is reached with the margin: short are
        {{
          advice.advice.spots
            .filter((s) => !s.reached || s.margin < margin / 100)
            .map((s) => s.name)
            .join(', ')
        }}. Widen a range, or tick the base.
      </p>
      <Button size="small" label="Apply these lengths" @click="apply" />
    </div>
    <div class="rule"><h2>Work spots with the arm as it is</h2></div>
    <SpotTable />
  </template>
</template>

<style scoped>
.field {
  width: 5.2rem;
}
table td:nth-child(2) {
  font-size: 0.86rem;
  line-height: 1.2;
}
table.plain td {
  padding-block: 0.16rem;
}
td.r.num {
  white-space: nowrap;
}
.form {
  grid-template-columns: 8rem 1fr;
}
.advice {
  background: var(--pine-wash);
  border-left: 4px solid var(--pine);
  border-radius: 3px;
  padding: 0.6rem 0.8rem;
  margin: 0.5rem 0;
  display: grid;
  gap: 0.5rem;
  justify-items: start;
}
</style>
