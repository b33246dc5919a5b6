<script setup lang="ts">
/** How much of its motor's torque holding the pose takes. */
import { computed } from 'vue';
import { shareState, shareText } from '../shared/share-words';
import type { StripJoint } from './strip-joint';

const { joint } = defineProps<{ joint: StripJoint }>();
const percent = computed(() => shareText(joint.load!));
const state = computed(() => shareState(joint.load!));
</script>

<template>
  <span class="load num" :class="state" title="Of the torque that its motor may give, holding this pose takes so much"
    ><svg viewBox="0 0 12 12" aria-hidden="true"><path d="M4.2 3.4a1.8 1.8 0 1 1 3.6 0M2.6 4h6.8l1.6 7H1z" /></svg
    ><span class="sr">load </span>{{ percent }}</span
  >
</template>

<style scoped>
.load {
  display: inline-flex;
  align-items: center;
  gap: 0.2rem;
  font-size: 0.76rem;
  color: var(--ink-2);
  white-space: nowrap;
}
svg {
  width: 0.7rem;
  height: 0.7rem;
}
path {
  fill: none;
  stroke: currentcolor;
  stroke-width: 1.3;
  stroke-linejoin: round;
}
.tight {
  color: var(--caution);
  font-weight: 600;
}
.over {
  color: var(--alarm);
  font-weight: 600;
}
</style>
