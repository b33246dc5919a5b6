<script setup lang="ts">
/** Hand-off: what leaves the rig as a file, and what comes into it as text. */
import type { Component } from 'vue';
import type { PartOf } from '@cork-elbow/core/findings';
import StationHead from '../../shared/StationHead.vue';
import StationParts from '../../shared/StationParts.vue';
import { useParts } from '../../shared/useParts';
import FilesIn from './FilesIn.vue';
import FilesOut from './FilesOut.vue';

const { parts, part } = useParts('hand-off');
const pages = { out: FilesOut, in: FilesIn } satisfies Record<PartOf<'hand-off'>, Component>;
</script>

<template>
  <StationHead station="hand-off" />
  <StationParts v-model="part" :parts />
  <component :is="pages[part]" />
</template>
