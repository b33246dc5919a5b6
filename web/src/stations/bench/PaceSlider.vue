<script setup lang="ts">
/** How fast the run goes, of what was planned, changed while it moves. */
import { useThrottleFn } from '@vueuse/core';
import Button from 'primevue/button';
import { computed, ref, watch } from 'vue';
import { LEAST_PACE, MOST_PACE } from '@cork-elbow/core/contract';
import { formatNumber } from '@cork-elbow/core/units';
import { useRunStore } from '../../stores/run';

const run = useRunStore();
/** What was chosen here, until the server has it. */
const chosen = ref(1);
watch(
  () => run.status.pace?.wished ?? 1,
  (wished) => (chosen.value = wished),
  { immediate: true },
);
const send = useThrottleFn((share: number) => run.send({ type: 'pace', share }), 100, true);
function choose(percent: number): void {
  chosen.value = percent / 100;
  void send(chosen.value);
}
const percent = (share: number): string => `${formatNumber(share * 100, 0)} %`;
const now = computed(() => run.status.pace?.now ?? 1);
/** Slower than wished where joints or motors could not follow. */
const isHeld = computed(() => run.status.run === 'running' && chosen.value > 1 && now.value < chosen.value - 0.03);
const words = computed(() => {
  if (!['running', 'starting'].includes(run.status.run)) return '';
  return isHeld.value ? `now ${percent(now.value)}: limits hold it there` : `now ${percent(now.value)}`;
});
</script>

<template>
  <div class="pace">
    <label class="row">
      <span class="small">Speed</span>
      <input
        type="range"
        aria-label="Speed of the run, % of what was planned"
        :min="LEAST_PACE * 100"
        :max="MOST_PACE * 100"
        step="5"
        :value="Math.round(chosen * 100)"
        :disabled="!run.mayDrive"
        @input="choose(Number(($event.target as HTMLInputElement).value))"
      />
      <span class="num">{{ percent(chosen) }}</span>
    </label>
    <Button
      size="small"
      severity="secondary"
      label="As planned"
      :disabled="!run.mayDrive || chosen === 1"
      @click="choose(100)"
    />
    <span class="small" :class="{ muted: !isHeld }" role="status" :data-pace="percent(now)">{{ words }}</span>
  </div>
</template>

<style scoped>
.pace {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto auto;
  gap: 0.7rem;
  align-items: center;
  margin-top: 0.35rem;
}
.pace > span {
  min-width: 7.5rem;
}
input {
  flex: 1;
  min-width: 0;
  accent-color: var(--pine);
}
.num {
  min-width: 3.4rem;
  text-align: right;
}
</style>
