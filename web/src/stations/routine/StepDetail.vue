<script setup lang="ts">
/** The chosen step: what it goes to, how fast, along which profile, and its note. */
import { IconTrash } from '@tabler/icons-vue';
import Button from 'primevue/button';
import Select from 'primevue/select';
import { computed, ref } from 'vue';
import type { Pace, Routine, Step } from '@cork-elbow/core/rig';
import NumberField from '../../shared/NumberField.vue';
import TextField from '../../shared/TextField.vue';
import { useRigStore } from '../../stores/rig';
import ProfileChoice from './ProfileChoice.vue';

type Said = string | void;
const { step, takes, routine, edit, editRoutine } = defineProps<{
  step: Step;
  /** Seconds the step takes as planned; null where it has no time. */
  takes: number | null;
  routine: Routine;
  edit: (label: string, change: (step: Step) => void) => Said;
  editRoutine: (label: string, change: (routine: Routine) => void) => Said;
}>();
const emit = defineEmits<{ remove: [] }>();
const rigs = useRigStore();
const problem = ref('');

const paceOf = computed(() => ('pace' in step ? step.pace : null));
const setPace = (next: Pace): Said => edit('Pace', (s) => 'pace' in s && (s.pace = next));
function byDuration(): void {
  problem.value = setPace({ durationS: Math.max(0.01, Math.ceil((takes ?? 1) * 100) / 100) }) ?? '';
}
/** The joints go straight from one pose to the other, or the tool does. */
const setWay = (kind: 'joint-move' | 'straight-move'): void => {
  problem.value = edit('Way', (s) => 'target' in s && Object.assign(s, { kind })) ?? '';
};
type Profile = Routine['profile'];
const setProfile = (profile: Profile): Said =>
  edit('Profile', (s) => {
    if (!('pace' in s)) return;
    if (profile === routine.profile) delete s.profile;
    else s.profile = profile;
  });
/** The routine's own profile; steps that had just this one need none of their own any more. */
const setForAll = (profile: Profile): Said =>
  editRoutine('Profile of the routine', (r) => {
    r.profile = profile;
    for (const s of r.steps) if ('profile' in s) delete s.profile;
  });
const poseOptions = computed(() => rigs.rig!.poses.map((p) => ({ label: p.name, value: p.id })));
const holdOptions = computed(() => [
  { label: 'no change', value: '' },
  ...rigs.rig!.payloads.map((p) => ({ label: `holds ${p.name}`, value: p.id })),
  { label: 'lets go', value: '-' },
]);
</script>

<template>
  <div class="detail">
    <template v-if="'target' in step">
      <span class="choice small" role="group" aria-label="Way"
        ><button :aria-pressed="step.kind === 'joint-move'" @click="setWay('joint-move')">joints</button
        ><button :aria-pressed="step.kind === 'straight-move'" @click="setWay('straight-move')">
          straight
        </button></span
      >
      <label
        >to
        <Select
          :model-value="'pose' in step.target ? step.target.pose : null"
          :options="poseOptions"
          option-label="label"
          option-value="value"
          size="small"
          aria-label="Target pose"
          placeholder="by numbers"
          @update:model-value="
            (v: string) => (problem = edit('Target', (s) => 'target' in s && (s.target = { pose: v })) ?? '')
          "
      /></label>
    </template>
    <template v-if="step.kind === 'grip'">
      <label
        >jaw
        <span class="choice small" role="group" aria-label="Jaw"
          ><button
            v-for="to in ['open', 'closed'] as const"
            :key="to"
            :aria-pressed="step.to === to"
            @click="problem = edit('Jaw', (s) => s.kind === 'grip' && (s.to = to)) ?? ''"
          >
            {{ to }}
          </button></span
        ></label
      >
      <label
        >then
        <Select
          :model-value="step.payload === undefined ? '' : (step.payload ?? '-')"
          :options="holdOptions"
          option-label="label"
          option-value="value"
          size="small"
          aria-label="Then"
          @update:model-value="
            (v: string) =>
              (problem =
                edit('Payload', (s) => {
                  if (s.kind !== 'grip') return;
                  if (v === '') delete s.payload;
                  else s.payload = v === '-' ? null : v;
                }) ?? '')
          "
      /></label>
    </template>
    <NumberField
      v-if="step.kind === 'wait'"
      prefix="for"
      :value="step.durationS"
      dimension="time"
      label="Time to wait"
      :min="0"
      :max="3600"
      :step="0.1"
      :commit="(v: number) => edit('Wait', (s) => s.kind === 'wait' && (s.durationS = v))"
    />
    <template v-if="paceOf">
      <span class="choice small" role="group" aria-label="Pace"
        ><button :aria-pressed="'speedShare' in paceOf" @click="problem = setPace({ speedShare: 0.5 }) ?? ''">
          speed</button
        ><button :aria-pressed="'durationS' in paceOf" @click="byDuration">time</button></span
      >
      <NumberField
        v-if="'speedShare' in paceOf"
        :value="paceOf.speedShare * 100"
        dimension="share"
        :decimals="0"
        label="Share of full speed"
        :min="1"
        :max="100"
        :step="5"
        :commit="(v: number) => setPace({ speedShare: v / 100 })"
      />
      <NumberField
        v-else
        :value="paceOf.durationS"
        dimension="time"
        label="Duration"
        :min="0.01"
        :max="3600"
        :step="0.1"
        :commit="(v: number) => setPace({ durationS: v })"
      />
    </template>
    <ProfileChoice v-if="'pace' in step" class="profile" :step :routine :set="setProfile" :set-all="setForAll" />
    <TextField
      class="note"
      :value="step.note"
      label="Note"
      placeholder="note"
      :commit="(v: string) => edit('Note', (s) => (s.note = v))"
    />
    <Button
      size="small"
      variant="text"
      severity="secondary"
      :label="step.enabled ? 'Skip it' : 'Use it'"
      @click="problem = edit('Skip', (s) => (s.enabled = !s.enabled)) ?? ''"
    />
    <Button size="small" variant="text" severity="danger" aria-label="Delete step" @click="emit('remove')"
      ><IconTrash :size="16"
    /></Button>
  </div>
  <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
</template>

<style scoped>
.detail {
  display: flex;
  flex-wrap: wrap;
  gap: 0.45rem;
  align-items: center;
  background: var(--paper-2);
  border-radius: 4px;
  padding: 0.4rem 0.5rem;
  margin-bottom: 0.45rem;
}
.detail :deep(.field) {
  width: 7.4rem;
}
.detail .profile {
  flex-basis: 100%;
}
.problem {
  color: var(--alarm);
}
</style>
