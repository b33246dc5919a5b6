<script setup lang="ts">
/** Plays the plan on the stage, and steps through it. A piece of its own: it changes with every picture. */
import {
  IconArrowBarRight,
  IconPlayerPause,
  IconPlayerPlay,
  IconPlayerTrackNext,
  IconPlayerTrackPrev,
} from '@tabler/icons-vue';
import Button from 'primevue/button';
import { refThrottled } from '@vueuse/core';
import { computed } from 'vue';
import { perHourOf, type Plan } from '@cork-elbow/core/routine';
import { formatFixed, formatNumber } from '@cork-elbow/core/units';
import { READ_MS, useViewStore } from '../../stores/view';
import { usePlan } from '../../workspace/usePlan';
import { useSteps } from './useSteps';

const { plan } = defineProps<{ plan: Plan }>();
const emit = defineEmits<{ told: [sentence: string] }>();
const view = useViewStore();
const { time, isPlaying, play, pause, show } = usePlan();
const steps = useSteps();
const { selected } = steps;
const calm = refThrottled(time, READ_MS, true, true);
/** What is told of the time: while it plays no faster than it can be read. */
const shown = computed(() => (isPlaying.value ? calm.value : time.value));
const cycle = computed(() => perHourOf(plan));

/** Ends of the steps in time, where the arm is taken by stepping. */
const stopsOf = (depth: number): number[] => [
  ...new Set([
    0,
    ...plan.steps.filter((s) => s.endS > s.startS && s.depth <= depth).map((s) => s.endS),
    plan.durationS,
  ]),
];
/** On or back by one step; over routines that are called (Shift), or into them. */
function stepTo(by: 1 | -1, over: boolean): void {
  pause();
  const stops = stopsOf(over ? 0 : Infinity);
  const now = time.value;
  const next = by > 0 ? stops.find((t) => t > now + 1e-6) : stops.findLast((t) => t < now - 1e-6);
  emit(
    'told',
    by < 0 && plan.events.some((e) => e.timeS <= now + 1e-9 && e.timeS > (next ?? 0) - 1e-9)
      ? 'Back along the way only: outputs, counters and waits are not undone.'
      : '',
  );
  if (next !== undefined) show(next);
}
function playFrom(): void {
  const chosen = selected.value && steps.timed(selected.value.id);
  if (chosen) show(chosen.startS);
  play();
}
</script>

<template>
  <div class="player">
    <Button
      size="small"
      severity="secondary"
      aria-label="Back to the step before"
      title="Step back; with Shift over routines that are called"
      @click="stepTo(-1, $event.shiftKey)"
      ><IconPlayerTrackPrev :size="16"
    /></Button>
    <Button
      size="small"
      :aria-label="isPlaying ? 'Pause' : 'Play on the stage'"
      :disabled="view.poseSource === 'live'"
      @click="isPlaying ? pause() : play()"
      ><IconPlayerPause v-if="isPlaying" :size="17" /><IconPlayerPlay v-else :size="17"
    /></Button>
    <Button
      size="small"
      severity="secondary"
      aria-label="On to the next step"
      title="Step on, into routines that are called; with Shift over them"
      @click="stepTo(1, $event.shiftKey)"
      ><IconPlayerTrackNext :size="16"
    /></Button>
    <input
      class="grow own-slider"
      type="range"
      min="0"
      :max="plan.durationS"
      step="0.01"
      :value="shown"
      aria-label="Time in the routine"
      :aria-valuetext="`${formatNumber(shown, 1)} s`"
      @input="
        pause();
        show(Number(($event.target as HTMLInputElement).value));
      "
    />
    <span class="num small">{{ formatFixed(shown, 1) }} / {{ formatFixed(plan.durationS, 1) }} s</span>
    <span class="small muted rate">{{ formatNumber(cycle, 0) }} runs an hour</span>
    <Button
      v-if="selected"
      size="small"
      variant="text"
      aria-label="Play from the chosen step"
      title="Play from the chosen step"
      @click="playFrom"
      ><IconArrowBarRight :size="17"
    /></Button>
  </div>
</template>

<style scoped>
.player {
  display: flex;
  align-items: center;
  gap: 0.35rem;
}
/* The slider comes first where there is little room. */
@container station (max-width: 27rem) {
  .rate {
    display: none;
  }
}
</style>
