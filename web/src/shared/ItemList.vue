<script setup lang="ts">
/** A short list of named things with one chosen, and buttons to add, copy and delete. */
import { IconCopy, IconPlus, IconTrash } from '@tabler/icons-vue';
import Button from 'primevue/button';
import IconButton from './IconButton.vue';

export interface Item {
  readonly id: string;
  readonly name: string;
  /** A few words or figures beside the name. */
  readonly note?: string;
}
const { title, items, chosen, empty, addLabel } = defineProps<{
  title: string;
  items: readonly Item[];
  chosen: string | null;
  /** What stands there when there is none yet. */
  empty: string;
  addLabel: string;
}>();
const emit = defineEmits<{ pick: [id: string]; add: []; copy: [id: string]; remove: [id: string] }>();
</script>

<template>
  <section :aria-label="title">
    <div class="rule">
      <h2>{{ title }}</h2>
      <slot name="extra" />
      <Button size="small" severity="secondary" :label="addLabel" @click="emit('add')"
        ><template #icon><IconPlus :size="15" /></template
      ></Button>
    </div>
    <p v-if="!items.length" class="muted small none">{{ empty }}</p>
    <ul v-else v-rove="'.pick'">
      <li v-for="item in items" :key="item.id" :class="{ chosen: item.id === chosen }">
        <button class="pick" :aria-pressed="item.id === chosen" @click="emit('pick', item.id)">
          {{ item.name }} <span class="muted small">{{ item.note }}</span>
        </button>
        <IconButton :icon="IconCopy" :label="`Copy ${item.name}`" title="Copy" @click="emit('copy', item.id)" />
        <IconButton
          :icon="IconTrash"
          :label="`Delete ${item.name}`"
          title="Delete"
          danger
          @click="emit('remove', item.id)"
        />
      </li>
    </ul>
  </section>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: flex;
  align-items: center;
  border-bottom: 1px solid var(--lines);
}
li.chosen {
  background: var(--pine-wash);
}
.pick {
  flex: 1;
  min-width: 0;
  text-align: left;
  border: 0;
  background: none;
  padding: 0.4rem 0.35rem;
  cursor: pointer;
  font-weight: 600;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.pick .muted {
  font-weight: 400;
  margin-left: 0.4rem;
}
.none {
  padding: 0.5rem 0.1rem;
}
</style>
