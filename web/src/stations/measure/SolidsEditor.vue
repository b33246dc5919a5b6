<script setup lang="ts">
/** The simple solids that stand for a link or the base: what is drawn and what contact is checked against. */
import { IconPlus, IconTrash } from '@tabler/icons-vue';
import Button from 'primevue/button';
import type { Body } from '@cork-elbow/core/rig';
import ChoiceField from '../../shared/ChoiceField.vue';
import TripleField from '../../shared/TripleField.vue';

const { bodies, change } = defineProps<{
  bodies: readonly Body[];
  /** Takes an edit of the list. */
  change: (label: string, recipe: (list: Body[]) => void) => string | void;
}>();
const kinds = [
  { label: 'box', value: 'box' },
  { label: 'ball', value: 'ball' },
  { label: 'cylinder', value: 'cylinder' },
  { label: 'cone', value: 'cone' },
] as const;
const tones = [
  { label: 'light', value: 'paper' },
  { label: 'dark', value: 'dark' },
  { label: 'cork', value: 'cork' },
] as const;
const add = (): void =>
  void change('Add a solid', (list) =>
    list.push({ kind: 'box', centreMm: [0, 0, 20], rpyDeg: [0, 0, 0], sizeMm: [40, 40, 40], tone: 'paper' }),
  );
</script>

<template>
  <div class="rule">
    <h2><slot>Solids in place of the bar</slot></h2>
    <Button size="small" variant="text" label="Add a solid" @click="add"
      ><template #icon><IconPlus :size="15" /></template
    ></Button>
  </div>
  <div v-for="(body, i) in bodies" :key="i" class="form solid">
    <ChoiceField
      label="Solid"
      :name="`Solid ${i + 1}`"
      :options="kinds"
      :value="body.kind"
      @change="(v) => change('Kind of solid', (list) => (list[i].kind = v as Body['kind']))"
    />
    <ChoiceField
      label="Tone"
      :name="`Tone of solid ${i + 1}`"
      :options="tones"
      :value="body.tone"
      @change="(v) => change('Tone', (list) => (list[i].tone = v as Body['tone']))"
    />
    <Button
      size="small"
      variant="text"
      severity="danger"
      :label="`Delete solid ${i + 1}`"
      @click="change('Delete a solid', (list) => list.splice(i, 1))"
      ><template #icon><IconTrash :size="15" /></template
    ></Button>
    <span class="group">Size</span>
    <TripleField
      :value="body.sizeMm"
      :label="`Solid ${i + 1} size`"
      :commit="
        (k, v) => (v > 0 ? change('Size', (list) => (list[i].sizeMm[k] = v)) : 'A solid needs a size above 0 mm.')
      "
    />
    <span class="group">Its middle</span>
    <TripleField
      :value="body.centreMm"
      :label="`Solid ${i + 1} middle`"
      :commit="(k, v) => change('Middle', (list) => (list[i].centreMm[k] = v))"
    />
    <TripleField
      :value="body.rpyDeg"
      :label="`Solid ${i + 1}`"
      :words="['roll', 'pitch', 'yaw']"
      dimension="angle"
      :commit="(k, v) => change('Turn', (list) => (list[i].rpyDeg[k] = v))"
    />
  </div>
</template>

<style scoped>
.solid {
  border-bottom: 1px dashed var(--lines);
  padding-bottom: 0.5rem;
}
</style>
