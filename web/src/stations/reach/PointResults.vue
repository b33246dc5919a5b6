<script setup lang="ts">
/** Solved points: how many are reached, where speeds blow up, and a row for each. */
import { useVirtualList } from '@vueuse/core';
import { computed } from 'vue';
import { isTooFast, type PointResult } from '@cork-elbow/core/reach';
import { formatFixed, formatNumber, toMm } from '@cork-elbow/core/units';
import { useRigStore } from '../../stores/rig';
import { useViewStore } from '../../stores/view';

const { results, speedMmS } = defineProps<{ results: readonly PointResult[]; speedMmS: number }>();
const rigs = useRigStore();
const view = useViewStore();

/** Height of a row (px), the same for all. */
const ROW = 30;
type Verdict = 'yes' | 'no' | 'touches' | 'too fast' | 'flips';
interface Row {
  readonly k: number;
  readonly name: string;
  readonly verdict: Verdict;
}
/** What stands out most comes first: a point that is not reached cannot also be too fast. */
const verdictOf = (r: PointResult): Verdict =>
  !r.solution ? 'no' : r.touch ? 'touches' : isTooFast(r) ? 'too fast' : r.changes ? 'flips' : 'yes';
const rows = computed((): Row[] => results.map((r, k) => ({ k, name: r.point.name, verdict: verdictOf(r) })));

// Only the rows in sight are put into words.
const place = ({ k }: Row): string => results[k].point.position.map((v) => formatFixed(toMm(v), 1)).join(', ');
function note({ k, verdict }: Row): string {
  const r = results[k];
  if (r.reason) return r.reason.message;
  if (verdict === 'too fast') {
    const most = Number.isFinite(r.speedShare) ? speedMmS / r.speedShare : 0;
    return `${rigs.mechanism?.names[r.slowest]} keeps up to ${formatNumber(most, 0)} mm/s here`;
  }
  return verdict === 'flips' ? 'another posture than at the point before' : (r.solution?.posture ?? '–');
}
function joints({ k }: Row): string {
  const { solution } = results[k];
  const unit = rigs.mechanism?.siPerUnit;
  return solution && unit ? Array.from(solution.q, (v, s) => formatFixed(v / unit[s], 1)).join(', ') : '–';
}

/** The strip over the length as one path a verdict: low where all is well, full where the arm is not there. */
const HEIGHTS: Record<Verdict, number> = { yes: 5, no: 10, touches: 10, 'too fast': 7.5, flips: 7.5 };
const strips = computed(() => {
  const paths = new Map<Verdict, string>();
  for (const { k, verdict } of rows.value) {
    const h = HEIGHTS[verdict];
    paths.set(verdict, `${paths.get(verdict) ?? ''}M${k} 10v${-h}h1.02v${h}z`);
  }
  return [...paths].map(([verdict, d]) => ({ verdict, d }));
});
const { list, containerProps, wrapperProps } = useVirtualList(rows, { itemHeight: ROW, overscan: 6 });
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
    <path v-for="strip in strips" :key="strip.verdict" :d="strip.d" :class="strip.verdict.replace(' ', '-')" />
  </svg>
  <div v-bind="containerProps" class="scroll" tabindex="0" aria-label="Points, row by row">
    <div v-bind="wrapperProps">
      <table class="plain points">
        <thead>
          <tr>
            <th>point</th>
            <th>place, mm</th>
            <th>reach</th>
            <th>posture, or why not</th>
            <th>joints</th>
          </tr>
        </thead>
        <tbody v-rove="'.link'">
          <tr v-for="{ data } in list" :key="data.k" @click="show(data)">
            <td>
              <button class="link" :disabled="!results[data.k].solution">{{ data.name }}</button>
            </td>
            <td class="num">{{ place(data) }}</td>
            <td>
              <b :class="data.verdict.replace(' ', '-')">{{ data.verdict }}</b>
            </td>
            <td>{{ note(data) }}</td>
            <td class="num">{{ joints(data) }}</td>
          </tr>
        </tbody>
      </table>
    </div>
  </div>
</template>

<style scoped>
/* A name of one letter is as easy to hit. */
.points .link {
  min-width: 1.5rem;
  min-height: 1.3rem;
  text-align: left;
}
.strip {
  width: 100%;
  height: 26px;
  display: block;
  margin: 0.4rem 0;
  background: var(--paper-2);
}
path.yes {
  fill: var(--reach-edge);
}
path.no,
path.touches {
  fill: var(--alarm);
}
path.too-fast {
  fill: var(--caution);
}
path.flips {
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
.scroll {
  max-height: 15rem;
  border: 1px solid var(--lines);
  border-radius: 3px;
}
.points {
  width: 100%;
}
.points td,
.points th {
  padding: 0 0.4rem;
  height: 30px;
  font-size: 0.84rem;
  white-space: nowrap;
}
.points th {
  position: sticky;
  top: 0;
  background: var(--paper);
}
.points tbody tr {
  cursor: pointer;
}
.points tbody tr:hover {
  background: var(--pine-wash);
}
</style>
