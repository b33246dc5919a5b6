<script setup lang="ts">
/** Every run of the rig that is kept, the latest first; what is scrolled to is fetched as it comes into view. */
import { format } from 'date-fns';
import VirtualScroller from 'primevue/virtualscroller';
import { ref, shallowRef, watch } from 'vue';
import type { RunEntry } from '@cork-elbow/core/contract';
import { formatFixed, formatNumber } from '@cork-elbow/core/units';
import { api } from '../../api';
import { useSlots } from '../../shared/joints';
import { useRigStore } from '../../stores/rig';

const { ended } = defineProps<{
  /** Counts runs that have ended meanwhile: the list is looked at anew. */
  ended: number;
}>();
/** Height of a row (px), rows in view, and how many are fetched at once. */
const ROW = 28;
const IN_VIEW = 6;
const AT_ONCE = 100;

const rigs = useRigStore();
const slots = useSlots();
/** As many as there are; null where one has not been fetched. */
const rows = shallowRef<readonly (RunEntry | null)[]>([]);
const problem = ref('');
let asked = new Set<number>();

async function fetchFrom(from: number): Promise<void> {
  const rigId = rigs.id!;
  const mine = asked;
  if (mine.has(from)) return;
  mine.add(from);
  try {
    const { runs, total } = await api.runs(rigId, from, AT_ONCE);
    // Meanwhile another rig may be open, or a run have ended.
    if (rigs.id !== rigId || asked !== mine) return;
    const next = from === 0 ? Array.from<RunEntry | null>({ length: total }).fill(null) : [...rows.value];
    runs.forEach((run, k) => (next[from + k] = run));
    rows.value = next;
    problem.value = '';
  } catch (error) {
    mine.delete(from);
    problem.value = (error as Error).message;
  }
}
function inView({ first, last }: { first: number; last: number }): void {
  for (let from = first - (first % AT_ONCE); from < last; from += AT_ONCE) void fetchFrom(from);
}
watch(
  [() => rigs.id, () => ended],
  ([id], [before]) => {
    if (id !== before) rows.value = [];
    asked = new Set();
    void fetchFrom(0);
  },
  { immediate: true },
);

function worst({ worstError }: RunEntry): string {
  if (!worstError) return '–';
  const gaps = Object.entries(worstError);
  const unitOf = (id: string): string => slots.value.find((s) => s.id === id)?.unit ?? '°';
  // Turning and sliding joints have a worst of their own each.
  const parts = (['°', 'mm'] as const).flatMap((unit) => {
    const own = gaps.filter(([id]) => unitOf(id) === unit).map(([, v]) => v);
    return own.length ? [`${formatFixed(Math.max(...own), 1)}${unit === 'mm' ? ' mm' : '°'}`] : [];
  });
  return parts.join(', ') || '–';
}
const took = ({ durationMs }: RunEntry): string =>
  durationMs === null ? '–' : `${formatFixed(durationMs / 1000, 1)} s`;
const outcomes: Record<string, string> = {
  finished: 'finished',
  stopped: 'stopped',
  failed: 'ended by a fault',
  'cut-off': 'cut off',
};
const ending = ({ outcome }: RunEntry): string => (outcome ? outcomes[outcome] : 'going on');
</script>

<template>
  <p v-if="problem" class="small" role="alert">
    {{ problem }} <button class="link" @click="inView({ first: 0, last: 1 })">Try again</button>
  </p>
  <div v-if="rows.length" role="table" aria-label="Runs" :aria-rowcount="rows.length + 1">
    <div role="row" class="run head" aria-rowindex="1">
      <span role="columnheader">when</span>
      <span role="columnheader">routine</span>
      <span role="columnheader" class="r">took</span>
      <span role="columnheader" class="r">worst gap</span>
      <span role="columnheader">ended</span>
    </div>
    <VirtualScroller
      :items="[...rows]"
      :item-size="ROW"
      :style="{ height: `${ROW * Math.min(IN_VIEW, rows.length)}px` }"
      class="runs"
      role="rowgroup"
      lazy
      @lazy-load="inView"
    >
      <template #item="{ item: entry, options }">
        <div role="row" class="run" :style="{ height: `${ROW}px` }" :aria-rowindex="options.index + 2">
          <template v-if="entry">
            <span role="cell" class="num small">{{ format(new Date(entry.startedAt), 'd MMM HH:mm') }}</span>
            <span role="cell" class="cut" :title="entry.routineName">{{ entry.routineName }}</span>
            <span role="cell" class="r num">{{ took(entry) }}</span>
            <span role="cell" class="r num">{{ worst(entry) }}</span>
            <span role="cell" class="cut" :title="ending(entry)">{{ ending(entry) }}</span>
          </template>
          <span v-else role="cell" class="muted small">…</span>
        </div>
      </template>
    </VirtualScroller>
    <p v-if="rows.length > IN_VIEW" class="muted small">{{ formatNumber(rows.length, 0) }} runs</p>
  </div>
  <p v-else-if="!problem" class="muted small">No runs yet.</p>
</template>

<style scoped>
.run {
  display: grid;
  grid-template-columns: 5.9rem minmax(0, 1fr) 3.6rem 4.8rem 5.6rem;
  gap: 0.5rem;
  align-items: center;
  padding-inline: 0.3rem;
  border-bottom: 1px solid var(--lines);
  font-size: 0.9rem;
}
.head {
  color: var(--ink-2);
  font-size: 0.82rem;
  padding-block: 0.2rem;
}
.r {
  text-align: right;
}
.cut {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.runs {
  scrollbar-width: thin;
}
</style>
