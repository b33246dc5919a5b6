<script setup lang="ts">
/** Hand-off: what leaves the rig as a file, and what comes into it as text. */
import { useTemplateRef, type Component } from 'vue';
import type { PartOf } from '@cork-elbow/core/findings';
import StationPage from '../../shared/StationPage.vue';
import { useParts } from '../../shared/useParts';
import FilesIn from './FilesIn.vue';
import FilesOut from './FilesOut.vue';

const { parts, part } = useParts('hand-off');
const pages = { out: FilesOut, in: FilesIn } satisfies Record<PartOf<'hand-off'>, Component>;
/** Where what leaves or comes in is pressed: in sight, whatever is scrolled to. */
const foot = useTemplateRef('foot');
</script>

<template>
  <StationPage v-model="part" station="hand-off" :parts>
    <div class="sheet-page"><component :is="pages[part]" :foot /></div>
    <template #foot><div ref="foot" class="row leaves"></div></template>
  </StationPage>
</template>

<style scoped>
/* The preview takes what room is left. */
.sheet-page {
  display: flex;
  flex-direction: column;
  min-height: 26rem;
  height: 100%;
}
.leaves {
  align-items: center;
}
.sheet-page > :deep(*:not(.grows)) {
  flex: none;
}
</style>
