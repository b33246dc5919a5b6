<script setup lang="ts">
import { computed } from 'vue';
import { letterOf, letterShift, markClass, markOutline } from '@cork-elbow/core/drawing';

/** `size`: px with letters of the usual size; it grows with them. */
const { index, size = 26 } = defineProps<{ index: number; size?: number }>();
const outline = computed(() => markOutline(index, 9));
</script>

<template>
  <svg
    :class="markClass(index)"
    :width="`${size / 16}rem`"
    :height="`${size / 16}rem`"
    viewBox="-13 -13 26 26"
    aria-hidden="true"
  >
    <path :d="outline" fill="var(--paper)" stroke="var(--jc)" stroke-width="2.2" stroke-linejoin="round" />
    <text
      x="0"
      :y="letterShift(index) * 9"
      dy="0.35em"
      text-anchor="middle"
      font-size="10.5"
      font-weight="700"
      fill="var(--ink)"
    >
      {{ letterOf(index) }}
    </text>
  </svg>
</template>

<style scoped>
svg {
  display: inline-block;
  flex: none;
  vertical-align: middle;
}
</style>
