<script setup lang="ts">
/** One step of the list. A piece of its own, so that of hundreds only those are drawn again that changed. */
import { IconChevronDown, IconChevronRight, IconGripVertical } from '@tabler/icons-vue';
import { computed } from 'vue';
import { describeStep, stepNames } from '@cork-elbow/core/routine';
import type { Pace, Step } from '@cork-elbow/core/rig';
import { formatFixed, formatNumber } from '@cork-elbow/core/units';
import { useRigStore } from '../../stores/rig';

const { step, seconds } = defineProps<{
  step: Step;
  /** In the routine, from 0; place among those that are seen, from 1, and how many those are. */
  index: number;
  at: number;
  of: number;
  depth: number;
  counts: boolean;
  opens: boolean;
  isFolded: boolean;
  /** Steps folded away in it. */
  inside: number;
  isChosen: boolean;
  /** Under way, and whether that is on show. */
  isCurrent: boolean;
  isPlayed: boolean;
  /** The gravest finding there. */
  mark: string | undefined;
  /** What it takes in all, and how many times it is done. */
  seconds: number;
  times: number;
}>();
const emit = defineEmits<{
  click: [event: MouseEvent, id: string];
  keydown: [event: KeyboardEvent, id: string];
  fold: [id: string];
}>();
const rigs = useRigStore();
const words = computed(() => describeStep(rigs.rig!, step));
const timeText = computed(() => (seconds > 0 ? `${formatFixed(seconds, 2)} s` : ''));
function paceText(pace: Pace): string {
  if ('durationS' in pace) return `in ${formatNumber(pace.durationS, 2)} s`;
  return 'mmPerS' in pace ? `${formatNumber(pace.mmPerS, 1)} mm/s` : `${formatNumber(pace.speedShare * 100, 0)} %`;
}
</script>

<template>
  <li
    :aria-setsize="of"
    :aria-posinset="at"
    class="step"
    tabindex="0"
    :data-step="step.id"
    :data-kind="step.kind"
    :aria-current="isCurrent ? 'step' : undefined"
    :class="{
      chosen: isChosen,
      playing: isPlayed,
      off: !counts,
      order: !('pace' in step) && step.kind !== 'wait' && step.kind !== 'note',
    }"
    @click="emit('click', $event, step.id)"
    @keydown="emit('keydown', $event, step.id)"
  >
    <span class="grip" aria-hidden="true"><IconGripVertical :size="14" /></span>
    <span class="num no" :class="mark">{{ index + 1 }}</span>
    <span class="what" :style="{ paddingLeft: `${depth * 0.9}rem` }"
      ><span v-if="isChosen" class="sr">chosen: </span
      ><button
        v-if="opens"
        class="fold"
        :aria-label="isFolded ? 'Unfold' : 'Fold'"
        tabindex="-1"
        @click.stop="emit('fold', step.id)"
      >
        <IconChevronRight v-if="isFolded" :size="14" /><IconChevronDown v-else :size="14" /></button
      ><b>{{ stepNames[step.kind] }}</b> {{ words }}
      <span v-if="isFolded" class="muted small">… {{ inside }} inside</span>
      <span v-if="step.note && step.kind !== 'note'" class="muted small">{{ step.note }}</span></span
    >
    <span class="muted small pace">{{ 'pace' in step ? paceText(step.pace) : '' }}</span>
    <span class="num small time"
      ><span v-if="times > 1 && timeText" class="muted">{{ times }}× </span>{{ timeText }}</span
    >
  </li>
</template>

<style scoped>
.step {
  display: grid;
  grid-template-columns: 1rem 1.7rem minmax(0, 1fr) auto 4.4rem;
  gap: 0.35rem;
  align-items: center;
  padding: 0 0.4rem 0 0.1rem;
  border-bottom: 1px solid var(--lines);
  cursor: pointer;
  font-size: 0.9rem;
  /* Rows are of one height: nothing in one moves another, and those beyond the view are not laid out. */
  contain: layout style;
  content-visibility: auto;
}
.step:last-child {
  border-bottom: 0;
}
.step.chosen {
  background: var(--pine-wash);
}
.step.order b {
  color: var(--cork);
}
.step.playing {
  box-shadow: inset 4px 0 0 var(--cork);
}
.step.off,
.step.off b {
  color: var(--ink-3);
  text-decoration: line-through;
}
.what {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.fold {
  border: 0;
  background: none;
  padding: 0;
  margin-right: 0.1rem;
  vertical-align: -2px;
  cursor: pointer;
  color: var(--ink-2);
}
.no,
.grip {
  color: var(--ink-3);
}
.no {
  text-align: right;
  font-size: 0.8rem;
  border-radius: 3px;
}
.no.stop {
  color: var(--on-alarm);
  background: var(--alarm);
  text-align: center;
}
.no.look {
  color: var(--caution);
  background: var(--caution-wash);
  text-align: center;
}
.time {
  text-align: right;
  white-space: nowrap;
}
.grip {
  cursor: grab;
  display: grid;
}
</style>
