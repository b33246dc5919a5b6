<script setup lang="ts">
/** Everything of the arm's loads on one sheet, with another version of it beside: another rig, or this one as it was a while ago. */
import { useLocalStorage } from '@vueuse/core';
import Button from 'primevue/button';
import { computed, onMounted, ref, shallowRef, toRaw, watch } from 'vue';
import type { RigSummary } from '@cork-elbow/core/contract';
import { tableSheets } from '@cork-elbow/core/drawing';
import { fileName, type Rig } from '@cork-elbow/core/rig';
import {
  changeOf,
  figuresCsv,
  laidBeside,
  type Figure,
  type FigureChange,
  type FigureRow,
} from '@cork-elbow/core/routine';
import { formatFixed, formatNumber } from '@cork-elbow/core/units';
import { api, type CallError } from '../../api';
import ChoiceField from '../../shared/ChoiceField.vue';
import PrintButton from '../../shared/PrintButton.vue';
import { saveFile } from '../../shared/save-file';
import { today } from '../../shared/today';
import { useJob } from '../../shared/useJob';
import { useOverlay } from '../../shared/useOverlay';
import { useRigStore } from '../../stores/rig';
import { keptVersion, type KeptVersion } from './kept-version';

const rigs = useRigStore();
useOverlay(() => ({ dimensions: false }));
const airC = useLocalStorage('cork-elbow:air-c', 25);

// ── What it is laid beside ────────────────────────────────────────────────────────────────────────────────────────

const NONE = '';
const KEPT = '#kept';
const chosen = ref(NONE);
const shelf = shallowRef<readonly RigSummary[]>([]);
const problem = ref('');
onMounted(async () => {
  try {
    shelf.value = (await api.rigs()).filter(({ id, unreadable }) => id !== rigs.id && !unreadable);
  } catch (error) {
    problem.value = `The shelf cannot be read: ${(error as CallError).message}`;
  }
});
const kept = computed((): KeptVersion | null => (keptVersion.value?.rigId === rigs.id ? keptVersion.value : null));
const other = shallowRef<{ rig: Rig; buildId: string; name: string } | null>(null);
watch([chosen, kept], async () => {
  problem.value = '';
  const id = chosen.value;
  if (id === NONE || (id === KEPT && !kept.value)) {
    chosen.value = NONE;
    other.value = null;
  } else if (id === KEPT) {
    const { rig, at } = kept.value!;
    other.value = { rig, buildId: rigs.build!.id, name: `as it was at ${at}` };
  } else
    try {
      const { rig } = await api.rig(id);
      if (chosen.value === id) other.value = { rig, buildId: rig.builds[0].id, name: rig.name };
    } catch (error) {
      problem.value = `It cannot be laid beside: ${(error as CallError).message}`;
      chosen.value = NONE;
    }
});
function keep(): void {
  const at = new Date().toTimeString().slice(0, 5);
  keptVersion.value = { rigId: rigs.id!, at, rig: structuredClone(toRaw(rigs.rig!)) };
  chosen.value = KEPT;
}

// ── The figures ───────────────────────────────────────────────────────────────────────────────────────────────────

const job = useJob('figures', {
  request: () => ({
    airC: airC.value,
    other: other.value && { rig: toRaw(other.value.rig), buildId: other.value.buildId },
  }),
  when: () => [rigs.rig, rigs.build?.id, airC.value, other.value] as const,
  after: 250,
});
const rows = computed(() => (job.answer.value ? laidBeside(job.answer.value.own, job.answer.value.other ?? []) : []));
const grouped = computed(() => {
  const groups = new Map<string, FigureRow[]>();
  for (const row of rows.value) groups.set(row.group, [...(groups.get(row.group) ?? []), row]);
  return [...groups];
});
const said = (figure: Figure | null): string => {
  if (!figure) return '';
  const { value, unit, digits } = figure;
  if (value === null) return 'not known';
  if (value === Infinity) return 'no bound';
  if (value === -Infinity) return 'off the ground';
  return `${formatFixed(value, digits)}${unit ? ` ${unit}` : ''}`;
};
function change(row: FigureRow): { words: string; is: FigureChange['is'] } | null {
  const found = changeOf(row);
  if (!found) return null;
  const { by, is } = found;
  return { words: by === 0 ? '=' : `${by > 0 ? '+' : '−'}${formatNumber(Math.abs(by), row.own!.digits)}`, is };
}
const tally = computed(() => {
  const all = rows.value.map((row) => changeOf(row)?.is);
  return { better: all.filter((is) => is === 'better').length, worse: all.filter((is) => is === 'worse').length };
});

const title = computed(() => `${rigs.rig?.name ?? ''}: loads`);
const note = computed(
  () =>
    `${today()}, ${rigs.build?.name ?? ''}. Reckoned from the document; a lift is tried light first, hands clear, nobody under it.`,
);
const columns = computed(() => [rigs.rig?.name ?? 'this', ...(other.value ? [other.value.name] : [])]);
const sheets = (room: number) =>
  tableSheets(
    title.value,
    note.value,
    columns.value,
    rows.value.map((row) => ({
      ...{ group: row.group, name: row.name },
      values: [said(row.own), ...(other.value ? [said(row.other)] : [])],
      isLoud: row.own?.state === 'over',
    })),
    room,
  );
const saveCsv = (): void =>
  saveFile(
    fileName(rigs.id, 'loads', 'csv'),
    'text/csv',
    figuresCsv(rows.value, columns.value as [string, ...string[]]),
  );
</script>

<template>
  <div :data-sheet="job.isBusy.value ? 'making' : rows.length ? 'there' : 'none'">
    <div class="form">
      <ChoiceField
        label="beside it"
        :options="[
          { value: NONE, label: 'nothing' },
          ...(kept ? [{ value: KEPT, label: `this rig as it was at ${kept.at}` }] : []),
          ...shelf.map(({ id, name }) => ({ value: id, label: name })),
        ]"
        :value="chosen"
        @change="chosen = $event as string"
      />
      <Button size="small" severity="secondary" label="Keep this state to compare" @click="keep" />
    </div>
    <p v-if="problem" class="problem small" role="alert">{{ problem }}</p>
    <p v-if="!rows.length && job.isBusy.value" class="small muted">Reckoning the whole sheet …</p>
    <p v-if="job.isCancelled.value" class="row small muted">
      Stopped. <Button size="small" variant="text" label="Reckon again" @click="job.again" />
    </p>
    <p v-if="other && job.answer.value?.other === null && !job.isBusy.value" class="small muted">
      The other version cannot stand as it is, so it has no figures.
    </p>
    <template v-if="rows.length">
      <p v-if="other && job.answer.value?.other" role="status" data-tally>
        Against <b>{{ other.name }}</b>: <b class="num">{{ tally.better }}</b> figures are better,
        <b class="num">{{ tally.worse }}</b> worse.
      </p>
      <div class="row wrap">
        <PrintButton label="Print" :title :sheets />
        <Button size="small" severity="secondary" label="Save as CSV" @click="saveCsv" />
      </div>
      <table class="plain sheet" :class="{ stale: job.isBusy.value }" aria-label="All figures">
        <thead>
          <tr>
            <th></th>
            <th class="right">{{ rigs.rig?.name }}</th>
            <th v-if="other" class="right">{{ other.name }}</th>
            <th v-if="other" class="right">change</th>
          </tr>
        </thead>
        <tbody v-for="[group, list] in grouped" :key="group">
          <tr>
            <th colspan="4" scope="rowgroup" class="group">{{ group }}</th>
          </tr>
          <tr v-for="row in list" :key="row.name" :data-figure="`${group}: ${row.name}`">
            <td>{{ row.name }}</td>
            <td class="num right" :class="row.own?.state">{{ said(row.own) }}</td>
            <td v-if="other" class="num right" :class="row.other?.state">{{ said(row.other) }}</td>
            <td v-if="other" class="num right" :class="change(row)?.is">{{ change(row)?.words ?? '' }}</td>
          </tr>
        </tbody>
      </table>
    </template>
  </div>
</template>

<style scoped>
.sheet {
  width: 100%;
  margin-top: 0.5rem;
}
.sheet td,
.sheet th {
  padding: 0.1rem 0.4rem;
}
.sheet td:first-child {
  padding-left: 1rem;
}
.right {
  text-align: right;
}
td.right {
  white-space: nowrap;
}
.group {
  text-align: left;
  padding-top: 0.6rem !important;
  color: var(--ink);
}
.stale {
  opacity: 0.55;
}
.tight {
  color: var(--caution);
}
.over,
.worse {
  color: var(--alarm);
}
.better {
  color: var(--good);
}
</style>
