<script setup lang="ts">
/** Files in: a text or table is read, what it would change is said, and one edit takes it in. Made of the core's catalogue of imports. */
import { useDropZone, useSessionStorage } from '@vueuse/core';
import Button from 'primevue/button';
import Textarea from 'primevue/textarea';
import { computed, ref, useTemplateRef, watch } from 'vue';
import { optionFields, optionsOf } from '@cork-elbow/core/exports';
import { importList } from '@cork-elbow/core/imports';
import { useEdit } from '../../shared/useEdit';
import { useRigStore } from '../../stores/rig';
import OptionForm from './OptionForm.vue';

const { foot } = defineProps<{ foot: HTMLElement | null }>();
const rigs = useRigStore();
const problem = ref('');
const edit = useEdit(problem);
const done = ref('');
const chosenId = useSessionStorage('cork-elbow:import', importList[0].id);
const made = computed(() => importList.find(({ id }) => id === chosenId.value) ?? importList[0]);
const fields = computed(() => optionFields(made.value.options));
const chosen = ref<Record<string, unknown>>({});
const options = computed(() => optionsOf(made.value.options, chosen.value));
/** What is typed or read stays, by import, until it is taken in. */
const texts = useSessionStorage<Record<string, string>>('cork-elbow:import-texts', {});
const text = computed({
  get: () => texts.value[made.value.id] ?? '',
  set: (value) => (texts.value = { ...texts.value, [made.value.id]: value }),
});
watch(chosenId, () => {
  chosen.value = {};
  problem.value = '';
  done.value = '';
});
watch(text, (now) => now && (done.value = ''));
const read = computed(() =>
  text.value.trim() && rigs.rig ? made.value.read(text.value, rigs.rig, options.value) : null,
);

/** Largest file that is read (bytes). */
const MOST = 4 * 1024 * 1024;
const picker = useTemplateRef('picker');
const zone = useTemplateRef('zone');
async function open(files: readonly File[] | null): Promise<void> {
  const file = files?.[0];
  if (!file) return;
  problem.value =
    file.size > MOST ? `${file.name} has ${Math.ceil(file.size / 1e6)} MB; files up to 4 MB are read.` : '';
  if (!problem.value) text.value = await file.text();
}
const { isOverDropZone } = useDropZone(zone, { onDrop: (files) => void open(files) });
async function picked(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement;
  await open([...(input.files ?? [])]);
  input.value = '';
}
function take(): void {
  const now = read.value;
  if (!now?.edit || edit(now.label, now.edit)) return;
  text.value = '';
  done.value = `${now.summary} taken in; Undo takes them out again.`;
}
</script>

<template>
  <span v-rove.across="'button'" class="choice small row-of-kinds" role="group" aria-label="What to bring in"
    ><button v-for="i in importList" :key="i.id" :aria-pressed="i.id === made.id" @click="chosenId = i.id">
      {{ i.name }}
    </button></span
  >
  <div class="row says">
    <p class="grow muted small">{{ made.says }}</p>
    <Button size="small" severity="secondary" label="Choose a file" @click="picker?.click()" />
    <input
      ref="picker"
      type="file"
      class="sr"
      :accept="made.endings.join(',')"
      :aria-label="`File of ${made.name}`"
      tabindex="-1"
      @change="picked"
    />
  </div>
  <OptionForm :fields :values="options" @change="(key, value) => (chosen = { ...options, [key]: value })" />
  <ul v-if="read?.problems.length" class="problems" role="alert">
    <li v-for="sentence in read.problems.slice(0, 8)" :key="sentence">{{ sentence }}</li>
  </ul>
  <p v-if="problem" class="problem small" role="alert">{{ problem }}</p>
  <p v-if="done" class="small" role="status">{{ done }}</p>
  <p v-else class="muted small">
    {{
      read ? (read.summary ? `${read.summary} understood.` : '') : 'Paste a text, drop a file on it, or choose one.'
    }}
  </p>
  <div ref="zone" class="zone grows" :class="{ over: isOverDropZone }">
    <Textarea
      v-model="text"
      class="paste num"
      rows="10"
      :aria-label="`Text of ${made.name}`"
      :placeholder="made.example"
      spellcheck="false"
    />
  </div>
  <Teleport v-if="foot" :to="foot">
    <span class="grow" />
    <Button label="Import" :disabled="!read?.edit" @click="take" />
  </Teleport>
</template>

<style scoped>
.row-of-kinds {
  display: flex;
  margin-bottom: 0.4rem;
}
.row-of-kinds button {
  flex: 1 1 auto;
  padding-inline: 0.3rem;
}
.paste {
  width: 100%;
  height: 100%;
  resize: none;
  font-size: 0.86rem;
}
.zone {
  flex: 1 1 12rem;
  min-height: 12rem;
  margin-top: 0.4rem;
  border-radius: 4px;
}
.zone.over {
  outline: 2px dashed var(--pine);
  outline-offset: 2px;
}
.problems {
  color: var(--alarm);
  margin: 0.3rem 0;
  padding-left: 1.1rem;
  font-size: 0.88rem;
}
.says {
  align-items: center;
}
</style>
