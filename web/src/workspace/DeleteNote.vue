<script setup lang="ts">
/** What the last edit deleted, who used it, and the way back; one at a time, until something else is done. */
import { IconX } from '@tabler/icons-vue';
import { useTimeoutFn } from '@vueuse/core';
import Button from 'primevue/button';
import { computed, watch } from 'vue';
import IconButton from '../shared/IconButton.vue';
import { useRigStore } from '../stores/rig';

/** Undo is in the head for good; here it stands so long (ms). */
const STANDS = 20_000;
const rigs = useRigStore();
const close = (): void => void (rigs.deleted = null);
const { start, stop } = useTimeoutFn(close, STANDS, { immediate: false });
watch(
  () => rigs.deleted,
  (now) => (now ? start() : stop()),
);
const what = computed(() => rigs.deleted?.label.replace(/^Delete/, 'Deleted') ?? '');
const used = computed(() => {
  const { usedBy = [], more = 0 } = rigs.deleted ?? {};
  if (!usedBy.length) return '';
  return `Used until now by ${usedBy.join('; ')}${more ? ` and ${more} more` : ''}.`;
});
</script>

<template>
  <div class="deleted" role="status" @focusin="stop()" @mouseenter="stop()" @mouseleave="rigs.deleted && start()">
    <template v-if="rigs.deleted">
      <span class="grow"
        ><b>{{ what }}.</b> {{ used }}</span
      >
      <Button size="small" severity="secondary" label="Undo" @click="rigs.undo()" />
      <IconButton :icon="IconX" label="Put the note away" title="Put the note away" @click="close" />
    </template>
  </div>
</template>

<style scoped>
.deleted:not(:empty) {
  display: flex;
  align-items: center;
  gap: 0.6rem;
  width: max-content;
  max-width: min(40rem, 100% - 1.2rem);
  background: var(--ink);
  color: var(--paper);
  border-radius: 5px;
  padding: 0.4rem 0.5rem 0.4rem 0.9rem;
  box-shadow: var(--shadow);
  font-size: 0.92rem;
}
.deleted :deep(.p-button-text) {
  color: inherit;
}
</style>
