<script setup lang="ts" generic="Id extends string">
/** The parts of a station as a row of buttons; the one on show is pressed. */
import type { Part } from './stations';

const part = defineModel<Id>({ required: true });
const { parts, label = 'Part of the station' } = defineProps<{
  parts: readonly Part<Id>[];
  /** For screen readers. */
  label?: string;
}>();
</script>

<template>
  <span class="choice station-parts" role="group" :aria-label="label"
    ><button v-for="p in parts" :key="p.id" :aria-pressed="part === p.id" @click="part = p.id">
      {{ p.name }}
    </button></span
  >
</template>

<style scoped>
.station-parts {
  display: flex;
  margin-bottom: 0.6rem;
}
.station-parts button {
  flex: 1 1 auto;
  padding-inline: 0.3rem;
  white-space: nowrap;
}
@media (max-width: 1100px) {
  .station-parts button {
    padding-inline: 0.15rem;
    font-size: 0.86rem;
  }
}
</style>
