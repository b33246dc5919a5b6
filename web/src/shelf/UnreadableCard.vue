<script setup lang="ts">
import { IconDownload, IconHistory, IconTrash } from '@tabler/icons-vue';
import Button from 'primevue/button';
import type { RigSummary } from '@cork-elbow/core/contract';
import { rigPath } from '../api';

/** A rig whose document can no longer be read: what is wrong, and the ways out. */
defineProps<{ rig: RigSummary }>();
defineEmits<{ back: []; remove: [] }>();
</script>

<template>
  <li class="card" data-unreadable>
    <div class="body">
      <span class="name">{{ rig.name }}</span>
      <p class="alarm small">It cannot be read any more. {{ rig.unreadable!.reason }}</p>
      <Button v-if="rig.unreadable!.canGoBack" size="small" label="Go back to the state before" @click="$emit('back')"
        ><template #icon><IconHistory :size="17" /></template
      ></Button>
      <p v-else class="muted small">No earlier state of it is kept.</p>
      <Button
        as="a"
        size="small"
        severity="secondary"
        label="Download its text"
        :href="`${rigPath(rig.id)}/text`"
        :download="`${rig.id}.txt`"
        ><template #icon><IconDownload :size="17" /></template
      ></Button>
      <Button size="small" severity="danger" variant="text" label="Take it off the shelf" @click="$emit('remove')"
        ><template #icon><IconTrash :size="17" /></template
      ></Button>
    </div>
  </li>
</template>

<style scoped>
.body {
  display: flex;
  flex-direction: column;
  gap: 0.5rem;
  padding: 1.1rem 0.9rem 0.9rem;
  flex: 1;
}
.name {
  font: 700 1.15rem var(--display);
}
.alarm {
  color: var(--alarm);
  margin: 0;
  flex: 1;
  overflow-wrap: anywhere;
}
p {
  margin: 0;
}
</style>
