<script setup lang="ts">
/** The figure of a joint, to be typed; while the board drives, shown in full ink behind a lock. */
import { IconLock } from '@tabler/icons-vue';
import { formatNumber } from '@cork-elbow/core/units';
import NumberField from '../shared/NumberField.vue';
import { unitOf, type StripJoint } from './strip-joint';

const { joint, locked } = defineProps<{ joint: StripJoint; locked: boolean }>();
const emit = defineEmits<{ move: [value: number] }>();
</script>

<template>
  <span v-if="locked" class="locked num" :title="`${joint.info.name} is led by the board`"
    ><IconLock :size="13" aria-label="led by the board" />{{ formatNumber(joint.value, 1) }}{{ unitOf(joint) }}</span
  >
  <NumberField
    v-else
    class="big"
    :value="joint.value"
    :dimension="joint.info.unit === 'mm' ? 'length' : 'angle'"
    :decimals="1"
    :label="`${joint.info.name} position`"
    :min="joint.low"
    :max="joint.high"
    :step="1"
    :commit="(v: number) => emit('move', v)"
  />
</template>

<style scoped>
.locked {
  display: flex;
  align-items: center;
  justify-content: flex-end;
  gap: 0.3rem;
  font-size: 1.15rem;
  padding: 0 0.3rem;
  white-space: nowrap;
}
.big :deep(.box) {
  border-color: transparent;
  background: transparent;
  padding: 0 0.15rem;
}
.big :deep(.box:hover),
.big :deep(.box:focus-within) {
  border-color: var(--lines);
}
.big :deep(input) {
  font-size: 1.2rem;
}
</style>
