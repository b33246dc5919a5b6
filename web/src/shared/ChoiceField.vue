<script setup lang="ts">
/** A labelled choice from a list. */
import Select from 'primevue/select';

type Value = string | number | boolean | null;
const {
  label,
  options,
  value,
  name,
  placeholder = '',
} = defineProps<{
  label: string;
  options: readonly { readonly label: string; readonly value: Value }[];
  value: Value;
  /** For screen readers, where the label alone would not do. */
  name?: string;
  placeholder?: string;
}>();
const emit = defineEmits<{ change: [value: Value] }>();

/** An empty text would show as no choice at all: it goes under another name inside. */
const EMPTY = '#empty';
const inside = (v: Value): Value => (v === '' ? EMPTY : v);
</script>

<template>
  <label class="choice-field"
    ><span v-if="label">{{ label }}</span>
    <Select
      :model-value="inside(value)"
      :options="options.map((o) => ({ ...o, value: inside(o.value) }))"
      option-label="label"
      option-value="value"
      size="small"
      :aria-label="name ?? label"
      :placeholder
      @update:model-value="emit('change', $event === EMPTY ? '' : $event)"
  /></label>
</template>

<style scoped>
.choice-field {
  display: grid;
  gap: 0.15rem;
  font-size: 0.82rem;
  color: var(--ink-2);
  min-width: 0;
}
/* Words of fields are written small, as those inside fields are. */
.choice-field > span:first-child {
  text-transform: lowercase;
}
</style>
