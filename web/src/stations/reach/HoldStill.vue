<script setup lang="ts">
/** Which joints of the tool keep their values, one mark a joint. */
import { computed } from 'vue';
import JointMark from '../../shared/JointMark.vue';
import { useRigStore } from '../../stores/rig';
import { useReach } from './useReach';

const rigs = useRigStore();
const { tool, held, hold } = useReach();
const joints = computed(() =>
  Array.from(tool.value?.slots ?? [], (slot) => {
    const j = rigs.mechanism!.jointOfSlot[slot];
    return { id: rigs.mechanism!.ids[j], name: rigs.mechanism!.names[j], slot };
  }),
);
</script>

<template>
  <div class="held">
    <span class="muted small">Hold still</span>
    <button
      v-for="j in joints"
      :key="j.id"
      class="hold"
      :aria-pressed="held.has(j.id)"
      :aria-label="`Hold ${j.name}`"
      :title="held.has(j.id) ? `${j.name} keeps its value` : `Let ${j.name} move`"
      @click="hold(j.id)"
    >
      <JointMark :index="j.slot" :size="19" />
    </button>
    <slot />
  </div>
</template>

<style scoped>
.held {
  display: flex;
  align-items: center;
  gap: 0.3rem;
  margin-bottom: 0.5rem;
  flex-wrap: wrap;
}
.hold {
  border: 1px solid transparent;
  border-radius: 4px;
  background: none;
  padding: 0.1rem 0.15rem;
  cursor: pointer;
  display: inline-flex;
}
.hold[aria-pressed='true'] {
  border-color: var(--cork);
  background: var(--cork-wash);
}
</style>
