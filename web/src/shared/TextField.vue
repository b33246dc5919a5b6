<script setup lang="ts">
/** A line of text with a draft of its own, committed on Enter or on leaving when valid. */
import { ref, watch } from 'vue';
import { withOwner } from './fields-of';

const {
  value,
  label,
  placeholder = '',
  quiet = false,
  exact = false,
  commit,
} = defineProps<{
  value: string;
  label: string;
  placeholder?: string;
  /** Without a border until it is touched. */
  quiet?: boolean;
  /** Spaces at its ends count. */
  exact?: boolean;
  commit: (value: string) => string | void;
}>();
const draft = ref<string | null>(null);
const message = ref('');
watch(
  () => value,
  () => (draft.value = null),
);
withOwner(cancel);

function settle(): void {
  if (draft.value === null) return;
  const typed = exact ? draft.value : draft.value.trim();
  if (typed === value) return cancel();
  message.value = commit(typed) || '';
  if (!message.value) draft.value = null;
}
function cancel(): void {
  draft.value = null;
  message.value = '';
}
function key(event: KeyboardEvent): void {
  if (event.key === 'Enter') (event.target as HTMLInputElement).blur();
  if (event.key === 'Escape') cancel();
}
</script>

<template>
  <span class="field" :class="{ bad: message, quiet }">
    <input
      :aria-label="label"
      :aria-invalid="!!message"
      :placeholder
      autocomplete="off"
      :data-draft="draft !== null"
      :value="draft ?? value"
      @input="draft = ($event.target as HTMLInputElement).value"
      @keydown="key"
      @blur="settle"
    />
    <span v-if="message" class="message" role="alert">{{ message }}</span>
  </span>
</template>

<style scoped>
.field {
  display: inline-flex;
  flex-direction: column;
  min-width: 0;
  width: 100%;
}
input {
  font: inherit;
  color: var(--ink);
  border: 1px solid var(--lines);
  border-radius: 4px;
  background: var(--paper);
  padding: 0.33rem 0.5rem;
  min-width: 0;
  width: 100%;
}
.quiet input {
  border-color: transparent;
  background: transparent;
}
.quiet input:hover,
input:focus {
  border-color: var(--lines);
  background: var(--paper);
}
.bad input {
  border-color: var(--alarm);
}
.message {
  color: var(--alarm);
  font-size: 0.82rem;
  margin-top: 0.2rem;
  line-height: 1.25;
}
</style>
