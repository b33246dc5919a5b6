<script setup lang="ts">
/** What is touched on a way, each with a button that goes to the moment; or that nothing is. */
import Button from 'primevue/button';
import type { SweptContact } from '@cork-elbow/core/contact';
import { formatNumber } from '@cork-elbow/core/units';

const { contacts, clear } = defineProps<{
  /** Null while it is not known yet. */
  contacts: readonly SweptContact[] | null;
  /** What to say where nothing is touched. */
  clear: string;
}>();
const emit = defineEmits<{ look: [timeS: number] }>();
</script>

<template>
  <div role="status" :data-contacts="contacts?.length">
    <p v-if="!contacts" class="muted small">Looking for what is touched on the way …</p>
    <p v-else-if="!contacts.length" class="good small">{{ clear }}</p>
    <p v-for="(c, k) in contacts ?? []" :key="k" class="bad small">
      {{ c.a.name }} meets {{ c.b.name }} after {{ formatNumber(c.fromS, 1) }} s, up to
      {{ formatNumber(c.depth * 1000, 0) }} mm deep.
      <Button
        size="small"
        variant="text"
        label="Look"
        :aria-label="`Look at ${c.a.name} and ${c.b.name}`"
        @click="emit('look', c.deepestS)"
      />
    </p>
  </div>
</template>

<style scoped>
.bad {
  color: var(--alarm);
}
.good {
  color: var(--good);
}
</style>
