<script setup lang="ts">
import { formatNumber } from '@cork-elbow/core/units';
import { unitOf, type StripJoint } from './strip-joint';

const { joint } = defineProps<{ joint: StripJoint }>();
</script>

<template>
  <span class="measured num" title="Read back from the board"
    >{{ formatNumber(joint.measured!, 1) }}{{ unitOf(joint) }}</span
  >
</template>

<style scoped>
.measured {
  font-size: 0.78rem;
  color: var(--ink-2);
  border-bottom: 2px dotted var(--jc);
  white-space: nowrap;
}
</style>
