<script setup lang="ts">
/** Reach: where can it go, how, and if not, why not. */
import StationHead from '../../shared/StationHead.vue';
import { useParts } from '../../shared/useParts';
import DrawingTestPart from './DrawingTestPart.vue';
import LengthsPart from './LengthsPart.vue';
import MapPart from './MapPart.vue';
import PointsPart from './PointsPart.vue';
import TargetPart from './TargetPart.vue';
import { createReach } from './useReach';

const { tool } = createReach();
const { parts, part } = useParts('reach');
</script>

<template>
  <StationHead station="reach" />
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
