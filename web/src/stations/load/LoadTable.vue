<script setup lang="ts">
/** Motor by motor: what is asked of it, what may be asked, and how much of that it is. */
import JointMark from '../../shared/JointMark.vue';
import { vRove } from '../../shared/rove';
import ShareBar from '../../shared/ShareBar.vue';
import { shareState, shareText } from '../../shared/share-words';
import { torqueFigure } from './words';
import { useLoads, type LoadRow } from './useLoads';

const { rows, isPicked = false } = defineProps<{
  rows: readonly LoadRow[];
  /** A row can be chosen. */
  isPicked?: boolean;
}>();
const emit = defineEmits<{ pick: [row: LoadRow] }>();
const { torqueUnit } = useLoads();
const said = (row: LoadRow, nm: number) => torqueFigure(nm, row.unit, torqueUnit.value);
const state = ({ share }: LoadRow): string => (share === null ? 'unknown' : shareState(share));
/** The bar shows up to a quarter more than there is. */
const FULL = 0.8;
</script>

<template>
  <table class="plain loads" aria-label="Load of each motor">
    <thead>
      <tr>
        <th>joint</th>
        <th class="right">takes</th>
        <th class="right">has</th>
        <th class="share">of what it has</th>
      </tr>
    </thead>
    <tbody v-rove="'.link'">
      <tr
        v-for="row in rows"
        :key="row.key"
        :data-load="row.key"
        :data-state="state(row)"
        :class="state(row)"
        @click="emit('pick', row)"
      >
        <td>
          <span class="who"
            ><JointMark v-for="slot in row.slots" :key="slot" :index="slot" :size="22" />
            <button v-if="isPicked" class="link" :title="`Show where ${row.name} takes most`">
              {{ row.name }}
            </button>
            <span v-else>{{ row.name }}</span></span
          >
        </td>
        <td class="num right">
          {{ said(row, row.need).figure }} <span class="unit">{{ said(row, row.need).unit }}</span>
        </td>
        <td class="num right">
          <template v-if="row.has !== null">
            {{ said(row, row.has).figure }} <span class="unit">{{ said(row, row.has).unit }}</span></template
          >
          <span v-else class="small muted">{{ row.hasMotor ? 'not known' : 'no motor' }}</span>
        </td>
        <td class="share">
          <span v-if="row.share !== null" class="within"
            ><ShareBar class="grow" :part="FULL * row.share" :state="shareState(row.share)" :mark="FULL" /><b
              class="num"
              >{{ shareText(row.share) }}</b
            ></span
          >
        </td>
      </tr>
    </tbody>
  </table>
  <p v-if="rows.some(({ atShaft }) => atShaft)" class="small muted">
    Where several joints hang on a motor, or its ratio changes, torque is said at its shaft.
  </p>
</template>

<style scoped>
.loads {
  width: 100%;
}
.loads td {
  vertical-align: middle;
}
.loads td,
.loads th {
  padding: 0.16rem 0.45rem;
  white-space: nowrap;
  height: 32px;
}
.loads th.right,
.loads td.right {
  text-align: right;
}
.who {
  vertical-align: middle;
  display: inline-flex;
  align-items: center;
  gap: 0.35rem;
}
.unit {
  color: var(--ink-2);
  font-size: 0.78em;
}
.share {
  width: 34%;
}
td.share .within {
  display: flex;
  align-items: center;
  gap: 0.5rem;
}
.grow {
  flex: 1;
}
td.share b {
  min-width: 3.6em;
  text-align: right;
  color: var(--good);
}
.tight td.share b {
  color: var(--caution);
}
.over td.share b {
  color: var(--alarm);
}
</style>
