<script setup lang="ts">
import { formatNumber } from '@cork-elbow/core/units';
import { isBounded, unitOf, type StripJoint } from './strip-joint';

const { joint, locked } = defineProps<{ joint: StripJoint; locked: boolean }>();
const emit = defineEmits<{ move: [value: number] }>();
</script>

<template>
  <span class="slider num">
    <span>{{ isBounded(joint) ? formatNumber(joint.low, 0) : '–∞' }}</span>
    <input
      v-if="isBounded(joint)"
      class="own-slider"
      type="range"
      :aria-label="`${joint.info.name} slider`"
      :min="joint.low"
      :max="joint.high"
      step="0.1"
      :value="joint.value"
      :disabled="locked"
      :aria-valuetext="`${formatNumber(joint.value, 1)}${unitOf(joint)}`"
      @input="emit('move', Number(($event.target as HTMLInputElement).value))"
    />
    <span>{{ isBounded(joint) ? formatNumber(joint.high, 0) : '∞' }}</span>
  </span>
</template>

<style scoped>
.slider {
  display: flex;
  align-items: center;
  gap: 0.4rem;
  font-size: 0.76rem;
  color: var(--ink-2);
  min-width: 0;
  justify-content: space-between;
}
input {
  flex: 1;
  min-width: 0;
  --slider: var(--jc);
}
</style>
