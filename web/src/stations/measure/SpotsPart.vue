<script setup lang="ts">
/** Work spots: places that the tool should reach, and which way it should point there. */
import Button from 'primevue/button';
import { computed } from 'vue';
import { freeId, type Rig, type Spot } from '@cork-elbow/core/rig';
import { formatNumber } from '@cork-elbow/core/units';
import ChoiceField from '../../shared/ChoiceField.vue';
import ItemList from '../../shared/ItemList.vue';
import TextField from '../../shared/TextField.vue';
import TripleField from '../../shared/TripleField.vue';
import { useChosen } from './useChosen';
import { useTip } from './useTip';

const emit = defineEmits<{ problem: [sentence: string] }>();
const tell = (sentence: string | void): void => emit('problem', sentence ?? '');
const {
  items,
  item: spot,
  on: onSpot,
  rename,
  pick,
  add,
  copy,
  remove,
} = useChosen<Spot>('a spot', (rig) => rig.spots, tell);
const listed = computed(() =>
  items.value.map(({ id, name, xyzMm }) => ({ id, name, note: xyzMm.map((v) => formatNumber(v, 0)).join(', ') })),
);
const tip = useTip();
/** A spot where the tip is now. */
const make = ({ spots }: Rig): Spot => ({
  id: freeId(
    'spot',
    spots.map((s) => s.id),
  ),
  name: `Spot ${spots.length + 1}`,
  xyzMm: tip.value ? [...tip.value] : [150, 0, 50],
  direction: null,
});

const directions = [
  { label: 'any direction', value: 'free' },
  { label: 'straight down', value: '0,0,-1' },
  { label: 'level, forward', value: '1,0,0' },
  { label: 'straight up', value: '0,0,1' },
  { label: 'along …', value: 'other' },
];
const wished = computed(() => {
  const d = spot.value?.direction;
  if (!d) return 'free';
  return directions.some((o) => o.value === d.join(',')) ? d.join(',') : 'other';
});
function wish(value: string): void {
  tell(
    onSpot('Direction', (s) => {
      s.direction =
        value === 'free'
          ? null
          : value === 'other'
            ? [0.7, 0, -0.7]
            : (value.split(',').map(Number) as [number, number, number]);
    }),
  );
}
function setDirection(k: number, v: number): string | void {
  const next = [...(spot.value?.direction ?? [0, 0, -1])] as [number, number, number];
  next[k] = v;
  if (Math.hypot(...next) < 1e-6)
    return 'A direction needs a length; at least one of its three numbers must differ from 0.';
  return onSpot('Direction', (s) => (s.direction = next));
}
</script>

<template>
  <div class="list-form">
    <ItemList
      title="Work spots"
      :items="listed"
      :chosen="spot?.id ?? null"
      add-label="Add a spot here"
      empty="None yet. A spot is a place that the tool should reach, and which way it should point there."
      @pick="pick"
      @add="add(make)"
      @copy="copy"
      @remove="remove($event)"
    />
    <div v-if="spot" class="form">
      <label>name <TextField :value="spot.name" label="Spot name" :commit="rename" /></label>
      <ChoiceField
        label="Tool points"
        name="Tool points there"
        :options="directions"
        :value="wished"
        @change="(v) => wish(String(v))"
      />
      <Button
        size="small"
        severity="secondary"
        label="Where the tip is"
        :disabled="!tip"
        @click="tell(onSpot('Place', (s) => (s.xyzMm = [...tip!])))"
      />
      <TripleField :value="spot.xyzMm" label="Spot" :commit="(k, v) => onSpot('Place', (s) => (s.xyzMm[k] = v))" />
      <TripleField
        v-if="wished === 'other'"
        :value="spot.direction!"
        label="Direction"
        dimension="ratio"
        :commit="setDirection"
      />
    </div>
  </div>
</template>
