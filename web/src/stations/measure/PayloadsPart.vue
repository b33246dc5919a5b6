<script setup lang="ts">
/** What the tools carry. */
import { computed } from 'vue';
import { forget, freeId, type Payload, type Rig } from '@cork-elbow/core/rig';
import ItemList from '../../shared/ItemList.vue';
import NumberField from '../../shared/NumberField.vue';
import TextField from '../../shared/TextField.vue';
import TripleField from '../../shared/TripleField.vue';
import { useChosen } from './useChosen';

const emit = defineEmits<{ problem: [sentence: string] }>();
const {
  items,
  item: payload,
  on: onPayload,
  rename,
  pick,
  add,
  copy,
  remove,
} = useChosen<Payload>(
  'a payload',
  (rig) => rig.payloads,
  (sentence) => emit('problem', sentence ?? ''),
);
const listed = computed(() => items.value.map(({ id, name, massG }) => ({ id, name, note: `${massG} g` })));
const make = ({ payloads }: Rig): Payload => ({
  id: freeId(
    'payload',
    payloads.map((p) => p.id),
  ),
  name: `Payload ${payloads.length + 1}`,
  massG: 50,
  comMm: [0, 0, 10],
  sizeMm: [30, 30, 30],
  inertiaKgM2: null,
});
</script>

<template>
  <div class="list-form">
    <ItemList
      title="Payloads"
      :items="listed"
      :chosen="payload?.id ?? null"
      add-label="Add a payload"
      empty="Nothing to carry yet."
      @pick="pick"
      @add="add(make)"
      @copy="copy"
      @remove="remove($event, (draft) => forget(draft, 'payload', $event))"
    />
    <div v-if="payload" class="form">
      <label>name <TextField :value="payload.name" label="Payload name" :commit="rename" /></label>
      <NumberField
        prefix="mass"
        :value="payload.massG"
        dimension="mass"
        label="Payload mass"
        :min="0"
        :commit="(v: number) => onPayload('Mass', (p) => (p.massG = v))"
      />
      <span />
      <span class="group">Size</span>
      <TripleField
        :value="payload.sizeMm"
        label="Payload size"
        :commit="
          (k, v) => (v > 0 ? onPayload('Size', (p) => (p.sizeMm[k] = v)) : 'A payload needs a size above 0 mm.')
        "
      />
      <span class="group">Its middle, from the tip</span>
      <TripleField
        :value="payload.comMm"
        label="Payload’s middle from the tip"
        :commit="(k, v) => onPayload('Middle', (p) => (p.comMm[k] = v))"
      />
    </div>
  </div>
</template>
