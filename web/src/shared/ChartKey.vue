<script setup lang="ts">
/** What the lines of a chart are: each as it is drawn, with the mark of its joint and its name. */
import JointMark from './JointMark.vue';
import type { Series } from './LineChart.vue';

const { series } = defineProps<{ series: readonly Series[] }>();
</script>

<template>
  <ul class="key small" aria-label="Lines of the chart">
    <li v-for="s in series" :key="s.label">
      <svg width="26" height="8" aria-hidden="true">
        <line
          x1="0"
          x2="26"
          y1="4"
          y2="4"
          :stroke="`var(--j${s.colour})`"
          :stroke-width="(s.width ?? 1.8) + 0.4"
          :stroke-dasharray="s.dash?.join(' ')"
        />
      </svg>
      <JointMark v-if="s.slot !== undefined" :index="s.slot" :size="18" />
      {{ s.label }}
    </li>
  </ul>
</template>

<style scoped>
.key {
  display: flex;
  flex-wrap: wrap;
  gap: 0.15rem 0.9rem;
  list-style: none;
  margin: 0.2rem 0 0;
  padding: 0;
}
li {
  display: flex;
  align-items: center;
  gap: 0.3rem;
}
</style>
