<script setup lang="ts">
/** Everything about the selected joint. */
import { IconFlipVertical, IconPlus, IconTrash } from '@tabler/icons-vue';
import Button from 'primevue/button';
import { computed, ref, watch } from 'vue';
import {
  codeName,
  followsOf,
  isMoving,
  jointName,
  limitsOf,
  removeJoint,
  stopFollowing,
  type AnyJoint,
  type AnyMoving,
  type JointType,
  type MovingJoint,
} from '@cork-elbow/core/rig';
import { formatNumber } from '@cork-elbow/core/units';
import ChoiceField from '../../shared/ChoiceField.vue';
import TermHint from '../../shared/TermHint.vue';
import NumberField from '../../shared/NumberField.vue';
import TextField from '../../shared/TextField.vue';
import TripleField from '../../shared/TripleField.vue';
import { useEdit } from '../../shared/useEdit';
import { useRigStore } from '../../stores/rig';
import { useViewStore } from '../../stores/view';
import { addMirrored, setType } from './edits';
import SolidsEditor from './SolidsEditor.vue';
import { axisWord, axisWords, BASE, couplings, jointKinds, OTHER_AXIS } from './words';

const { id } = defineProps<{ id: string }>();
const emit = defineEmits<{ problem: [sentence: string] }>();
const rigs = useRigStore();
const view = useViewStore();
const edit = useEdit();
const joints = computed(() => rigs.rig!.mechanism.joints as readonly AnyJoint[]);
const index = computed(() => joints.value.findIndex((j) => j.id === id));
const joint = computed(() => joints.value[index.value]);
const placed = computed(() => ('origin' in joint.value ? joint.value : null));
const moving = computed(() => (isMoving(joint.value) ? (joint.value as AnyMoving) : null));
const tree = computed(() => (moving.value && 'axis' in moving.value ? (moving.value as MovingJoint) : null));
const follows = computed(() => followsOf(joint.value) ?? []);
const limits = computed(() => (moving.value ? limitsOf(moving.value) : null));
const sliding = computed(() => joint.value.type === 'prismatic');
const dimension = computed(() => (sliding.value ? 'length' : 'angle'));
const ranged = computed(() => moving.value && joint.value.type !== 'continuous');

const tell = (sentence: string | void): void => emit('problem', sentence ?? '');
/** An edit of this joint. */
const on = (label: string, change: (joint: AnyJoint) => void): string | void =>
  edit(`${label} of ${jointName(joint.value)}`, (draft) => change(draft.mechanism.joints[index.value]));
const onMoving = (label: string, change: (joint: AnyMoving) => void): string | void =>
  on(label, (j) => isMoving(j) && change(j as AnyMoving));
const onTree = (label: string, change: (joint: MovingJoint) => void): string | void =>
  on(label, (j) => isMoving(j) && 'axis' in j && change(j));

const others = computed(() => joints.value.filter((j) => j.id !== id));
const parents = computed(() => [
  { label: 'the base', value: BASE },
  ...others.value.map((j) => ({ label: jointName(j), value: j.id })),
]);
const sources = computed(() =>
  others.value.filter((j) => isMoving(j)).map((j) => ({ label: jointName(j), value: j.id })),
);
const axes = computed(() => [
  ...axisWords.map(({ value, turning, sliding: slide }) => ({ value, label: sliding.value ? slide : turning })),
  { value: OTHER_AXIS, label: 'another direction' },
]);
/** The axis is being typed as three numbers, whatever word would fit them by chance. */
const typedAxis = ref(false);
watch(
  () => id,
  () => (typedAxis.value = false),
);
const axisChoice = computed(() => (typedAxis.value ? OTHER_AXIS : axisWord(tree.value!.axis)));
function setAxis(word: string): void {
  const found = axisWords.find((a) => a.value === word);
  typedAxis.value = !found;
  if (found) tell(onTree('Axis', (j) => (j.axis = [...found.axis])));
}
function setLimit(key: 'min' | 'max' | 'maxSpeed' | 'maxAccel' | 'maxJerk', value: number): string | void {
  return onMoving('Limits', (j) => (j.limits = { ...j.limits, [key]: value } as never));
}
const link = computed(
  () =>
    joint.value.link ?? { massG: 0, comMm: [0, 0, 0] as [number, number, number], radiusMm: 0, inertiaKgM2: null },
);
const onLink = (label: string, change: (link: NonNullable<AnyJoint['link']>) => void): string | void =>
  on(label, (j) => {
    j.link ??= { massG: 0, comMm: [0, 0, 0], radiusMm: 0, inertiaKgM2: null };
    change(j.link);
  });
const friction = computed(() => ('friction' in joint.value ? (joint.value.friction ?? 0) : 0));
const setFriction = (v: number): string | void =>
  on('Friction', (j) => {
    if (!isMoving(j)) return;
    if (v > 0) j.friction = v;
    else delete j.friction;
  });
function setCode(code: string): string | void {
  return on('Code name', (j) => {
    if (code && code !== j.id) j.code = code;
    else delete j.code;
  });
}
function remove(): void {
  tell(edit(`Delete ${jointName(joint.value)}`, (draft) => removeJoint(draft, id)));
}
function mirror(): void {
  let made = '';
  tell(edit(`Mirror ${jointName(joint.value)}`, (draft) => void (made = addMirrored(draft, id))));
  if (made) view.selected = made;
}

// Physical range, and what has been tried on this build.
const physical = computed(() => moving.value?.physical);
function setPhysical(key: 'min' | 'max', value: number): string | void {
  return onMoving('Physical range', (j) => {
    j.physical = { ...(j.physical ?? { min: limitsOf(j).min, max: limitsOf(j).max }), [key]: value };
  });
}
const confirmed = computed(() => rigs.build?.confirmed[id]);
const onBuild = (
  label: string,
  change: (confirmed: Record<string, { min: number; max: number }>) => void,
): string | void => {
  const buildId = rigs.build!.id;
  return edit(
    `${label} of ${jointName(joint.value)}`,
    (draft) => change(draft.builds.find((b) => b.id === buildId)!.confirmed),
    'build',
  );
};
function setConfirmed(key: 'min' | 'max', value: number): string | void {
  const now = confirmed.value ?? { min: 0, max: 0 };
  const next = { ...now, [key]: value };
  if (!(next.min <= next.max))
    return `From ${formatNumber(next.min, 3)} to ${formatNumber(next.max, 3)} is the wrong way round; from must not be above to.`;
  return onBuild('Confirmed range', (list) => (list[id] = next));
}
const follow = (): void => {
  const [source] = sources.value;
  if (!source) return tell('There is no other joint that it could follow.');
  tell(
    onTree('Following', (j) => {
      j.follows = [...(j.follows ?? []), { joint: source.value, factor: -1 }];
      j.coupling ??= 'bars';
      if (j.limits && 'min' in j.limits) {
        const { min: _min, max: _max, ...rest } = j.limits;
        j.limits = rest;
      }
    }),
  );
};
function unfollow(k: number): void {
  tell(
    onTree('Following', (j) => {
      j.follows!.splice(k, 1);
      if (!j.follows!.length) stopFollowing(j);
    }),
  );
}
</script>

<template>
  <div class="rule">
    <h2>{{ jointName(joint) }}</h2>
    <template v-if="placed">
      <Button
        size="small"
        variant="text"
        severity="secondary"
        label="Mirror this limb"
        title="Adds the mirror image of everything from here outward, left for right"
        @click="mirror"
        ><template #icon><IconFlipVertical :size="15" /></template
      ></Button>
      <Button size="small" variant="text" severity="danger" label="Delete" @click="remove"
        ><template #icon><IconTrash :size="15" /></template
      ></Button>
    </template>
  </div>
  <div class="form triples">
    <label
      >name
      <TextField
        :value="jointName(joint)"
        label="Joint name"
        :commit="(v: string) => (v ? on('Name', (j) => (j.name = v)) : 'A joint needs a name.')"
    /></label>
    <label>code name <TextField :value="codeName(joint)" label="Code name" :commit="setCode" /></label>
    <ChoiceField
      v-if="placed"
      label="What it does"
      name="Kind of joint"
      :options="jointKinds"
      :value="joint.type"
      @change="(v) => tell(edit('Kind of joint', (draft) => setType(draft, id, v as JointType)))"
    />
    <TermHint class="group" term="codeName" />
    <template v-if="placed">
      <ChoiceField
        label="Hangs on"
        :options="parents"
        :value="placed.parent ?? BASE"
        @change="(v) => tell(on('Parent', (j) => 'parent' in j && (j.parent = v === BASE ? null : String(v))))"
      />
      <ChoiceField v-if="tree" label="Axis" :options="axes" :value="axisChoice" @change="(v) => setAxis(String(v))" />
      <span v-if="tree && axisChoice !== OTHER_AXIS" />
      <TripleField
        v-if="tree && axisChoice === OTHER_AXIS"
        :value="tree.axis"
        label="Axis"
        dimension="ratio"
        :commit="(k, v) => onTree('Axis', (j) => (j.axis[k] = v))"
      />
      <span class="group">Pivot, seen from the pivot it hangs on</span>
      <TripleField
        :value="placed.origin.xyzMm"
        label="Pivot"
        :commit="(k, v) => on('Pivot', (j) => 'origin' in j && (j.origin.xyzMm[k] = v))"
      />
      <TripleField
        :value="placed.origin.rpyDeg"
        label="Turned by"
        :words="['roll', 'pitch', 'yaw']"
        dimension="angle"
        :commit="(k, v) => on('Turn', (j) => 'origin' in j && (j.origin.rpyDeg[k] = v))"
      />
    </template>
    <template v-if="limits && moving">
      <template v-if="ranged && !follows.length">
        <span class="group">Range that planning keeps, and rest</span>
        <NumberField
          prefix="from"
          :value="limits.min"
          :dimension
          label="Lower limit"
          :commit="(v: number) => setLimit('min', v)"
        />
        <NumberField
          prefix="to"
          :value="limits.max"
          :dimension
          label="Upper limit"
          :commit="(v: number) => setLimit('max', v)"
        />
        <NumberField
          prefix="rest"
          :value="moving.home"
          :dimension
          label="Rest"
          :min="limits.min"
          :max="limits.max"
          :commit="(v: number) => onMoving('Rest', (j) => (j.home = v))"
        />
        <span class="group">Where it stops for good, by its parts</span>
        <NumberField
          prefix="from"
          :value="physical?.min ?? limits.min"
          :dimension
          label="Physical lower end"
          :unset="physical ? null : 'usual'"
          :commit="(v: number) => setPhysical('min', v)"
        />
        <NumberField
          prefix="to"
          :value="physical?.max ?? limits.max"
          :dimension
          label="Physical upper end"
          :unset="physical ? null : 'usual'"
          :commit="(v: number) => setPhysical('max', v)"
        />
        <Button
          v-if="physical"
          size="small"
          variant="text"
          severity="secondary"
          label="Not known"
          @click="tell(onMoving('Physical range', (j) => delete j.physical))"
        /><span v-else class="muted small">not measured yet</span>
        <span class="group">Moved on {{ rigs.build?.name }} with nothing in its way</span>
        <NumberField
          prefix="from"
          :value="confirmed?.min ?? 0"
          :dimension
          label="Confirmed from"
          :unset="confirmed ? null : 'unknown'"
          :commit="(v: number) => setConfirmed('min', v)"
        />
        <NumberField
          prefix="to"
          :value="confirmed?.max ?? 0"
          :dimension
          label="Confirmed to"
          :unset="confirmed ? null : 'unknown'"
          :commit="(v: number) => setConfirmed('max', v)"
        />
        <Button
          v-if="confirmed"
          size="small"
          variant="text"
          severity="secondary"
          label="Not tried"
          @click="tell(onBuild('Confirmed range', (list) => delete list[id]))"
        /><span v-else class="muted small">not tried yet: runs use the range above</span>
      </template>
      <span class="group">Fastest</span>
      <NumberField
        prefix="speed"
        :value="limits.maxSpeed"
        :dimension="sliding ? 'speed' : 'angularSpeed'"
        label="Highest speed"
        :min="0.001"
        :step="10"
        :commit="(v: number) => setLimit('maxSpeed', v)"
      />
      <NumberField
        prefix="accel."
        :value="limits.maxAccel"
        :dimension="sliding ? 'linearAccel' : 'angularAccel'"
        label="Highest acceleration"
        :min="0.001"
        :step="50"
        :commit="(v: number) => setLimit('maxAccel', v)"
      />
      <NumberField
        prefix="jerk"
        :value="limits.maxJerk"
        :dimension="sliding ? 'linearJerk' : 'angularJerk'"
        label="Highest jerk"
        :min="0.001"
        :step="500"
        :commit="(v: number) => setLimit('maxJerk', v)"
      />
      <TermHint class="group" term="jerk" />
      <NumberField
        prefix="friction"
        :value="friction"
        :dimension="sliding ? 'force' : 'torque'"
        label="Friction, whichever way it moves"
        :min="0"
        :commit="setFriction"
      />
    </template>
    <span class="group">What it carries to the next pivot</span>
    <NumberField
      prefix="mass"
      :value="link.massG"
      dimension="mass"
      label="Link mass"
      :min="0"
      :commit="(v: number) => onLink('Mass', (l) => (l.massG = v))"
    />
    <NumberField
      prefix="half width"
      :value="link.radiusMm"
      dimension="length"
      label="Half width of the link"
      :min="0"
      :commit="(v: number) => onLink('Width', (l) => (l.radiusMm = v))"
    />
    <span />
    <span class="group">Its centre of mass</span>
    <TripleField
      :value="link.comMm"
      label="Centre of mass"
      :commit="(k, v) => onLink('Centre of mass', (l) => (l.comMm[k] = v))"
    />
  </div>

  <template v-if="tree && joint.type !== 'continuous'">
    <div class="rule">
      <h2>Follows other joints</h2>
      <Button size="small" variant="text" label="Add a source" @click="follow"
        ><template #icon><IconPlus :size="15" /></template
      ></Button>
    </div>
    <p v-if="!follows.length" class="muted small">No: it has a value of its own.</p>
    <div v-for="(term, k) in follows" :key="k" class="form">
      <ChoiceField
        label="Follows"
        :name="`Source ${k + 1}`"
        :options="sources"
        :value="term.joint"
        @change="(v) => tell(onTree('Source', (j) => (j.follows![k].joint = String(v))))"
      />
      <NumberField
        prefix="times"
        :value="term.factor"
        dimension="ratio"
        :label="`Factor ${k + 1}`"
        :commit="(v: number) => onTree('Factor', (j) => (j.follows![k].factor = v))"
      />
      <Button size="small" variant="text" severity="danger" :label="`Delete source ${k + 1}`" @click="unfollow(k)" />
    </div>
    <div v-if="follows.length" class="form">
      <ChoiceField
        label="By means of"
        :options="couplings"
        :value="tree.coupling ?? 'gears'"
        @change="(v) => tell(onTree('Coupling', (j) => (j.coupling = v as never)))"
      />
      <NumberField
        prefix="plus"
        :value="tree.offset ?? 0"
        :dimension
        label="Offset"
        :commit="(v: number) => onTree('Offset', (j) => (j.offset = v))"
      />
    </div>
  </template>
  <SolidsEditor
    v-if="placed"
    :bodies="joint.link?.bodies ?? []"
    :change="(label, recipe) => onLink(label, (l) => recipe((l.bodies ??= [])))"
  />
</template>
