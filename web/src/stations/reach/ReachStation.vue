<script setup lang="ts">
/** Reach: where can it go, how, and if not, why not. */
import { useSessionStorage } from '@vueuse/core';
import StationHead from '../../shared/StationHead.vue';
import DrawingTestPart from './DrawingTestPart.vue';
import LengthsPart from './LengthsPart.vue';
import MapPart from './MapPart.vue';
import PointsPart from './PointsPart.vue';
import TargetPart from './TargetPart.vue';
import { createReach } from './useReach';

const { tool } = createReach();
type Part = 'target' | 'map' | 'points' | 'lengths' | 'drawing';
const parts: { id: Part; name: string }[] = [
  { id: 'target', name: 'Target' },
  { id: 'map', name: 'Map' },
  { id: 'points', name: 'Points' },
  { id: 'lengths', name: 'Lengths' },
  { id: 'drawing', name: 'Drawing test' },
];
const part = useSessionStorage<Part>('cork-elbow:reach-part', 'target');
</script>

<template>
  <StationHead question="Can it get there?" />
  <p v-if="!tool" class="muted">There is no tool on the arm yet: add one on the Measure page.</p>
  <template v-else>
    <span class="choice parts" role="group" aria-label="Part of the station"
      ><button v-for="p in parts" :key="p.id" :aria-pressed="part === p.id" @click="part = p.id">
        {{ p.name }}
      </button></span
    >
    <TargetPart v-if="part === 'target'" />
    <MapPart v-else-if="part === 'map'" />
    <PointsPart v-else-if="part === 'points'" />
    <LengthsPart v-else-if="part === 'lengths'" />
    <DrawingTestPart v-else />
  </template>
</template>

<style scoped>
.parts {
  display: flex;
  margin-bottom: 0.7rem;
}
.parts button {
  flex: 1 1 auto;
  padding-inline: 0.3rem;
  white-space: nowrap;
}
</style>
