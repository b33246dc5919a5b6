<script setup lang="ts">
/** Runs of the rig, the latest first, all of them or those that are looked for; what is scrolled to is fetched as it comes into view. */
import { format } from 'date-fns';
import VirtualScroller from 'primevue/virtualscroller';
import { refDebounced } from '@vueuse/core';
import { computed, ref, shallowRef, watch } from 'vue';
import type { RunEntry } from '@cork-elbow/core/contract';
import { formatFixed, formatNumber } from '@cork-elbow/core/units';
import { benchApi } from '../../api-bench';
import ChoiceField from '../../shared/ChoiceField.vue';
import { useSlots } from '../../shared/joints';
import { useRigStore } from '../../stores/rig';
import { ending, outcomes } from './run-words';

const chosen = defineModel<string | null>({ required: true });
const { ended } = defineProps<{
  /** Counts what has changed meanwhile: the list is looked at anew. */
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
const isLooked = ref(false);
let asked = new Set<number>();

// ── What is looked for ───────────────────────────────────────────────────────────────────────────────────────────────
const routine = ref('');
const outcome = ref('');
const named = ref(false);
const text = ref('');
const textLater = refDebounced(text, 250);
const routines = computed(() => [
  { label: 'all routines', value: '' },
  ...rigs.rig!.routines.map(({ id, name }) => ({ label: name, value: id })),
]);
const endings = [
  { label: 'any ending', value: '' },
  ...Object.entries(outcomes).map(([value, label]) => ({ label, value })),
];
const query = computed(() => ({
  ...(routine.value ? { routine: routine.value } : {}),
  ...(outcome.value ? { outcome: outcome.value as keyof typeof outcomes } : {}),
  ...(named.value ? { named: true } : {}),
  ...(textLater.value.trim() ? { text: textLater.value.trim() } : {}),
}));
const isNarrowed = computed(() => Object.keys(query.value).length > 0);
function showAll(): void {
  routine.value = outcome.value = text.value = '';
  named.value = false;
}

async function fetchFrom(from: number): Promise<void> {
  const rigId = rigs.id!;
  const mine = asked;
  if (mine.has(from)) return;
  mine.add(from);
  try {
    const { runs, total } = await benchApi.runs(rigId, { ...query.value, from, count: AT_ONCE });
    // Meanwhile another rig may be open, or a run have ended.
    if (rigs.id !== rigId || asked !== mine) return;
    const next = from === 0 ? Array.from<RunEntry | null>({ length: total }).fill(null) : [...rows.value];
    runs.forEach((run, k) => (next[from + k] = run));
    rows.value = next;
    isLooked.value = true;
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
  [() => rigs.id, query, () => ended],
  ([id], [before]) => {
    if (id !== before) {
      rows.value = [];
      isLooked.value = false;
    }
    asked = new Set();
    void fetchFrom(0);
  },
  { immediate: true },
);

const titleOf = ({ name, routineName, board }: RunEntry): string =>
  [name, routineName, board].filter(Boolean).join(' · ');
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
</script>

<template>
  <div class="filters compact">
    <input v-model="text" type="search" class="find" placeholder="name, routine or board" aria-label="Find runs" />
    <ChoiceField
      label=""
      name="Of which routine"
      :options="routines"
      :value="routine"
      @change="routine = String($event)"
    />
    <ChoiceField
      label=""
      name="How it ended"
      :options="endings"
      :value="outcome"
      @change="outcome = String($event)"
    />
    <label class="small"><input v-model="named" type="checkbox" /> named</label>
  </div>
  <p v-if="problem" class="small" role="alert">
    {{ problem }} <button class="link" @click="inView({ first: 0, last: 1 })">Try again</button>
  </p>
  <div v-if="rows.length" v-rove="'.pick'" role="table" aria-label="Runs" :aria-rowcount="rows.length + 1">
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
        <div
          role="row"
          class="run"
          :class="{ chosen: entry && entry.id === chosen }"
          :style="{ height: `${ROW}px` }"
          :aria-rowindex="options.index + 2"
          :aria-current="entry !== null && entry.id === chosen ? 'true' : undefined"
          @click="entry && (chosen = entry.id)"
        >
          <template v-if="entry">
            <span role="cell" class="num small when">{{ format(new Date(entry.startedAt), 'd MMM HH:mm') }}</span>
            <span role="cell" class="cut"
              ><button class="pick" :title="titleOf(entry)" @click.stop="chosen = entry.id">
                <b v-if="entry.name">{{ entry.name }}</b>{{
                  entry.name ? ` · ${entry.routineName}` : entry.routineName
                }}
              </button></span
            >
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
  <p v-else-if="isLooked && isNarrowed" class="muted small">
    No run fits that. <button class="link" @click="showAll">Show all</button>
  </p>
  <p v-else-if="isLooked" class="muted small">
    Nothing has run yet. Every run on a board, simulated ones too, is taken down here: to be played again beside what
    was commanded, compared and saved.
  </p>
</template>

<style scoped>
.filters {
  display: grid;
  grid-template-columns: minmax(7rem, 1fr) minmax(0, 8.5rem) minmax(0, 8.5rem) auto;
  gap: 0.4rem;
  align-items: center;
  margin: 0.2rem 0 0.3rem;
}
.find {
  min-width: 0;
  border: 1px solid var(--lines);
  border-radius: 4px;
  background: var(--paper);
  color: inherit;
  font: inherit;
  font-size: 0.88rem;
  padding: 0.3rem 0.5rem;
}
.filters label {
  display: flex;
  gap: 0.3rem;
  align-items: center;
  white-space: nowrap;
}
.run.chosen {
  background: var(--pine-wash);
}
[role='rowgroup'] .run,
.runs .run {
  cursor: pointer;
}
.when {
  white-space: nowrap;
}
.pick {
  all: unset;
  cursor: pointer;
  display: block;
  max-width: 100%;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.pick:focus-visible {
  outline: 2px solid var(--pine);
  outline-offset: 1px;
}
.run {
  display: grid;
  grid-template-columns: 7.2rem minmax(0, 1fr) 3.6rem 4.8rem 5.6rem;
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
