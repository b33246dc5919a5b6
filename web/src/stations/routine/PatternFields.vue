<script setup lang="ts">
/** The places of a pattern: a grid, a ring, or a list from a table. */
import Textarea from 'primevue/textarea';
import Button from 'primevue/button';
import { computed, ref } from 'vue';
import { parsePoints } from '@cork-elbow/core/imports';
import type { Places, StepOf } from '@cork-elbow/core/rig';
import ChoiceField from '../../shared/ChoiceField.vue';
import NumberField from '../../shared/NumberField.vue';
import TripleField from '../../shared/TripleField.vue';
import { useRigStore } from '../../stores/rig';
import { useSteps, type Said } from './useSteps';

const { step, put } = defineProps<{
  step: StepOf<'pattern'>;
  put: (label: string, key: string, value: unknown) => Said;
}>();
const rigs = useRigStore();
const { routine } = useSteps();
const draft = ref<string | null>(null);
const problem = ref('');
const spots = computed(() => rigs.rig!.spots.map((s) => ({ label: s.name, value: s.id })));
const routines = computed(() => [
  { label: 'nothing', value: '' },
  ...rigs.rig!.routines.filter((r) => r.id !== routine.value?.id).map((r) => ({ label: r.name, value: r.id })),
]);
const setPlaces = (places: Places): Said => put('Places', 'places', places);
function setKind(kind: Places['kind']): void {
  const spot = 'spot' in step.places ? step.places.spot : (rigs.rig!.spots[0]?.id ?? 'none');
  const made: Record<Places['kind'], Places> = {
    grid: { kind: 'grid', spot, columns: 3, rows: 2, columnMm: [20, 0, 0], rowMm: [0, 20, 0] },
    ring: { kind: 'ring', spot, radiusMm: 20, count: 8, firstDeg: 0 },
    list: { kind: 'list', pointsMm: [] },
  };
  setPlaces(made[kind]);
}
const triple = (old: readonly number[], k: number, v: number): [number, number, number] =>
  old.map((o, i) => (i === k ? v : o)) as [number, number, number];
const text = computed(() =>
  step.places.kind === 'list' ? step.places.pointsMm.map((p) => p.join('; ')).join('\n') : '',
);
function takeList(): void {
  if (draft.value === null) return;
  const { points, problems } = parsePoints(draft.value);
  if (problems.length) {
    problem.value = problems[0];
    return;
  }
  const pointsMm = points.map(
    ({ position }) => position.map((v) => Math.round(v * 1e6) / 1000) as [number, number, number],
  );
  problem.value = setPlaces({ kind: 'list', pointsMm }) ?? '';
  if (!problem.value) draft.value = null;
}
</script>

<template>
  <span v-rove.across="'button'" class="choice small" role="group" aria-label="Places"
    ><button
      v-for="kind in ['grid', 'ring', 'list'] as const"
      :key="kind"
      :aria-pressed="step.places.kind === kind"
      @click="setKind(kind)"
    >
      {{ kind }}
    </button></span
  >
  <ChoiceField
    v-if="step.places.kind !== 'list'"
    :label="step.places.kind === 'grid' ? 'first place' : 'middle'"
    name="Spot of the pattern"
    :options="spots"
    :value="step.places.spot"
    placeholder="no spot yet"
    @change="setPlaces({ ...step.places, spot: String($event) } as Places)"
  />
  <template v-if="step.places.kind === 'grid'">
    <NumberField
      v-for="what in ['columns', 'rows'] as const"
      :key="what"
      :prefix="what"
      :value="step.places[what]"
      dimension="count"
      :label="what === 'rows' ? 'Rows' : 'Columns'"
      :min="1"
      :max="200"
      :commit="(v: number) => setPlaces({ ...step.places, [what]: Math.round(v) } as Places)"
    />
    <span class="row wrap"
      ><span class="muted small">a column</span
      ><TripleField
        :value="step.places.columnMm"
        label="Column"
        :commit="
          (k, v) =>
            setPlaces({
              ...step.places,
              columnMm: triple((step.places as { columnMm: number[] }).columnMm, k, v),
            } as Places)
        "
    /></span>
    <span class="row wrap"
      ><span class="muted small">a row</span
      ><TripleField
        :value="step.places.rowMm"
        label="Row"
        :commit="
          (k, v) =>
            setPlaces({ ...step.places, rowMm: triple((step.places as { rowMm: number[] }).rowMm, k, v) } as Places)
        "
    /></span>
  </template>
  <template v-else-if="step.places.kind === 'ring'">
    <NumberField
      prefix="places"
      :value="step.places.count"
      dimension="count"
      label="Places on the ring"
      :min="1"
      :max="720"
      :commit="(v: number) => setPlaces({ ...step.places, count: Math.round(v) } as Places)"
    />
    <NumberField
      prefix="radius"
      :value="step.places.radiusMm"
      dimension="length"
      label="Radius of the ring"
      :min="0.1"
      :commit="(v: number) => setPlaces({ ...step.places, radiusMm: v } as Places)"
    />
    <NumberField
      prefix="first at"
      :value="step.places.firstDeg"
      dimension="angle"
      label="First place at"
      :commit="(v: number) => setPlaces({ ...step.places, firstDeg: v } as Places)"
    />
  </template>
  <div v-else class="list">
    <Textarea
      :model-value="draft ?? text"
      rows="4"
      class="num"
      aria-label="Places, one a line: forward, left, up in mm"
      placeholder="forward; left; up in mm, one place a line"
      @update:model-value="draft = $event"
    />
    <Button v-if="draft !== null" size="small" label="Apply the list" @click="takeList" />
    <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
  </div>
  <NumberField
    prefix="from above"
    :value="step.approachMm"
    dimension="length"
    label="Approach of each place"
    :min="0"
    :max="2000"
    :commit="(v: number) => put('Approach', 'approachMm', v)"
  />
  <label class="tick"
    ><input
      type="checkbox"
      :checked="step.direction !== null"
      @change="put('Direction', 'direction', step.direction ? null : [0, 0, -1])"
    />
    pointing straight down</label
  >
  <ChoiceField
    label="at each place"
    name="Routine at each place"
    :options="routines"
    :value="step.routine ?? ''"
    @change="put('Routine', 'routine', $event || null)"
  />
</template>

<style scoped>
.list {
  flex-basis: 100%;
  display: grid;
  gap: 0.3rem;
}
</style>
