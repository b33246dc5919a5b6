<script setup lang="ts">
/** Adds a step of any kind, found by typing. */
import Select from 'primevue/select';
import { computed, ref } from 'vue';
import { stepGroups, stepNames } from '@cork-elbow/core/routine';
import type { Step } from '@cork-elbow/core/rig';
import { firstStep } from './first-steps';
import { useSteps } from './useSteps';
import { useRigStore } from '../../stores/rig';

const rigs = useRigStore();
const { insert, routine } = useSteps();
const groups = stepGroups.map(([label, kinds]) => ({
  label,
  items: kinds.map((kind) => ({ label: stepNames[kind], value: kind })),
}));
const value = ref<Step['kind'] | null>(null);
const offered: Step['kind'][] = ['joint-move', 'straight-move', 'wait', 'grip'];
const canGrip = computed(() => rigs.rig!.mechanism.tools.some((t) => t.grip));

function add(kind: Step['kind']): void {
  insert(`Add: ${stepNames[kind]}`, firstStep(kind, rigs.rig!, routine.value!));
  value.value = null;
}
</script>

<template>
  <button
    v-for="kind in offered"
    :key="kind"
    class="quick"
    :disabled="kind === 'grip' && !canGrip"
    @click="add(kind)"
  >
    {{ stepNames[kind] }}
  </button>
  <Select
    v-model="value"
    class="more"
    :options="groups"
    option-group-label="label"
    option-group-children="items"
    option-label="label"
    option-value="value"
    filter
    auto-filter-focus
    size="small"
    placeholder="More steps…"
    aria-label="Add a step"
    scroll-height="22rem"
    @update:model-value="add"
  />
</template>

<style scoped>
.quick {
  border: 1px solid var(--lines);
  background: var(--paper-2);
  border-radius: 4px;
  padding: 0.16rem 0.5rem;
  font-size: 0.85rem;
  cursor: pointer;
}
.quick:hover:not(:disabled) {
  border-color: var(--pine);
}
.quick:disabled {
  opacity: 0.5;
  cursor: default;
}
.more {
  min-width: 8rem;
}
</style>
