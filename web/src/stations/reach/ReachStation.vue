<script setup lang="ts">
/** Reach: where can it go, how, and if not, why not. */
import type { Component } from 'vue';
import type { PartOf } from '@cork-elbow/core/findings';
import StationPage from '../../shared/StationPage.vue';
import { useParts } from '../../shared/useParts';
import DrawingTestPart from './DrawingTestPart.vue';
import LengthsPart from './LengthsPart.vue';
import MapPart from './MapPart.vue';
import PointsPart from './PointsPart.vue';
import TargetPart from './TargetPart.vue';
import { createReach } from './useReach';

const { tool } = createReach();
const { parts, part } = useParts('reach');
const pages = {
  target: TargetPart,
  map: MapPart,
  points: PointsPart,
  lengths: LengthsPart,
  drawing: DrawingTestPart,
} satisfies Record<PartOf<'reach'>, Component>;
</script>

<template>
  <StationPage v-model="part" station="reach" :parts="tool ? parts : []">
    <p v-if="!tool" class="muted">There is no tool on the arm yet: add one on the Measure page.</p>
    <component :is="pages[part]" v-else />
  </StationPage>
</template>
