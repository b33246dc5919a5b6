<script setup lang="ts">
/** Hand-off: what leaves the rig as a file, and what comes into it as text. */
import type { Component } from 'vue';
import type { PartOf } from '@cork-elbow/core/findings';
import StationPage from '../../shared/StationPage.vue';
import { useParts } from '../../shared/useParts';
import FilesIn from './FilesIn.vue';
import FilesOut from './FilesOut.vue';

const { parts, part } = useParts('hand-off');
const pages = { out: FilesOut, in: FilesIn } satisfies Record<PartOf<'hand-off'>, Component>;
</script>

<template>
  <StationPage v-model="part" station="hand-off" :parts><component :is="pages[part]" /></StationPage>
</template>
