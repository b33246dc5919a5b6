<script setup lang="ts">
/** Bench: the arm on its boards now, and what is kept of its runs. */
import type { Component } from 'vue';
import type { PartOf } from '@cork-elbow/core/findings';
import StationPage from '../../shared/StationPage.vue';
import { useParts } from '../../shared/useParts';
import RecordingsPart from './RecordingsPart.vue';
import LivePart from './LivePart.vue';

const { parts, part } = useParts('bench');
const pages = { live: LivePart, recordings: RecordingsPart } satisfies Record<PartOf<'bench'>, Component>;
</script>

<template>
  <StationPage v-model="part" station="bench" :parts><component :is="pages[part]" /></StationPage>
</template>
