<script setup lang="ts">
/** What happened in a run, in the order of time; each goes there. */
import { useVirtualList } from '@vueuse/core';
import { computed, ref } from 'vue';
import type { RecordingEvent, RecordingHead } from '@cork-elbow/core/contract';
import { formatFixed, formatNumber } from '@cork-elbow/core/units';
import { eventWords } from './run-words';

const { events, head, time } = defineProps<{
  events: readonly RecordingEvent[];
  head: RecordingHead;
  time: number;
}>();
const emit = defineEmits<{ pick: [atS: number] }>();
/** Height of a row (px). */
const ROW = 24;
const IN_VIEW = 8;
const kinds = [
  { id: 'step', label: 'steps' },
  { id: 'signal', label: 'inputs, outputs' },
  { id: 'else', label: 'the rest' },
] as const;
const on = ref<Record<(typeof kinds)[number]['id'], boolean>>({ step: true, signal: true, else: true });
const kindOf = ({ kind }: RecordingEvent): (typeof kinds)[number]['id'] =>
  kind === 'step' || kind === 'signal' ? kind : 'else';
const shown = computed(() => events.filter((event) => on.value[kindOf(event)]));
const { list, containerProps, wrapperProps } = useVirtualList(shown, { itemHeight: ROW });
const nameOf = (signal: string): string => head.signals.find(({ id }) => id === signal)?.name ?? signal;
/** The last one that has happened where the player stands. */
const now = computed(() => shown.value.findLastIndex(({ atS }) => atS <= time + 1e-6));
</script>

<template>
  <div class="row top small">
    <b class="grow">What happened</b>
    <label v-for="{ id, label } in kinds" :key="id"><input v-model="on[id]" type="checkbox" /> {{ label }}</label>
  </div>
  <div
    v-bind="containerProps"
    class="events"
    :style="{ height: `${ROW * Math.min(IN_VIEW, Math.max(1, shown.length))}px` }"
  >
    <ol v-bind="wrapperProps" v-rove="'button'" aria-label="What happened in the run">
      <li
        v-for="{ data, index } in list"
        :key="index"
        :style="{ height: `${ROW}px` }"
        :class="{ now: index === now, notice: data.kind === 'notice' }"
        :data-event="data.kind"
      >
        <button @click="emit('pick', data.atS)">
          <span class="num at">{{ formatFixed(data.atS, 2) }} s</span>
          <span class="cut" :title="eventWords(data, nameOf)">{{ eventWords(data, nameOf) }}</span>
        </button>
      </li>
    </ol>
  </div>
  <p class="muted small">{{ formatNumber(shown.length, 0) }} of {{ formatNumber(events.length, 0) }}</p>
</template>

<style scoped>
.top {
  margin-top: 0.6rem;
  gap: 0.8rem;
}
.top label {
  display: flex;
  gap: 0.3rem;
  align-items: center;
}
.events {
  border: 1px solid var(--lines);
  border-radius: 4px;
  margin-top: 0.3rem;
  scrollbar-width: thin;
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
}
.now {
  background: var(--pine-wash);
}
.notice {
  color: var(--caution);
}
button {
  all: unset;
  box-sizing: border-box;
  display: grid;
  grid-template-columns: 4.6rem minmax(0, 1fr);
  gap: 0.6rem;
  width: 100%;
  height: 100%;
  align-items: center;
  padding-inline: 0.4rem;
  cursor: pointer;
  font-size: 0.88rem;
}
button:focus-visible {
  outline: 2px solid var(--pine);
  outline-offset: -2px;
}
.at {
  text-align: right;
  color: var(--ink-2);
}
.cut {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
