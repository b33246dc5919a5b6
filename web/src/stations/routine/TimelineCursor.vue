<script setup lang="ts">
/** Where playing is on a track: alone here, so that nothing else is drawn anew at every frame. */
import { usePlan } from '../../workspace/usePlan';

const { span } = defineProps<{ span: number }>();
const { time } = usePlan();
</script>

<template>
  <span class="cursor" :style="{ left: `${(100 * time) / span}%` }" aria-hidden="true" />
</template>

<style scoped>
.cursor {
  position: absolute;
  top: -2px;
  bottom: -2px;
  width: 2px;
  margin-left: -1px;
  background: var(--cork);
  pointer-events: none;
}
</style>
