<script setup lang="ts">
/** What holds the motion back at the moment on show. */
import { computed } from 'vue';
import type { Stretch } from '@cork-elbow/core/routine';
import { usePlan } from '../../workspace/usePlan';

const { held, reason } = defineProps<{ held: readonly Stretch[]; reason: (stretch: Stretch) => string }>();
const { time } = usePlan();
const now = computed(() => {
  const s = held.find(({ startS, endS }) => startS <= time.value && endS > time.value);
  return s ? reason(s) : 'nothing';
});
</script>

<template><span class="muted">Held back now by</span> {{ now }}</template>
