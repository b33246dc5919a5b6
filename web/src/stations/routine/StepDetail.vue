<script setup lang="ts">
/** The chosen step: what it does, how fast, along which profile, and its note. */
import { IconCopy, IconTrash } from '@tabler/icons-vue';
import Button from 'primevue/button';
import { computed } from 'vue';
import { keepNames, keeps } from '@cork-elbow/core/routine';
import type { Routine, Step, StepOf, Target } from '@cork-elbow/core/rig';
import NumberField from '../../shared/NumberField.vue';
import TextField from '../../shared/TextField.vue';
import ChoiceField from '../../shared/ChoiceField.vue';
import { useRigStore } from '../../stores/rig';
import OrderFields from './OrderFields.vue';
import PaceField from './PaceField.vue';
import PatternFields from './PatternFields.vue';
import ProfileChoice from './ProfileChoice.vue';
import TargetField from './TargetField.vue';
import ToolFields from './ToolFields.vue';
import { fieldsAreOf } from '../../shared/fields-of';
import { useSteps, type Said } from './useSteps';
import IconButton from '../../shared/IconButton.vue';

const { step, routine } = defineProps<{ step: Step; routine: Routine }>();
const rigs = useRigStore();
const steps = useSteps();
const { edit } = steps;
// The form stays as another step is chosen: thirty fields made anew at each are felt.
fieldsAreOf(() => step.id);
const takes = computed(() => {
  const timed = steps.timed(step.id);
  return timed ? timed.endS - timed.startS : null;
});

/** A key of the step set, or taken away where the value is undefined. */
function put(label: string, key: string, value: unknown): Said {
  return edit(label, (s) => {
    const record = s as unknown as Record<string, unknown>;
    if (value === undefined) delete record[key];
    else record[key] = value;
  });
}
/** The joints go straight from one pose to the other, or the tool does. */
function setWay(kind: 'joint-move' | 'straight-move'): void {
  edit('Way', (s) => {
    if (s.kind !== 'joint-move' && s.kind !== 'straight-move') return;
    if (kind === 'straight-move' && 'arrive' in s) delete s.arrive;
    Object.assign(s, { kind });
  });
}
type Profile = Routine['profile'];
const setProfile = (profile: Profile): Said =>
  put('Profile', 'profile', profile === routine.profile ? undefined : profile);
/** The routine's own profile; steps that had just this one need none of their own any more. */
const setForAll = (profile: Profile): Said =>
  steps.commit('Profile of the routine', (r) => {
    r.profile = profile;
    for (const s of r.steps) if ('profile' in s) delete s.profile;
  });
const setThrough = (k: number, target: Target): Said =>
  edit('Target', (s) => s.kind === 'path' && (s.through[k] = target));
/** One more place, the last one again to begin with. */
function addPlace(): void {
  if (step.kind !== 'path') return;
  const last = JSON.parse(JSON.stringify(step.through.at(-1))) as Target;
  edit('Add a place', (s) => s.kind === 'path' && s.through.push(last));
}
const isPart = <K extends Step['kind']>(s: Step, ...kinds: K[]): s is StepOf<K> =>
  (kinds as string[]).includes(s.kind);
/** What can be kept; left to the arm, what that comes to on this way. */
const keepOptions = computed(() => {
  const kept = steps.timed(step.id)?.keep;
  const own = 'keep' in step && step.keep !== undefined;
  return [
    { label: kept && !own ? `as it can: ${keepNames[kept]}` : 'as it can', value: '' },
    ...keeps.map((keep) => ({ label: keepNames[keep], value: keep })),
  ];
});
const tools = computed(() => [
  { label: 'the first mounted', value: '' },
  ...rigs.rig!.mechanism.tools.map((t) => ({ label: t.name ?? t.id, value: t.id })),
]);
const hasTool = (s: Step): s is Extract<Step, { tool?: string; pace: unknown }> =>
  'pace' in s && s.kind !== 'grip' && rigs.rig!.mechanism.tools.length > 1;
</script>

<template>
  <div class="detail" :data-detail="step.kind">
    <span
      v-if="isPart(step, 'joint-move', 'straight-move')"
      v-rove.across="'button'"
      class="choice small"
      role="group"
      aria-label="Way"
      ><button :aria-pressed="step.kind === 'joint-move'" @click="setWay('joint-move')">joints</button
      ><button :aria-pressed="step.kind === 'straight-move'" @click="setWay('straight-move')">straight</button></span
    >
    <TargetField
      v-if="isPart(step, 'arc', 'circle')"
      :target="step.via"
      label="By way of"
      word="by"
      :set="(t: Target) => put('Target', 'via', t)"
    />
    <TargetField
      v-if="isPart(step, 'circle')"
      :target="step.second"
      label="And"
      word="and"
      :set="(t: Target) => put('Target', 'second', t)"
    />
    <TargetField
      v-if="isPart(step, 'joint-move', 'straight-move', 'arc', 'approach')"
      :target="step.target"
      :set="(t: Target) => put('Target', 'target', t)"
    />
    <template v-if="isPart(step, 'path')">
      <span v-for="(t, k) in step.through" :key="k" class="row wrap">
        <TargetField
          :target="t"
          :label="`Place ${k + 1}`"
          :word="k ? 'then' : 'to'"
          :set="(next: Target) => setThrough(k, next)"
        />
        <Button
          v-if="step.through.length > 1"
          size="small"
          variant="text"
          severity="secondary"
          :label="`Leave out ${k + 1}`"
          @click="edit('Leave out a place', (s) => s.kind === 'path' && s.through.splice(k, 1))"
        />
      </span>
      <Button size="small" variant="text" label="Add a place" @click="addPlace" />
    </template>
    <NumberField
      v-if="isPart(step, 'circle')"
      prefix="times"
      :value="step.turns"
      dimension="count"
      label="Times round"
      :min="1"
      :max="100"
      :commit="(v: number) => put('Times', 'turns', Math.round(v))"
    />
    <NumberField
      v-if="isPart(step, 'approach', 'retreat')"
      :prefix="step.kind === 'approach' ? 'the last' : 'back'"
      :value="step.distanceMm"
      dimension="length"
      label="Distance along the tool"
      :min="0.1"
      :max="2000"
      :commit="(v: number) => put('Distance', 'distanceMm', v)"
    />
    <NumberField
      v-if="isPart(step, 'approach')"
      prefix="of it at most"
      :value="step.lastMmPerS ?? 0"
      dimension="speed"
      label="Speed of the last part, 0 for the step’s own"
      :min="0"
      :max="10000"
      :commit="(v: number) => put('Speed of the last part', 'lastMmPerS', v || undefined)"
    />
    <ToolFields
      v-if="isPart(step, 'grip', 'pick-up', 'put-down', 'swap-tool', 'spin', 'hold', 'let-go')"
      :key="step.id"
      :step
      :put
    />
    <PatternFields v-if="isPart(step, 'pattern')" :key="step.id" :step :put />
    <OrderFields :step :put />
    <template v-if="'pace' in step">
      <PaceField :pace="step.pace" :takes :set="(pace) => put('Pace', 'pace', pace)" />
      <NumberField
        v-if="isPart(step, 'joint-move', 'straight-move', 'arc', 'path')"
        prefix="corner"
        :value="step.blendMm ?? 0"
        dimension="length"
        label="Radius of the corner at its end, 0 to stop"
        :min="0"
        :max="1000"
        :step="5"
        :commit="(v: number) => put('Corner', 'blendMm', v || undefined)"
      />
      <label v-if="isPart(step, 'joint-move')" class="tick"
        ><input
          type="checkbox"
          :checked="step.arrive === 'own-pace'"
          @change="put('Arrival', 'arrive', step.arrive ? undefined : 'own-pace')"
        />
        each joint at its own pace</label
      >
    </template>
    <ChoiceField
      v-if="isPart(step, 'straight-move', 'arc', 'circle', 'path', 'approach', 'retreat')"
      label="tool on the way"
      name="What the tool keeps of its orientation on the way"
      :options="keepOptions"
      class="keep"
      :value="step.keep ?? ''"
      @change="put('Orientation on the way', 'keep', $event || undefined)"
    />
    <ChoiceField
      v-if="hasTool(step)"
      label="tool"
      :options="tools"
      :value="step.tool ?? ''"
      @change="put('Tool', 'tool', $event || undefined)"
    />
    <ProfileChoice v-if="'pace' in step" class="profile" :step :routine :set="setProfile" :set-all="setForAll" />
    <TextField
      class="note"
      :value="step.note"
      label="Note"
      placeholder="note"
      :commit="(v: string) => put('Note', 'note', v)"
    />
    <Button
      size="small"
      variant="text"
      severity="secondary"
      :label="step.enabled ? 'Skip it' : 'Use it'"
      @click="steps.skip()"
    />
    <IconButton :icon="IconCopy" label="Copy step" title="Copy" @click="steps.copy()" />
    <IconButton :icon="IconTrash" label="Delete step" title="Delete" danger @click="steps.remove()" />
  </div>
</template>

<style scoped>
.detail {
  display: flex;
  flex-wrap: wrap;
  gap: 0.4rem;
  align-items: center;
  background: var(--paper-2);
  border-radius: 4px;
  padding: 0.4rem 0.5rem;
  margin: 0.45rem 0;
}
.detail :deep(.field) {
  width: 7.8rem;
}
.detail .profile {
  flex-basis: 100%;
}
.keep {
  flex: 1 1 12rem;
}
.note {
  flex: 1;
  min-width: 8rem;
}
</style>
