<script setup lang="ts">
/** Where a move goes: a pose, a spot with a direction, numbers, or from where the arm stands. */
import { IconCamera } from '@tabler/icons-vue';
import Button from 'primevue/button';
import Select from 'primevue/select';
import { computed } from 'vue';
import { fromSlotsRounded } from '@cork-elbow/core/mechanism';
import { isJaw, type Target } from '@cork-elbow/core/rig';
import { stepsWith } from '@cork-elbow/core/routine';
import NumberField from '../../shared/NumberField.vue';
import TripleField from '../../shared/TripleField.vue';
import { useRigStore } from '../../stores/rig';
import { useViewStore } from '../../stores/view';
import type { Said } from './useSteps';

const {
  target,
  label = 'Target',
  word = 'to',
  set,
} = defineProps<{ target: Target; label?: string; word?: string; set: (target: Target) => Said }>();
const rigs = useRigStore();
const view = useViewStore();

type Way = 'pose' | 'spot' | 'joints' | 'shift' | 'joint-shift';
const way = computed<Way>(() =>
  'pose' in target
    ? 'pose'
    : 'spot' in target
      ? 'spot'
      : 'joints' in target
        ? 'joints'
        : 'joints' in target.shift
          ? 'joint-shift'
          : 'shift',
);
const ways = computed(() => [
  { label: 'pose', value: 'pose', disabled: !rigs.rig!.poses.length },
  { label: 'spot', value: 'spot', disabled: !rigs.rig!.spots.length },
  { label: 'set angles', value: 'joints' },
  { label: 'from here, mm', value: 'shift' },
  { label: 'from here, joints', value: 'joint-shift' },
]);
/** The values on show, jaws left out: grip steps work those. */
function shown(): Record<string, number> {
  const { mechanism, rig } = rigs;
  const jaws = new Set(rig!.mechanism.joints.filter(isJaw).map((j) => j.id));
  return Object.fromEntries(Object.entries(fromSlotsRounded(mechanism!, view.q)).filter(([id]) => !jaws.has(id)));
}
function setWay(next: Way): void {
  const { poses, spots } = rigs.rig!;
  const made: Record<Way, () => Target> = {
    pose: () => ({ pose: poses[0].id }),
    spot: () => ({ spot: spots[0].id }),
    joints: () => ({ joints: shown() }),
    shift: () => ({ shift: { xyzMm: [0, 0, 10], along: 'world' } }),
    'joint-shift': () => ({ shift: { joints: { [rigs.mechanism!.slotIds[0]]: 10 } } }),
  };
  set(made[next]());
}
/** Steps that go to the pose: all of them change with it. */
const uses = computed(() => ('pose' in target ? stepsWith(rigs.rig!, 'pose', target.pose).length : 0));
function retake(id: string): void {
  const { mechanism } = rigs;
  rigs.commit('Re-take the pose', (draft) => {
    const pose = draft.poses.find((p) => p.id === id);
    if (pose) pose.joints = { ...pose.joints, ...fromSlotsRounded(mechanism!, view.q) };
  });
}
const options = (list: readonly { id: string; name: string }[]) =>
  list.map(({ id, name }) => ({ label: name, value: id }));
const values = computed(() =>
  'joints' in target ? target.joints : 'shift' in target && 'joints' in target.shift ? target.shift.joints : null,
);
function setValue(id: string, value: number): Said {
  const next = { ...values.value, [id]: value };
  return set('joints' in target ? { joints: next } : { shift: { joints: next } });
}
function addJoint(id: string): void {
  setValue(id, 'joints' in target ? (fromSlotsRounded(rigs.mechanism!, view.q)[id] ?? 0) : 0);
}
const missing = computed(() =>
  rigs
    .mechanism!.slotIds.filter((id) => !Object.hasOwn(values.value ?? {}, id))
    .map((id) => ({ label: nameOf(id), value: id })),
);
const nameOf = (id: string): string => {
  const { mechanism } = rigs;
  const slot = mechanism!.slotOf.get(id);
  return slot === undefined ? id : mechanism!.names[mechanism!.jointOfSlot[slot]];
};
const isSliding = (id: string): boolean => {
  const slot = rigs.mechanism!.slotOf.get(id);
  return slot !== undefined && rigs.mechanism!.units[rigs.mechanism!.jointOfSlot[slot]] === 'mm';
};
function removeJoint(id: string): void {
  const { [id]: _gone, ...rest } = values.value ?? {};
  set('joints' in target ? { joints: rest } : { shift: { joints: rest } });
}
const pointing = computed(() => {
  if (!('spot' in target)) return 'spot';
  return target.direction === undefined ? 'spot' : target.direction === null ? 'free' : 'own';
});
const setPointing = (next: string): Said => {
  if (!('spot' in target)) return;
  const { spot } = target;
  if (next === 'spot') return set({ spot });
  return set({ spot, direction: next === 'free' ? null : [0, 0, -1] });
};
const setAxis = (k: number, v: number): Said => {
  if (!('spot' in target) || !target.direction) return;
  const direction = target.direction.map((old, i) => (i === k ? v : old)) as [number, number, number];
  return set({ ...target, direction });
};
const setShift = (k: number, v: number): Said => {
  if (!('shift' in target) || !('xyzMm' in target.shift)) return;
  const xyzMm = target.shift.xyzMm.map((old, i) => (i === k ? v : old)) as [number, number, number];
  return set({ shift: { ...target.shift, xyzMm } });
};
</script>

<template>
  <span class="target" role="group" :aria-label="label">
    <span class="word">{{ word }}</span>
    <Select
      class="way"
      :model-value="way"
      :options="ways"
      option-label="label"
      option-value="value"
      option-disabled="disabled"
      size="small"
      :aria-label="`${label} by`"
      @update:model-value="setWay"
    />
    <Select
      v-if="'pose' in target"
      :model-value="target.pose"
      :options="options(rigs.rig!.poses)"
      option-label="label"
      option-value="value"
      size="small"
      filter
      :aria-label="`${label} pose`"
      placeholder="a pose that is gone"
      @update:model-value="set({ pose: $event })"
    />
    <template v-else-if="'spot' in target">
      <Select
        :model-value="target.spot"
        :options="options(rigs.rig!.spots)"
        option-label="label"
        option-value="value"
        size="small"
        :aria-label="`${label} spot`"
        placeholder="a spot that is gone"
        @update:model-value="set({ ...target, spot: $event })"
      />
      <Select
        :model-value="pointing"
        :options="[
          { label: 'as the spot says', value: 'spot' },
          { label: 'pointing freely', value: 'free' },
          { label: 'pointing along', value: 'own' },
        ]"
        option-label="label"
        option-value="value"
        size="small"
        :aria-label="`${label} direction`"
        @update:model-value="setPointing"
      />
      <TripleField
        v-if="target.direction"
        :value="target.direction"
        :label="`${label} direction`"
        dimension="ratio"
        :commit="setAxis"
      />
    </template>
    <template v-else-if="'shift' in target && 'xyzMm' in target.shift">
      <TripleField
        :value="target.shift.xyzMm"
        :label
        :words="target.shift.along === 'tool' ? ['x', 'y', 'out'] : ['forward', 'left', 'up']"
        :commit="setShift"
      />
      <Select
        :model-value="target.shift.along"
        :options="[
          { label: 'in the room', value: 'world' },
          { label: 'along the tool', value: 'tool' },
        ]"
        option-label="label"
        option-value="value"
        size="small"
        :aria-label="`${label} along`"
        @update:model-value="set({ shift: { ...target.shift, along: $event } })"
      />
    </template>
    <template v-if="values">
      <span v-for="(v, id) in values" :key="id" class="one"
        ><NumberField
          :prefix="nameOf(String(id))"
          :value="v"
          :dimension="isSliding(String(id)) ? 'length' : 'angle'"
          :label="`${label} ${nameOf(String(id))}`"
          :commit="(next: number) => setValue(String(id), next)"
        /><button
          class="drop"
          :aria-label="`Leave ${nameOf(String(id))} as it is`"
          title="Leave it as it is"
          @click="removeJoint(String(id))"
        >
          ×
        </button></span
      >
      <Select
        v-if="missing.length"
        :model-value="null"
        :options="missing"
        option-label="label"
        option-value="value"
        size="small"
        placeholder="add a joint"
        :aria-label="`${label} add a joint`"
        @update:model-value="addJoint"
      />
    </template>
    <Button
      v-if="'pose' in target && uses"
      size="small"
      variant="text"
      severity="secondary"
      aria-label="Re-take the pose"
      :title="`Re-take the pose from where the arm stands: changes ${uses === 1 ? 'this step' : `all ${uses} steps that go there`}`"
      @click="retake(target.pose)"
      ><IconCamera :size="16"
    /></Button>
    <Button
      v-if="'joints' in target"
      size="small"
      variant="text"
      label="Take again"
      title="From where the arm stands now"
      @click="set({ joints: shown() })"
    />
  </span>
</template>

<style scoped>
.target {
  display: flex;
  flex-wrap: wrap;
  gap: 0.35rem;
  align-items: center;
}
.word {
  font-size: 0.86rem;
  color: var(--ink-2);
}
.one {
  display: inline-flex;
  align-items: center;
}
.drop {
  border: 0;
  background: none;
  color: var(--ink-3);
  cursor: pointer;
  padding: 0 0.2rem;
}
.target :deep(.field) {
  width: 8rem;
}
</style>
