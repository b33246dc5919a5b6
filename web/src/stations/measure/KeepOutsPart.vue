<script setup lang="ts">
/** Keep-outs: what stands around the arm and must not be run into. */
import { computed } from 'vue';
import { freeId, type Obstacle, type Rig } from '@cork-elbow/core/rig';
import { formatNumber } from '@cork-elbow/core/units';
import ChoiceField from '../../shared/ChoiceField.vue';
import ItemList from '../../shared/ItemList.vue';
import NumberField from '../../shared/NumberField.vue';
import TextField from '../../shared/TextField.vue';
import TripleField from '../../shared/TripleField.vue';
import { useChosen } from './useChosen';

const emit = defineEmits<{ problem: [sentence: string] }>();
const tell = (sentence: string | void): void => emit('problem', sentence ?? '');
const {
  items,
  item: obstacle,
  on: onObstacle,
  rename,
  replace,
  pick,
  add,
  copy,
  remove,
} = useChosen<Obstacle>('a keep-out', (rig) => rig.obstacles, tell);
const listed = computed(() =>
  items.value.map(({ id, name, kind, xyzMm }) => ({
    id,
    name,
    note: `${kind}, ${xyzMm.map((v) => formatNumber(v, 0)).join(', ')}`,
  })),
);
const shapes = [
  { label: 'box', value: 'box' },
  { label: 'cylinder', value: 'cylinder' },
  { label: 'plane (table, wall)', value: 'plane' },
  { label: 'jar', value: 'jar' },
  { label: 'rack', value: 'rack' },
] as const;

type Placed = Pick<Obstacle, 'id' | 'name' | 'xyzMm' | 'rpyDeg' | 'fixedTo'>;
/** A keep-out of this shape in the old one's place, in a usual size. */
function shaped({ id, name, xyzMm, rpyDeg, fixedTo }: Placed, kind: Obstacle['kind']): Obstacle {
  const placed = { id, name, xyzMm, rpyDeg, ...(fixedTo ? { fixedTo } : {}) };
  switch (kind) {
    case 'box':
      return { ...placed, kind, sizeMm: [80, 80, 60] };
    case 'cylinder':
      return { ...placed, kind, radiusMm: 30, heightMm: 60 };
    case 'plane':
      return { ...placed, kind };
    case 'jar':
      return { ...placed, kind, innerRadiusMm: 40, wallMm: 3, heightMm: 90, fillMm: 0 };
    case 'rack':
      return { ...placed, kind, sizeMm: [90, 60, 46], slots: 3, slotMm: 9 };
  }
}
const make = ({ obstacles }: Rig): Obstacle =>
  shaped(
    {
      id: freeId(
        'keep-out',
        obstacles.map((o) => o.id),
      ),
      name: `Keep-out ${obstacles.length + 1}`,
      xyzMm: [200, 0, 0],
      rpyDeg: [0, 0, 0],
    },
    'box',
  );

/** Single lengths that some shapes have. */
const sizes: Record<string, string> = {
  radiusMm: 'radius',
  heightMm: 'height',
  innerRadiusMm: 'inner radius',
  wallMm: 'wall',
  fillMm: 'filled to',
};
const plain = computed(() => Object.keys(sizes).filter((key) => obstacle.value && key in obstacle.value));
const positive = (key: string, v: number): string | null =>
  v > 0 || key === 'fillMm' ? null : `The ${sizes[key]} is ${v} mm; more than 0 mm is allowed.`;
</script>

<template>
  <div class="list-form">
    <ItemList
      title="Keep-outs"
      :items="listed"
      :chosen="obstacle?.id ?? null"
      add-label="Add a keep-out"
      empty="Nothing stands around. The arm’s own body is on the Base page."
      @pick="pick"
      @add="add(make)"
      @copy="copy"
      @remove="remove($event)"
    />
    <div v-if="obstacle" class="form">
      <label>name <TextField :value="obstacle.name" label="Keep-out name" :commit="rename" /></label>
      <ChoiceField
        label="Shape"
        :options="shapes"
        :value="obstacle.kind"
        @change="(v) => replace('Shape', (old) => shaped(old, v as Obstacle['kind']))"
      />
      <ChoiceField
        label="Fixed to"
        name="Keep-out fixed to"
        :options="[
          { label: 'the world', value: 'world' },
          { label: 'the base', value: 'base' },
        ]"
        :value="obstacle.fixedTo ?? 'world'"
        @change="(v) => tell(onObstacle('Carrier', (o) => (o.fixedTo = v as 'base')))"
      />
      <TripleField
        :value="obstacle.xyzMm"
        label="Keep-out"
        :commit="(k, v) => onObstacle('Place', (o) => (o.xyzMm[k] = v))"
      />
      <TripleField
        :value="obstacle.rpyDeg"
        label="Keep-out"
        :words="['roll', 'pitch', 'yaw']"
        dimension="angle"
        :commit="(k, v) => onObstacle('Turn', (o) => (o.rpyDeg[k] = v))"
      />
      <span v-if="'sizeMm' in obstacle && obstacle.sizeMm" class="group">Size</span>
      <TripleField
        v-if="'sizeMm' in obstacle && obstacle.sizeMm"
        :value="obstacle.sizeMm"
        label="Keep-out size"
        :words="['forward', 'left', 'up'].slice(0, obstacle.sizeMm.length)"
        :commit="
          (k, v) =>
            v > 0
              ? onObstacle('Size', (o) => 'sizeMm' in o && o.sizeMm && (o.sizeMm[k as 0] = v))
              : 'A size is more than 0 mm.'
        "
      />
      <NumberField
        v-for="key in plain"
        :key="key"
        :prefix="sizes[key]"
        :value="(obstacle as never as Record<string, number>)[key]"
        dimension="length"
        :label="`Keep-out ${sizes[key]}`"
        :min="0"
        :commit="
          (v: number) =>
            positive(key, v) ?? onObstacle('Size', (o) => ((o as never as Record<string, number>)[key] = v))
        "
      />
    </div>
  </div>
</template>
