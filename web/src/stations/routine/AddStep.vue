<script setup lang="ts">
/** Adds a step of any kind, found by typing. */
import AutoComplete, { type AutoCompleteOptionSelectEvent } from 'primevue/autocomplete';
import { computed, nextTick, ref, shallowRef, useTemplateRef } from 'vue';
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
const typed = ref<unknown>('');
const found = shallowRef(groups);
function find(query: string): void {
  const wanted = query.trim().toLowerCase();
  found.value = groups
    .map((group) => ({ ...group, items: group.items.filter(({ label }) => label.toLowerCase().includes(wanted)) }))
    .filter(({ items }) => items.length);
}
const offered: Step['kind'][] = ['joint-move', 'straight-move', 'wait', 'grip'];
const canGrip = computed(() => rigs.rig!.mechanism.tools.some((t) => t.grip));

/** Enter or a click takes a step; who tabs past the field only leaves it. */
const list = useTemplateRef<{ hide(): void; overlayVisible: boolean; focusedOptionIndex: number }>('list');
function leave(event: Event): void {
  event.stopPropagation();
  typed.value = '';
  list.value?.hide();
}
/** Who types and presses Enter before the list has come gets what it would have shown first. */
function enter(event: KeyboardEvent): void {
  if (list.value?.overlayVisible && list.value.focusedOptionIndex !== -1) return;
  const { value } = event.target as HTMLInputElement;
  find(value);
  const first = found.value[0]?.items[0];
  if (!value.trim() || !first) return;
  event.preventDefault();
  add(first.value);
  leave(event);
}
function choose({ value }: AutoCompleteOptionSelectEvent): void {
  add((value as { value: Step['kind'] }).value);
  // After the field has taken the option for its own text.
  void nextTick(() => (typed.value = ''));
}
function add(kind: Step['kind']): void {
  insert(`Add: ${stepNames[kind]}`, firstStep(kind, rigs.rig!, routine.value!));
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
  <span class="more" @keydown.tab.capture="leave" @keydown.enter.capture="enter">
    <AutoComplete
      ref="list"
      v-model="typed"
      fluid
      :suggestions="found"
      option-group-label="label"
      option-group-children="items"
      option-label="label"
      auto-option-focus
      complete-on-focus
      dropdown
      size="small"
      :min-length="0"
      :delay="0"
      placeholder="More steps…"
      aria-label="Add a step"
      :pt="{ dropdown: { 'aria-label': 'All kinds of steps' } }"
      scroll-height="22rem"
      @complete="find($event.query)"
      @option-select="choose"
  /></span>
</template>

<style scoped>
.quick {
  border: 1px solid var(--lines);
  background: var(--paper-2);
  border-radius: 4px;
  padding: 0.16rem 0.5rem;
  font-size: 0.85rem;
  white-space: nowrap;
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
  flex: 1;
  min-width: 9rem;
}
.more :deep(input) {
  width: 100%;
  min-width: 0;
}
</style>
