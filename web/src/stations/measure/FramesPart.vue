<script setup lang="ts">
/** Named frames: typed, fixed to a link, or found by touching three points. */
import Button from 'primevue/button';
import { computed, ref } from 'vue';
import { frameFromPoints } from '@cork-elbow/core/kinematics';
import type { Vec3 } from '@cork-elbow/core/linear';
import { frameOf } from '@cork-elbow/core/mechanism';
import { rigFindings, freeId, jointName, type AnyJoint, type NamedFrame, type Rig } from '@cork-elbow/core/rig';
import { formatNumber } from '@cork-elbow/core/units';
import ChoiceField from '../../shared/ChoiceField.vue';
import ItemList from '../../shared/ItemList.vue';
import TextField from '../../shared/TextField.vue';
import TripleField from '../../shared/TripleField.vue';
import { useRigStore } from '../../stores/rig';
import { useChosen } from './useChosen';
import { toThousandth, useTip } from './useTip';

const emit = defineEmits<{ problem: [sentence: string] }>();
const tell = (sentence: string | void): void => emit('problem', sentence ?? '');
const rigs = useRigStore();
const {
  items,
  item: frame,
  on: onFrame,
  rename,
  pick,
  add,
  copy,
  remove,
} = useChosen<NamedFrame>('a frame', (rig) => rig.frames, tell);
const listed = computed(() =>
  items.value.map(({ id, name, xyzMm }) => ({ id, name, note: xyzMm.map((v) => formatNumber(v, 0)).join(', ') })),
);
const make = ({ frames }: Rig): NamedFrame => ({
  id: freeId(
    'frame',
    frames.map((f) => f.id),
  ),
  name: `Frame ${frames.length + 1}`,
  fixedTo: 'world',
  xyzMm: [150, 0, 0],
  rpyDeg: [0, 0, 0],
});

const carriers = computed(() => [
  { label: 'the world', value: ':world' },
  { label: 'the base', value: ':base' },
  ...(rigs.rig!.mechanism.joints as readonly AnyJoint[]).map((j) => ({ label: jointName(j), value: j.id })),
]);
const carrier = computed(() => {
  const on = frame.value?.fixedTo;
  return typeof on === 'object' ? on.joint : `:${on}`;
});
const carry = (value: string): void =>
  tell(
    onFrame('Carrier', (f) => {
      f.fixedTo = value === ':world' ? 'world' : value === ':base' ? 'base' : { joint: value };
    }),
  );

// Three touched points
type Point = [number, number, number];
const tip = useTip();
const touches = ref<(Point | null)[]>([null, null, null]);
const touchWords = ['its origin', 'a point on its forward line', 'a point to its left'];
function touch(k: number): void {
  if (tip.value) touches.value[k] = [...tip.value];
}
function typeTouch(i: number, k: number, v: number): void {
  const now: Point = [...(touches.value[i] ?? [0, 0, 0])];
  now[k] = v;
  touches.value[i] = now;
}
function fromTouches(): void {
  const [a, b, c] = touches.value.map((point) => point && ([...point] as Point));
  if (!a || !b || !c || !frame.value) return tell('A frame from touched points needs all three of them.');
  const si = (p: readonly number[]): Vec3 => [p[0] / 1000, p[1] / 1000, p[2] / 1000];
  const found = frameFromPoints(si(a), si(b), si(c));
  if (!found) return tell(rigFindings.say('frame-points', { path: frame.value.name }));
  const { xyzMm, rpyDeg } = frameOf(found);
  tell(
    onFrame('Touched points', (f) => {
      f.fixedTo = 'world';
      f.xyzMm = xyzMm.map(toThousandth) as Point;
      f.rpyDeg = rpyDeg.map(toThousandth) as Point;
      f.touchedMm = [a, b, c];
    }),
  );
}
</script>

<template>
  <div class="list-form">
    <ItemList
      title="Named frames"
      :items="listed"
      :chosen="frame?.id ?? null"
      add-label="Add a frame"
      empty="None yet. A frame lets you give places in a table’s or a link’s own directions."
      @pick="pick"
      @add="add(make)"
      @copy="copy"
      @remove="remove($event)"
    />
    <div v-if="frame" class="form">
      <label>name <TextField :value="frame.name" label="Frame name" :commit="rename" /></label>
      <ChoiceField
        label="Fixed to"
        name="Frame fixed to"
        :options="carriers"
        :value="carrier"
        @change="(v) => carry(String(v))"
      />
      <span />
      <TripleField :value="frame.xyzMm" label="Frame" :commit="(k, v) => onFrame('Place', (f) => (f.xyzMm[k] = v))" />
      <TripleField
        :value="frame.rpyDeg"
        label="Frame"
        :words="['roll', 'pitch', 'yaw']"
        dimension="angle"
        :commit="(k, v) => onFrame('Turn', (f) => (f.rpyDeg[k] = v))"
      />
      <span class="group">Or find it by touching three points with the tip, in the world</span>
      <template v-for="(word, i) in touchWords" :key="word">
        <span class="muted small touch"
          >{{ i + 1 }} · {{ word }}
          <Button
            size="small"
            variant="text"
            label="Take the tip"
            :aria-label="`Take the tip as point ${i + 1}`"
            @click="touch(i)"
        /></span>
        <TripleField
          :value="touches[i] ?? [0, 0, 0]"
          :label="`Point ${i + 1}`"
          :class="{ unset: !touches[i] }"
          :commit="(k, v) => typeTouch(i, k, v)"
        />
      </template>
      <Button size="small" severity="secondary" label="Make the frame of these" @click="fromTouches" />
    </div>
  </div>
</template>

<style scoped>
.touch {
  grid-column: 1 / -1;
}
.unset :deep(input) {
  color: var(--ink-3);
}
</style>
