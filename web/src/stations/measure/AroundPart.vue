<script setup lang="ts">
/** What stands around: work spots, keep-outs, named frames. */
import Button from 'primevue/button';
import { computed, ref } from 'vue';
import { say } from '@cork-elbow/core/contract';
import { forward, frameFromPoints } from '@cork-elbow/core/kinematics';
import { axisOf, positionOf, type Vec3 } from '@cork-elbow/core/linear';
import { frameOf } from '@cork-elbow/core/mechanism';
import { freeId, jointName, type AnyJoint, type NamedFrame, type Obstacle, type Spot } from '@cork-elbow/core/rig';
import { formatNumber } from '@cork-elbow/core/units';
import ChoiceField from '../../shared/ChoiceField.vue';
import ItemList from '../../shared/ItemList.vue';
import NumberField from '../../shared/NumberField.vue';
import TextField from '../../shared/TextField.vue';
import TripleField from '../../shared/TripleField.vue';
import { useEdit } from '../../shared/useEdit';
import { useRigStore } from '../../stores/rig';
import { useViewStore } from '../../stores/view';
import { copyItem } from './edits';

const emit = defineEmits<{ problem: [sentence: string] }>();
const rigs = useRigStore();
const view = useViewStore();
const edit = useEdit();
const tell = (sentence: string | void): void => emit('problem', sentence ?? '');
const rig = computed(() => rigs.rig!);
const round = (v: number): number => Math.round(v * 1000) / 1000;

/** Where the first mounted tool stands now: its point (mm) and direction. */
const tip = computed(() => {
  const { mechanism } = rigs;
  const tool = mechanism?.tools.find((t) => t.mounted);
  if (!mechanism || !tool) return null;
  const frame = forward(mechanism, view.q).tools.get(tool.id)!;
  return {
    xyzMm: positionOf(frame).map((v) => round(v * 1000)) as [number, number, number],
    direction: axisOf(frame, 2).map(round) as [number, number, number],
  };
});

// ── Work spots ──
const spotId = ref<string | null>(null);
const spot = computed(() => rig.value.spots.find((s) => s.id === spotId.value) ?? rig.value.spots[0]);
const onSpot = (label: string, change: (spot: Spot) => void): string | void => {
  const { id, name } = spot.value;
  return edit(`${label} of ${name}`, (draft) => change(draft.spots.find((s) => s.id === id)!));
};
function addSpot(): void {
  tell(
    edit('Add a work spot', (draft) => {
      const id = freeId(
        'spot',
        draft.spots.map((s) => s.id),
      );
      draft.spots.push({
        id,
        name: `Spot ${draft.spots.length + 1}`,
        xyzMm: tip.value ? [...tip.value.xyzMm] : [150, 0, 50],
        direction: null,
      });
      spotId.value = id;
    }),
  );
}
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
  const next = [...(spot.value.direction ?? [0, 0, -1])] as [number, number, number];
  next[k] = v;
  if (Math.hypot(...next) < 1e-6)
    return 'A direction needs a length; at least one of its three numbers must differ from 0.';
  return onSpot('Direction', (s) => (s.direction = next));
}

// ── Keep-outs ──
const obstacleId = ref<string | null>(null);
const obstacle = computed(() => rig.value.obstacles.find((o) => o.id === obstacleId.value) ?? rig.value.obstacles[0]);
const onObstacle = (label: string, change: (obstacle: Obstacle) => void): string | void => {
  const { id, name } = obstacle.value;
  return edit(`${label} of ${name}`, (draft) => change(draft.obstacles.find((o) => o.id === id)!));
};
const shapes = [
  { label: 'box', value: 'box' },
  { label: 'cylinder', value: 'cylinder' },
  { label: 'plane (table, wall)', value: 'plane' },
  { label: 'jar', value: 'jar' },
  { label: 'rack', value: 'rack' },
] as const;
function shaped(
  old: Pick<Obstacle, 'id' | 'name' | 'xyzMm' | 'rpyDeg' | 'fixedTo'>,
  kind: Obstacle['kind'],
): Obstacle {
  const { id, name, xyzMm, rpyDeg, fixedTo } = old;
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
function addObstacle(): void {
  tell(
    edit('Add a keep-out', (draft) => {
      const id = freeId(
        'keep-out',
        draft.obstacles.map((o) => o.id),
      );
      draft.obstacles.push(
        shaped({ id, name: `Keep-out ${draft.obstacles.length + 1}`, xyzMm: [200, 0, 0], rpyDeg: [0, 0, 0] }, 'box'),
      );
      obstacleId.value = id;
    }),
  );
}
const reshape = (kind: Obstacle['kind']): void => {
  const { id } = obstacle.value;
  tell(
    edit('Shape of a keep-out', (draft) => {
      const at = draft.obstacles.findIndex((o) => o.id === id);
      draft.obstacles[at] = shaped(draft.obstacles[at], kind);
    }),
  );
};
const sizes: Partial<Record<string, string>> = {
  radiusMm: 'radius',
  heightMm: 'height',
  innerRadiusMm: 'inner radius',
  wallMm: 'wall',
  fillMm: 'filled to',
};
const plain = computed(() => Object.keys(sizes).filter((key) => obstacle.value && key in obstacle.value));
const positive = (key: string, v: number): string | null =>
  v > 0 || key === 'fillMm' ? null : `The ${sizes[key]} is ${v} mm; more than 0 mm is allowed.`;

// ── Named frames ──
const frameId = ref<string | null>(null);
const frame = computed(() => rig.value.frames.find((f) => f.id === frameId.value) ?? rig.value.frames[0]);
const onFrame = (label: string, change: (frame: NamedFrame) => void): string | void => {
  const { id, name } = frame.value;
  return edit(`${label} of ${name}`, (draft) => change(draft.frames.find((f) => f.id === id)!));
};
function addFrame(): void {
  tell(
    edit('Add a frame', (draft) => {
      const id = freeId(
        'frame',
        draft.frames.map((f) => f.id),
      );
      draft.frames.push({
        id,
        name: `Frame ${draft.frames.length + 1}`,
        fixedTo: 'world',
        xyzMm: [150, 0, 0],
        rpyDeg: [0, 0, 0],
      });
      frameId.value = id;
    }),
  );
}
const carriers = computed(() => [
  { label: 'the world', value: ':world' },
  { label: 'the base', value: ':base' },
  ...(rig.value.mechanism.joints as readonly AnyJoint[]).map((j) => ({ label: jointName(j), value: j.id })),
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
const touches = ref<([number, number, number] | null)[]>([null, null, null]);
const touchWords = ['its origin', 'a point on its forward line', 'a point to its left'];
function touch(k: number): void {
  if (tip.value) touches.value[k] = [...tip.value.xyzMm];
}
const typeTouch = (i: number, k: number, v: number): void => {
  const now = touches.value[i] ?? [0, 0, 0];
  now[k] = v;
  touches.value[i] = [...now] as [number, number, number];
};
function fromTouches(): void {
  const [a, b, c] = touches.value;
  if (!a || !b || !c) return tell('A frame from touched points needs all three of them.');
  const si = (p: readonly number[]): Vec3 => [p[0] / 1000, p[1] / 1000, p[2] / 1000];
  const found = frameFromPoints(si(a), si(b), si(c));
  if (!found) return tell(say('frame-points', { path: frame.value.name }));
  const { xyzMm, rpyDeg } = frameOf(found);
  tell(
    onFrame('Touched points', (f) => {
      f.fixedTo = 'world';
      f.xyzMm = xyzMm.map(round) as [number, number, number];
      f.rpyDeg = rpyDeg.map(round) as [number, number, number];
      f.touchedMm = [a, b, c];
    }),
  );
}
const remove = (list: 'spots' | 'obstacles' | 'frames', what: string, id: string): void =>
  tell(edit(`Delete ${what}`, (draft) => void (draft[list] = draft[list].filter((item) => item.id !== id) as never)));
const at = (xyz: readonly number[]): string => xyz.map((v) => formatNumber(v, 0)).join(', ');
</script>

<template>
  <ItemList
    title="Work spots"
    :items="rig.spots.map((s) => ({ id: s.id, name: s.name, note: at(s.xyzMm) }))"
    :chosen="spot?.id ?? null"
    add-label="Spot here"
    empty="None yet. A spot is a place that the tool should reach, and which way it should point there."
    @pick="spotId = $event"
    @add="addSpot"
    @copy="tell(edit('Copy a spot', (draft) => void (spotId = copyItem(draft.spots, $event))))"
    @remove="remove('spots', 'a spot', $event)"
  />
  <div v-if="spot" class="form">
    <label
      >Name
      <TextField
        :value="spot.name"
        label="Spot name"
        :commit="(v: string) => (v ? onSpot('Name', (s) => (s.name = v)) : 'A spot needs a name.')"
    /></label>
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
      @click="tell(onSpot('Place', (s) => (s.xyzMm = [...tip!.xyzMm])))"
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

  <ItemList
    title="Keep-outs"
    :items="rig.obstacles.map((o) => ({ id: o.id, name: o.name, note: `${o.kind}, ${at(o.xyzMm)}` }))"
    :chosen="obstacle?.id ?? null"
    add-label="Keep-out"
    empty="Nothing stands around. The arm’s own body is on the Base page."
    @pick="obstacleId = $event"
    @add="addObstacle"
    @copy="tell(edit('Copy a keep-out', (draft) => void (obstacleId = copyItem(draft.obstacles, $event))))"
    @remove="remove('obstacles', 'a keep-out', $event)"
  />
  <div v-if="obstacle" class="form">
    <label
      >Name
      <TextField
        :value="obstacle.name"
        label="Keep-out name"
        :commit="(v: string) => (v ? onObstacle('Name', (o) => (o.name = v)) : 'A keep-out needs a name.')"
    /></label>
    <ChoiceField
      label="Shape"
      :options="shapes"
      :value="obstacle.kind"
      @change="(v) => reshape(v as Obstacle['kind'])"
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
    <TripleField
      v-if="'sizeMm' in obstacle && obstacle.sizeMm"
      :value="obstacle.sizeMm"
      label="Keep-out size"
      :words="['size forward', 'left', 'up'].slice(0, obstacle.sizeMm.length)"
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

  <ItemList
    title="Named frames"
    :items="rig.frames.map((f) => ({ id: f.id, name: f.name, note: at(f.xyzMm) }))"
    :chosen="frame?.id ?? null"
    add-label="Frame"
    empty="None yet. A frame lets you give places in a table’s or a link’s own directions."
    @pick="frameId = $event"
    @add="addFrame"
    @copy="tell(edit('Copy a frame', (draft) => void (frameId = copyItem(draft.frames, $event))))"
    @remove="remove('frames', 'a frame', $event)"
  />
  <div v-if="frame" class="form">
    <label
      >Name
      <TextField
        :value="frame.name"
        label="Frame name"
        :commit="(v: string) => (v ? onFrame('Name', (f) => (f.name = v)) : 'A frame needs a name.')"
    /></label>
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
</template>

<style scoped>
.touch {
  grid-column: 1 / -1;
}
.unset :deep(input) {
  color: var(--ink-3);
}
</style>
