<script setup lang="ts">
/** The question that a station answers, as its heading. */
import type { StationId } from '@cork-elbow/core/findings';
import { questionOf } from './stations';

defineProps<{ station: StationId }>();
</script>

<template>
  <header class="station-head">
    <h1>{{ questionOf(station) }}</h1>
    <slot />
  </header>
</template>

<style scoped>
.station-head {
  display: flex;
  align-items: center;
  gap: 0.75rem;
  margin-bottom: 0.7rem;
}
h1 {
  flex: 1;
  min-width: 0;
}
</style>
