<script setup lang="ts">
/** Play, pause, a place in time, and back to the own pose. */
import Button from 'primevue/button';
import { formatNumber } from '@cork-elbow/core/units';
import type { Timeline } from './useTimeline';

const { timeline, duration } = defineProps<{ timeline: Timeline; duration: number }>();
const { time, speed, isPlaying, play, pause, show, leave } = timeline;
</script>

<template>
  <div class="row bar">
    <Button size="small" :label="isPlaying ? 'Pause' : 'Play'" @click="isPlaying ? pause() : play()" />
    <input
      type="range"
      min="0"
      :max="duration"
      step="0.01"
      :value="time"
      class="grow own-slider"
      aria-label="Time"
      @input="show(Number(($event.target as HTMLInputElement).value))"
    />
    <span class="num small time">{{ formatNumber(time, 1) }} / {{ formatNumber(duration, 1) }} s</span>
    <span v-rove.across="'button'" class="choice" role="group" aria-label="Speed of playing"
      ><button v-for="k in [1, 4, 16]" :key="k" :aria-pressed="k === speed" @click="speed = k">{{ k }}×</button></span
    >
    <Button size="small" variant="text" label="Back to my pose" :disabled="time === 0 && !isPlaying" @click="leave" />
  </div>
</template>

<style scoped>
.bar {
  background: var(--paper-2);
  border-radius: 4px;
  padding: 0.35rem 0.5rem;
  flex-wrap: wrap;
}
.bar .own-slider {
  flex: 1 1 7rem;
}
.time {
  white-space: nowrap;
}
</style>
