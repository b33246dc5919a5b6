<script setup lang="ts">
/** A joint of a recording over time: all of it or a stretch, as many points as can be seen of an hour. */
import Button from 'primevue/button';
import { computed, defineAsyncComponent, ref, watch } from 'vue';
import { partingOf, thinned, type Track } from '@cork-elbow/core/recording';
import { formatNumber } from '@cork-elbow/core/units';
import ChartKey from '../../shared/ChartKey.vue';
import { useSlotOf } from '../../shared/joints';
import type { Series } from '../../shared/LineChart.vue';
import JointMarks from './JointMarks.vue';
import { useViewStore } from '../../stores/view';

const LineChart = defineAsyncComponent(() => import('../../shared/LineChart.vue'));

const { track, other, time } = defineProps<{
  track: Track;
  other: Track | null;
  /** Where in it the player stands (s). */
  time: () => number;
}>();
const emit = defineEmits<{ pick: [atS: number] }>();
const view = useViewStore();
const slotOf = useSlotOf();
/** Stretches of a curve: as many as the chart is wide in px. */
const STRETCHES = 420;
/** Least s on show. */
const LEAST = 0.5;

const shown = ref<string | null>(null);
const joint = computed(() => {
  const { joints } = track.head;
  return Math.max(
    0,
    joints.findIndex(({ id }) => id === (shown.value ?? view.selected)),
  );
});
const marks = computed(() => track.head.joints.map(({ id, name }, k) => ({ id, name, slot: slotOf(id, k) })));
const info = computed(() => track.head.joints.at(joint.value));

/** What of it is on show (s). */
const from = ref(0);
const span = ref(Infinity);
const to = computed(() => Math.min(track.durationS, from.value + span.value));
const isAll = computed(() => span.value >= track.durationS);
function narrow(factor: number): void {
  const next = Math.max(LEAST, Math.min(track.durationS, Math.min(span.value, track.durationS) * factor));
  span.value = next >= track.durationS ? Infinity : next;
  from.value = isAll.value ? 0 : Math.max(0, Math.min(track.durationS - next, time() - next / 2));
}
// Page by page, so that what runs stays in sight.
watch(
  () => time(),
  (at) => {
    if (isAll.value || (at >= from.value && at <= to.value)) return;
    const begin = at < from.value ? at - span.value * 0.9 : at - span.value * 0.1;
    from.value = Math.max(0, Math.min(track.durationS - span.value, begin));
  },
);

const series = computed<Series[]>(() => {
  const k = joint.value;
  const known = info.value;
  if (!known || !track.length) return [];
  const slot = slotOf(known.id, k);
  const curve = (value: (row: number) => number) => thinned(track, value, from.value, to.value, STRETCHES);
  const list: Series[] = [
    {
      ...{ label: `${known.name} commanded`, slot, colour: (slot % 8) + 1, width: 1.6 },
      points: curve((row) => track.value(row, k, 'commanded')),
    },
  ];
  const measured = curve((row) => track.value(row, k, 'measured'));
  if (measured.length) list.push({ label: 'read back', colour: 8, dash: [4, 3], width: 1.6, points: measured });
  if (other) {
    const apart = partingOf(track, other, known.id);
    const points = curve((row) => track.stood(row, k) - apart(row));
    list.push({ label: 'the other run', colour: ((slot + 3) % 8) + 1, dash: [1, 3], width: 2, points });
  }
  return list;
});
const isReadBack = computed(() => series.value.some(({ label }) => label === 'read back'));
</script>

<template>
  <div class="row top">
    <JointMarks class="grow" :joints="marks" :model-value="info?.id ?? null" @update:model-value="shown = $event" />
    <span class="num small muted">{{ formatNumber(from, 1) }} to {{ formatNumber(to, 1) }} s</span>
    <Button
      size="small"
      severity="secondary"
      variant="text"
      label="Closer"
      :disabled="to - from <= LEAST"
      @click="narrow(0.4)"
    />
    <Button size="small" severity="secondary" variant="text" label="Wider" :disabled="isAll" @click="narrow(2.5)" />
    <Button
      size="small"
      severity="secondary"
      variant="text"
      label="All"
      :disabled="isAll"
      @click="narrow(Infinity)"
    />
  </div>
  <div class="chart" :data-points="series.reduce((sum, { points }) => sum + points.length, 0)">
    <LineChart
      v-if="series.length"
      :series
      :unit="info!.unit"
      :label="`${info!.name} in the recording`"
      :cursor="time"
      :min-x="from"
      :max-x="to"
      @pick="emit('pick', $event)"
    />
    <p v-else class="muted small">This run was over before anything was taken down.</p>
  </div>
  <ChartKey v-if="series.length" :series />
  <p v-if="series.length && !isReadBack" class="muted small">
    Nothing reads this joint back: where it really was is not known, only where it was told to be.
  </p>
</template>

<style scoped>
.top {
  align-items: center;
  margin-top: 0.4rem;
  gap: 0.2rem;
}
.chart {
  height: 190px;
  margin-top: 0.3rem;
}
</style>
