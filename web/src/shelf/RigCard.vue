<script setup lang="ts">
import { IconCopy, IconDownload, IconTrash } from '@tabler/icons-vue';
import { formatDistanceToNow } from 'date-fns';
import { RouterLink } from 'vue-router';
import type { RigSummary } from '@cork-elbow/core/contract';
import type { Drawing } from '@cork-elbow/core/drawing';
import DrawingSvg from '../shared/DrawingSvg.vue';
import IconButton from '../shared/IconButton.vue';

/** A rig on the shelf, with its drawing once that is made. */
defineProps<{ rig: RigSummary; drawing?: Drawing | undefined }>();
defineEmits<{ copy: []; download: []; remove: [] }>();
</script>

<template>
  <li class="card">
    <RouterLink :to="`/rigs/${rig.id}`" class="open">
      <span class="sheet"><DrawingSvg v-if="drawing" :drawing="drawing" /></span>
      <span class="name">{{ rig.name }}</span>
      <span class="muted small"
        >{{ rig.joints }} joints, {{ rig.routines }} {{ rig.routines === 1 ? 'routine' : 'routines' }}, changed
        {{ formatDistanceToNow(new Date(rig.updatedAt), { addSuffix: true }) }}</span
      >
    </RouterLink>
    <span class="row actions">
      <IconButton :icon="IconCopy" :label="`Copy ${rig.name}`" title="Copy" @click="$emit('copy')" />
      <IconButton
        :icon="IconDownload"
        :label="`Download ${rig.name}`"
        title="Download as a file"
        @click="$emit('download')"
      />
      <IconButton
        :icon="IconTrash"
        :label="`Take ${rig.name} off the shelf`"
        title="Take off the shelf"
        danger
        @click="$emit('remove')"
      />
    </span>
  </li>
</template>

<style scoped>
.open {
  display: flex;
  flex-direction: column;
  padding: 0.9rem 0.9rem 0.3rem;
  color: inherit;
  text-decoration: none;
  gap: 0.1rem;
}
.open:hover .name {
  color: var(--pine);
}
.sheet {
  aspect-ratio: 320 / 230;
  border-bottom: 1px solid var(--lines);
  margin-bottom: 0.6rem;
  overflow: hidden;
}
.name {
  font: 700 1.15rem var(--display);
}
.actions {
  padding: 0 0.5rem 0.5rem;
  gap: 0;
  justify-content: flex-end;
}
</style>
