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
</script>

<template>
  <label class="choice-field"
    ><span v-if="label">{{ label }}</span>
    <Select
      :model-value="value"
      :options="[...options]"
      option-label="label"
      option-value="value"
      size="small"
      :aria-label="name ?? label"
      :placeholder
      @update:model-value="emit('change', $event)"
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
</style>
