<script setup lang="ts">
/** The person's own kinds of motor: kept from a drive, taken out, carried to another bench as a file. */
import Button from 'primevue/button';
import { useTemplateRef } from 'vue';
import { fileName, type Drive } from '@cork-elbow/core/rig';
import { saveFile } from '../../shared/save-file';
import { useCatalogue } from '../../shared/useCatalogue';

const { drive } = defineProps<{ drive: Drive }>();
const { own, keep, remove, asText, importText, problem } = useCatalogue();
const picker = useTemplateRef('picker');
async function take(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement;
  const [file] = input.files ?? [];
  if (file) await importText(await file.text());
  input.value = '';
}
</script>

<template>
  <details>
    <summary>Own motors in the catalogue</summary>
    <p v-if="problem" class="problem small" role="alert">{{ problem }}</p>
    <ul v-if="own.length" aria-label="Own motors">
      <li v-for="entry in own" :key="entry.id" class="row">
        <span class="grow">{{ entry.words }}</span>
        <Button
          size="small"
          variant="text"
          severity="danger"
          label="×"
          :aria-label="`Take ${entry.words} out of the catalogue`"
          @click="remove(entry.id)"
        />
      </li>
    </ul>
    <p v-else class="muted small">None yet. Edit the figures above to what yours says, then keep it here.</p>
    <div class="row wrap">
      <Button size="small" severity="secondary" :label="`Keep “${drive.model || drive.name}”`" @click="keep(drive)" />
      <Button
        size="small"
        variant="text"
        label="Export"
        :disabled="!own.length"
        @click="saveFile(fileName('own', 'motors', 'json'), 'application/json', asText())"
      />
      <Button size="small" variant="text" label="Import" @click="picker?.click()" />
      <input
        ref="picker"
        type="file"
        accept=".json,application/json"
        class="sr"
        aria-label="File of motors"
        @change="take"
      />
    </div>
  </details>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 0 0 0.3rem;
  padding: 0;
}
</style>
