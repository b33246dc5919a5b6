<script setup lang="ts">
/** Solved points: how many are reached, where speeds blow up, and a row for each. */
import Column from 'primevue/column';
import DataTable from 'primevue/datatable';
import { computed } from 'vue';
import { isTooFast, type PointResult } from '@cork-elbow/core/reach';
import { formatNumber, toMm } from '@cork-elbow/core/units';
import { useRigStore } from '../../stores/rig';
import { useViewStore } from '../../stores/view';

const { results, speedMmS } = defineProps<{ results: readonly PointResult[]; speedMmS: number }>();
const rigs = useRigStore();
const view = useViewStore();

interface Row {
  readonly k: number;
  readonly name: string;
  readonly place: string;
  readonly posture: string;
  readonly joints: string;
  readonly verdict: string;
  readonly note: string;
}
const rows = computed((): Row[] => {
  const { mechanism } = rigs;
  if (!mechanism) return [];
  return results.map((r, k) => ({
    k,
    name: r.point.name,
    place: r.point.position.map((v) => formatNumber(toMm(v), 1)).join(', '),
    posture: r.solution?.posture ?? '–',
    joints: r.solution
      ? Array.from(r.solution.q, (v, s) => formatNumber(v / mechanism.siPerUnit[s], 1)).join(', ')
      : '–',
    verdict: !r.solution ? 'no' : r.touch ? 'touches' : isTooFast(r) ? 'too fast' : r.changes ? 'flips' : 'yes',
    note: r.reason
      ? r.reason.message
      : isTooFast(r)
        ? `${mechanism.names[r.slowest]} keeps up to ${formatNumber(Number.isFinite(r.speedShare) ? speedMmS / r.speedShare : 0, 0)} mm/s here`
        : r.changes
          ? 'another posture than at the point before'
          : '',
  }));
});
const isBad = ({ verdict }: Row): boolean => verdict === 'no' || verdict === 'touches';
function show(row: Row): void {
  const q = results[row.k]?.solution?.q;
  if (q && q.length === rigs.mechanism?.m) view.setEdit(q);
}
</script>

<template>
  <!-- A strip over the length: what stands out is seen before any row is read. -->
  <svg
    v-if="results.length > 1"
    class="strip"
    :viewBox="`0 0 ${results.length} 10`"
    preserveAspectRatio="none"
    role="img"
    aria-label="Reach along the way"
  >
    <rect
      v-for="(r, k) in rows"
      :key="k"
      :x="k"
      :width="1.02"
      :y="r.verdict === 'yes' ? 5 : isBad(r) ? 0 : 2.5"
      :height="r.verdict === 'yes' ? 5 : isBad(r) ? 10 : 7.5"
      :class="r.verdict.replace(' ', '-')"
    />
  </svg>
  <DataTable
    :value="rows"
    size="small"
    scrollable
    scroll-height="15rem"
    :virtual-scroller-options="{ itemSize: 33 }"
    data-key="k"
    selection-mode="single"
    class="points"
    @row-click="show($event.data as Row)"
  >
    <Column field="name" header="point" />
    <Column field="place" header="place, mm" body-class="num" />
    <Column field="verdict" header="reach">
      <template #body="{ data }"
        ><b :class="(data as Row).verdict.replace(' ', '-')" :title="(data as Row).note">{{
          (data as Row).verdict
        }}</b></template
      >
    </Column>
    <Column header="posture, or why not">
      <template #body="{ data }">{{ (data as Row).note || (data as Row).posture }}</template>
    </Column>
    <Column field="joints" header="joints" body-class="num" />
  </DataTable>
</template>

<style scoped>
.strip {
  width: 100%;
  height: 26px;
  display: block;
  margin: 0.4rem 0;
  background: var(--paper-2);
}
rect.yes {
  fill: var(--reach-edge);
}
rect.no,
rect.touches {
  fill: var(--alarm);
}
rect.too-fast {
  fill: var(--caution);
}
rect.flips {
  fill: var(--pine);
}
b.yes {
  color: var(--good);
}
b.no,
b.touches {
  color: var(--alarm);
}
b.too-fast {
  color: var(--caution);
}
b.flips {
  color: var(--pine);
}
.points :deep(td),
.points :deep(th) {
  padding: 0.25rem 0.35rem;
  font-size: 0.84rem;
  white-space: nowrap;
}
.points :deep(tr) {
  cursor: pointer;
}
</style>
