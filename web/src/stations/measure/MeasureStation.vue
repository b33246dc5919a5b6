<script setup lang="ts">
import { IconPlus, IconTrash } from '@tabler/icons-vue';
import Button from 'primevue/button';
import Select from 'primevue/select';
import { computed, ref, watch } from 'vue';
import { useRoute } from 'vue-router';
import { freeId, isMoving, jointName, limitsOf, type Joint, type MovingJoint, type Rig } from '@cork-elbow/core/rig';
import JointMark from '../../shared/JointMark.vue';
import NumberField from '../../shared/NumberField.vue';
import StationHead from '../../shared/StationHead.vue';
import TextField from '../../shared/TextField.vue';
import { useOverlay } from '../../shared/useOverlay';
import { useRigStore } from '../../stores/rig';
import { useViewStore } from '../../stores/view';

const rigs = useRigStore();
const view = useViewStore();
const route = useRoute();
const rig = computed(() => rigs.rig!);
const joints = computed(() => rig.value.mechanism.joints);
const problem = ref('');

watch(
  () => route.query.joint,
  (id) => typeof id === 'string' && (view.selected = id),
  { immediate: true },
);
const selected = computed(() => joints.value.find((j) => j.id === view.selected) ?? joints.value[0]);
const index = computed(() => joints.value.findIndex((j) => j.id === selected.value?.id));
useOverlay(() => ({ dimensions: true }));

type Recipe = (draft: Rig) => void;
function commit(label: string, recipe: Recipe): string | void {
  const result = rigs.commit(label, recipe);
  problem.value = '';
  if (!result.ok) return result.message;
}
const onJoint = (label: string, change: (joint: Joint) => void) => {
  const at = index.value;
  return commit(`${label} of ${jointName(joints.value[at])}`, (draft) => change(draft.mechanism.joints[at]));
};
const slotIndex = (id: string): number => rigs.mechanism?.slotOf.get(id) ?? -1;

// The axis in words; anything else is shown as it is.
const axes = [
  { label: 'turn about up', value: 'turn', axis: [0, 0, 1] },
  { label: 'pitch forward', value: 'pitch', axis: [0, 1, 0] },
  { label: 'roll sideways', value: 'roll', axis: [1, 0, 0] },
] as const;
const axisWord = computed(() => {
  const joint = selected.value;
  if (!joint || !isMoving(joint)) return null;
  return axes.find((a) => a.axis.every((v, i) => v === joint.axis[i]))?.value ?? null;
});
function setAxis(word: string): void {
  const found = axes.find((a) => a.value === word);
  if (found) problem.value = onJoint('Axis', (j) => isMoving(j) && (j.axis = [...found.axis])) ?? '';
}
const parents = computed(() => [
  { label: 'the base', value: null as string | null },
  ...joints.value
    .filter((j) => j.id !== selected.value?.id)
    .map((j) => ({ label: jointName(j), value: j.id as string | null })),
]);
function setParent(parent: string | null): void {
  problem.value = onJoint('Parent', (j) => (j.parent = parent)) ?? '';
}
function rename(name: string): string | void {
  if (!name) return 'A joint needs a name.';
  return onJoint('Name', (j) => (j.name = name));
}
function setLimit(key: 'min' | 'max' | 'maxSpeed' | 'maxAccel' | 'maxJerk', value: number): string | void {
  return onJoint('Limits', (j) => {
    if (isMoving(j)) j.limits = { ...j.limits, [key]: value };
  });
}
const lengthOf = (joint: Joint): number => Math.hypot(...joint.origin.xyzMm);
const limits = computed(() => (selected.value && isMoving(selected.value) ? limitsOf(selected.value) : null));

function addJoint(): void {
  const parent = joints.value.filter((j) => !isMoving(j) || j.role !== 'jaw').at(-1);
  const id = freeId(
    'joint',
    joints.value.map((j) => j.id),
  );
  const joint: MovingJoint = {
    id,
    name: `Joint ${joints.value.length + 1}`,
    type: 'revolute',
    parent: parent?.id ?? null,
    origin: { xyzMm: [0, 0, parent ? 80 : 60], rpyDeg: [0, 0, 0] },
    axis: parent ? [0, 1, 0] : [0, 0, 1],
    limits: { min: -90, max: 90, maxSpeed: 120, maxAccel: 400, maxJerk: 3000 },
    home: 0,
  };
  problem.value = commit('Add a joint', (draft) => void draft.mechanism.joints.push(joint)) ?? '';
  view.selected = id;
}
/** Taking a joint out hands what hung on it to its parent, and takes its motor and its pose values along. */
function removeJoint(): void {
  const gone = selected.value;
  if (!gone) return;
  const drives = rig.value.transmissions.filter((t) => t.joints[0] === gone.id).map((t) => t.drives[0]);
  problem.value =
    commit(`Remove ${jointName(gone)}`, (draft) => {
      const m = draft.mechanism;
      m.joints = m.joints.filter((j) => j.id !== gone.id);
      for (const item of [...m.joints, ...m.tools]) if (item.parent === gone.id) item.parent = gone.parent;
      for (const tool of m.tools)
        if (tool.grip && 'joint' in tool.grip && tool.grip.joint === gone.id) delete tool.grip;
      for (const pose of draft.poses) delete pose.joints[gone.id];
      draft.transmissions = draft.transmissions.filter((t) => t.joints[0] !== gone.id);
      draft.wiring = draft.wiring.filter((w) => !drives.includes(w.drive));
      draft.drives = draft.drives.filter((d) => !drives.includes(d.id));
      for (const build of draft.builds) {
        build.calibrations = build.calibrations.filter((c) => !drives.includes(c.drive));
        delete build.confirmed[gone.id];
        for (const drive of drives) delete build.trims[drive];
      }
    }) ?? '';
}

const tool = computed(() => rig.value.mechanism.tools[0]);
const onTool = (label: string, change: (tool: Rig['mechanism']['tools'][number]) => void) =>
  commit(label, (draft) => change(draft.mechanism.tools[0]));
function addTool(): void {
  const parent = joints.value.filter((j) => !isMoving(j) || j.role !== 'jaw').at(-1);
  problem.value =
    commit(
      'Add a tool',
      (draft) =>
        void draft.mechanism.tools.push({
          id: freeId(
            'tool',
            draft.mechanism.tools.map((t) => t.id),
          ),
          name: 'Tool',
          parent: parent?.id ?? null,
          origin: { xyzMm: [0, 0, 60], rpyDeg: [0, 0, 0] },
          massG: 0,
          comMm: [0, 0, 0],
          inertiaKgM2: null,
          mounted: true,
        }),
    ) ?? '';
}
const xyz = ['forward', 'left', 'up'] as const;
const types = [
  { label: 'turns', value: 'revolute' },
  { label: 'turns without end', value: 'continuous' },
  { label: 'slides', value: 'prismatic' },
  { label: 'fixed', value: 'fixed' },
];
function setType(type: Joint['type']): void {
  problem.value =
    commit('Kind of joint', (draft) => {
      const old = draft.mechanism.joints[index.value];
      const base = { id: old.id, name: old.name, parent: old.parent, origin: old.origin, link: old.link };
      if (type === 'fixed') draft.mechanism.joints[index.value] = { ...base, type };
      else {
        const axis: [number, number, number] = isMoving(old) ? [...old.axis] : [0, 0, 1];
        draft.mechanism.joints[index.value] =
          type === 'continuous'
            ? { ...base, type, axis, home: 0 }
            : {
                ...base,
                type,
                axis,
                home: 0,
                limits:
                  type === 'prismatic'
                    ? { min: 0, max: 100, maxSpeed: 100, maxAccel: 400, maxJerk: 4000 }
                    : { min: -90, max: 90, maxSpeed: 120, maxAccel: 400, maxJerk: 3000 },
              };
      }
    }) ?? '';
}
</script>

<template>
  <StationHead question="What is it, exactly?"
    ><Button size="small" severity="secondary" label="Joint" @click="addJoint"
      ><template #icon><IconPlus :size="16" /></template></Button
  ></StationHead>
  <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
  <table class="plain joints">
    <thead>
      <tr>
        <th>joint</th>
        <th>on</th>
        <th class="r">from pivot</th>
        <th class="r">from</th>
        <th class="r">to</th>
        <th class="r">home</th>
      </tr>
    </thead>
    <tbody>
      <tr
        v-for="joint in joints"
        :key="joint.id"
        :class="{ chosen: joint.id === selected?.id }"
        @click="view.selected = joint.id"
      >
        <td>
          <button class="pick" :aria-pressed="joint.id === selected?.id">
            <JointMark v-if="slotIndex(joint.id) >= 0" :index="slotIndex(joint.id)" :size="22" />
            {{ jointName(joint) }}
          </button>
        </td>
        <td class="muted">{{ joint.parent ? jointName(joints.find((j) => j.id === joint.parent)!) : 'base' }}</td>
        <td class="r num">{{ lengthOf(joint).toFixed(1) }}</td>
        <template v-if="isMoving(joint)">
          <td class="r num">{{ Number.isFinite(limitsOf(joint).min) ? limitsOf(joint).min : '–' }}</td>
          <td class="r num">{{ Number.isFinite(limitsOf(joint).max) ? limitsOf(joint).max : '–' }}</td>
          <td class="r num">{{ joint.home }}</td>
        </template>
        <td v-else colspan="3" class="muted">fixed</td>
      </tr>
    </tbody>
  </table>
  <p v-if="!joints.length" class="muted empty">
    No joints yet. Press <b>Joint</b>: begin with what turns on the base, then work outward.
  </p>

  <template v-if="selected">
    <div class="rule">
      <h2>{{ jointName(selected) }}</h2>
      <Button size="small" variant="text" severity="danger" label="Remove" @click="removeJoint"
        ><template #icon><IconTrash :size="15" /></template
      ></Button>
    </div>
    <div class="form">
      <label class="name">Name <TextField :value="jointName(selected)" label="Joint name" :commit="rename" /></label>
      <label
        >Hangs on
        <Select
          :model-value="selected.parent"
          :options="parents"
          option-label="label"
          option-value="value"
          size="small"
          aria-label="Hangs on"
          @update:model-value="setParent"
      /></label>
      <label
        >What it does
        <Select
          :model-value="selected.type"
          :options="types"
          option-label="label"
          option-value="value"
          size="small"
          aria-label="Kind of joint"
          @update:model-value="setType"
      /></label>
      <label v-if="isMoving(selected)"
        >Axis
        <Select
          :model-value="axisWord"
          :options="[...axes]"
          option-label="label"
          option-value="value"
          size="small"
          aria-label="Axis"
          :placeholder="selected.axis.join(', ')"
          @update:model-value="setAxis"
      /></label>
      <span class="group">Pivot, seen from the pivot it hangs on</span>
      <NumberField
        v-for="(word, k) in xyz"
        :key="word"
        :prefix="word"
        :value="selected.origin.xyzMm[k]"
        dimension="length"
        :label="`Pivot ${word}`"
        :commit="(v: number) => onJoint('Pivot', (j) => (j.origin.xyzMm[k] = v))"
      />
      <template v-if="limits && isMoving(selected)">
        <template v-if="selected.type !== 'continuous'">
          <span class="group">Range and rest, {{ selected.type === 'prismatic' ? 'mm' : 'degrees' }}</span>
          <NumberField
            prefix="from"
            :value="limits.min"
            :dimension="selected.type === 'prismatic' ? 'length' : 'angle'"
            label="Lower limit"
            :commit="(v: number) => setLimit('min', v)"
          />
          <NumberField
            prefix="to"
            :value="limits.max"
            :dimension="selected.type === 'prismatic' ? 'length' : 'angle'"
            label="Upper limit"
            :commit="(v: number) => setLimit('max', v)"
          />
          <NumberField
            prefix="home"
            :value="selected.home"
            :dimension="selected.type === 'prismatic' ? 'length' : 'angle'"
            label="Home"
            :min="limits.min"
            :max="limits.max"
            :commit="(v: number) => onJoint('Home', (j) => isMoving(j) && (j.home = v))"
          />
        </template>
        <span class="group">Fastest</span>
        <NumberField
          prefix="speed"
          :value="limits.maxSpeed"
          :dimension="selected.type === 'prismatic' ? 'speed' : 'angularSpeed'"
          label="Highest speed"
          :min="0.001"
          :step="10"
          :commit="(v: number) => setLimit('maxSpeed', v)"
        />
        <NumberField
          prefix="accel."
          :value="limits.maxAccel"
          :dimension="selected.type === 'prismatic' ? 'linearAccel' : 'angularAccel'"
          label="Highest acceleration"
          :min="0.001"
          :step="50"
          :commit="(v: number) => setLimit('maxAccel', v)"
        />
        <NumberField
          prefix="jerk"
          :value="limits.maxJerk"
          :dimension="selected.type === 'prismatic' ? 'linearJerk' : 'angularJerk'"
          label="Highest jerk"
          :min="0.001"
          :step="500"
          :commit="(v: number) => setLimit('maxJerk', v)"
        />
      </template>
      <span class="group">What it carries to the next pivot</span>
      <NumberField
        prefix="mass"
        :value="selected.link?.massG ?? 0"
        dimension="mass"
        label="Link mass"
        :min="0"
        :commit="
          (v: number) =>
            onJoint(
              'Mass',
              (j) =>
                (j.link = {
                  massG: v,
                  comMm: j.link?.comMm ?? [0, 0, 0],
                  radiusMm: j.link?.radiusMm ?? 0,
                  inertiaKgM2: j.link?.inertiaKgM2 ?? null,
                }),
            )
        "
      />
      <NumberField
        prefix="half width"
        :value="selected.link?.radiusMm ?? 0"
        dimension="length"
        label="Half width of the link"
        :min="0"
        :commit="
          (v: number) =>
            onJoint(
              'Width',
              (j) =>
                (j.link = {
                  massG: j.link?.massG ?? 0,
                  comMm: j.link?.comMm ?? [0, 0, 0],
                  radiusMm: v,
                  inertiaKgM2: j.link?.inertiaKgM2 ?? null,
                }),
            )
        "
      />
    </div>
  </template>

  <div class="rule">
    <h2>Tool</h2>
    <Button v-if="!tool" size="small" variant="text" label="Add a tool" @click="addTool" />
  </div>
  <div v-if="tool" class="form">
    <label class="name"
      >Name
      <TextField
        :value="tool.name ?? tool.id"
        label="Tool name"
        :commit="(v: string) => (v ? onTool('Tool name', (t) => (t.name = v)) : 'A tool needs a name.')"
    /></label>
    <NumberField
      v-for="(word, k) in xyz"
      :key="word"
      :prefix="word"
      :value="tool.origin.xyzMm[k]"
      dimension="length"
      :label="`Tool point ${word}`"
      :commit="(v: number) => onTool('Tool point', (t) => (t.origin.xyzMm[k] = v))"
    />
    <NumberField
      prefix="mass"
      :value="tool.massG"
      dimension="mass"
      label="Tool mass"
      :min="0"
      :commit="(v: number) => onTool('Tool mass', (t) => (t.massG = v))"
    />
    <template v-if="tool.grip && 'joint' in tool.grip">
      <NumberField
        prefix="open at"
        :value="tool.grip.open"
        dimension="angle"
        label="Jaw open at"
        :commit="(v: number) => onTool('Jaw', (t) => t.grip && 'joint' in t.grip && (t.grip.open = v))"
      />
      <NumberField
        prefix="closed at"
        :value="tool.grip.closed"
        dimension="angle"
        label="Jaw closed at"
        :commit="(v: number) => onTool('Jaw', (t) => t.grip && 'joint' in t.grip && (t.grip.closed = v))"
      />
    </template>
  </div>
</template>

<style scoped>
.joints tr {
  cursor: pointer;
}
.joints .chosen {
  background: var(--pine-wash);
}
.pick {
  display: inline-flex;
  align-items: center;
  gap: 0.4rem;
  border: 0;
  background: none;
  padding: 0;
  cursor: pointer;
  font-weight: 600;
}
.form {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 0.45rem 0.55rem;
  margin: 0.55rem 0 0.4rem;
  align-items: end;
}
.form label {
  display: grid;
  gap: 0.15rem;
  font-size: 0.82rem;
  color: var(--ink-2);
  min-width: 0;
}
.form .name {
  grid-column: span 1;
}
.group {
  grid-column: 1 / -1;
  font-size: 0.82rem;
  color: var(--ink-2);
  margin-top: 0.15rem;
}
.problem {
  color: var(--alarm);
  background: var(--alarm-wash);
  padding: 0.4rem 0.6rem;
  border-radius: 4px;
  margin-bottom: 0.5rem;
}
.empty {
  padding: 1rem 0;
}
</style>
