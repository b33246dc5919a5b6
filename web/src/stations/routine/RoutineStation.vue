<script setup lang="ts">
/** Routine: a list of steps that is planned as one motion, tried, and checked before anything moves. */
import { IconDots, IconPlus } from '@tabler/icons-vue';
import Button from 'primevue/button';
import Menu from 'primevue/menu';
import Select from 'primevue/select';
import { computed, defineAsyncComponent, ref, useTemplateRef, watch } from 'vue';
import { useRoute } from 'vue-router';
import type { Finding } from '@cork-elbow/core/findings';
import { freeId, type Routine } from '@cork-elbow/core/rig';
import { stepsWith } from '@cork-elbow/core/routine';
import { formatNumber } from '@cork-elbow/core/units';
import FindingRow from '../../shared/FindingRow.vue';
import StationPage from '../../shared/StationPage.vue';
import TextField from '../../shared/TextField.vue';
import { useOverlay } from '../../shared/useOverlay';
import { useParts } from '../../shared/useParts';
import { useRigStore } from '../../stores/rig';
import { useViewStore } from '../../stores/view';
import { usePlan } from '../../workspace/usePlan';
import AddStep from './AddStep.vue';
import StepList from './StepList.vue';
import RoutinePlayer from './RoutinePlayer.vue';
import { createSteps } from './useSteps';

/** Parts that are opened now and then come when they are. */
const StepDetail = defineAsyncComponent(() => import('./StepDetail.vue'));
const BuildPart = defineAsyncComponent(() => import('./BuildPart.vue'));
const RoutineText = defineAsyncComponent(() => import('./RoutineText.vue'));
const SmoothingPart = defineAsyncComponent(() => import('./SmoothingPart.vue'));
const TimelinePart = defineAsyncComponent(() => import('./TimelinePart.vue'));

const rigs = useRigStore();
const view = useViewStore();
const route = useRoute();
const { routineId, routine, plan, trace, beats, show } = usePlan();
const steps = createSteps();
const { selected, search, problem } = steps;
const menu = useTemplateRef('menu');
useOverlay(() => ({ layers: { trace: trace.value, beats: beats.value }, dimensions: false }));

const { parts, part } = useParts('routine');
watch(
  () => route.query.step,
  (id) => typeof id === 'string' && steps.select(id),
  { immediate: true },
);

/** The step of a finding, and the very moment where it has one. */
function goTo({ place }: Finding): void {
  if (place.station !== 'routine') return;
  if (place.part) part.value = place.part;
  else if (part.value !== 'timeline') part.value = 'steps';
  if (place.routine) routineId.value = place.routine;
  if (place.step) steps.select(place.step);
  if (place.timeS !== undefined) show(place.timeS);
}

// ── Routines ─────────────────────────────────────────────────────────────────────────────────────────────────────
function add(label: string, make: (id: string, name: string) => Routine): void {
  const list = rigs.rig!.routines;
  const id = freeId(
    'routine',
    list.map((r) => r.id),
  );
  const made = make(id, `Routine ${list.length + 1}`);
  const result = rigs.commit(label, (draft) => void draft.routines.push(made));
  problem.value = result.ok ? '' : result.message;
  if (result.ok) routineId.value = id;
}
const newRoutine = (): void =>
  add('Add a routine', (id, name) => ({ id, name, note: '', role: null, profile: 's-curve', steps: [] }));
const duplicate = (): void =>
  add('Duplicate the routine', (id) => ({
    ...structuredClone(routine.value!),
    id,
    name: `${routine.value!.name}, again`.slice(0, 80),
    role: null,
  }));
function removeRoutine(): void {
  const { id, name } = routine.value!;
  const users = stepsWith(rigs.rig!, 'routine', id);
  if (users.length) {
    problem.value = `“${name}” is called by ${users[0].routine}, step ${users[0].step}; take that call out first.`;
    return;
  }
  rigs.commit('Delete the routine', (draft) => {
    draft.routines = draft.routines.filter((r) => r.id !== id);
  });
  routineId.value = null;
}
/** One routine of each role: another loses it. */
function setRole(role: Routine['role']): void {
  const { id } = routine.value!;
  rigs.commit(role ? `Make it the routine to ${role}` : 'An ordinary routine', (draft) => {
    for (const r of draft.routines) if (r.role === role && role) r.role = null;
    draft.routines.find((r) => r.id === id)!.role = role;
  });
}
const isRenaming = ref(false);
const actions = computed(() => [
  { label: isRenaming.value ? 'Done renaming' : 'Rename', command: () => (isRenaming.value = !isRenaming.value) },
  { label: 'Duplicate', command: duplicate },
  routine.value?.role === 'park'
    ? { label: 'No longer for parking', command: () => setRole(null) }
    : { label: 'Use for parking', command: () => setRole('park') },
  routine.value?.role === 'unpark'
    ? { label: 'No longer for unparking', command: () => setRole(null) }
    : { label: 'Use for unparking', command: () => setRole('unpark') },
  { label: 'Delete', command: removeRoutine },
]);
function rename(name: string): string | void {
  if (name === '') return 'A routine needs a name.';
  const refused = steps.commit('Rename the routine', (r) => (r.name = name));
  if (!refused) isRenaming.value = false;
  return refused;
}

/** Said under the player. */
const told = ref('');
const fastest = ref<number | null>(null);
/** The wish the other way round: every pace so that the whole stays under a time. */
function under(wish: number): void {
  const made = plan.value;
  if (!made) return;
  const byShare = new Set(
    steps.steps.value.flatMap((s) => ('pace' in s && 'speedShare' in s.pace && s.enabled ? [s.id] : [])),
  );
  // Waits, steps with a time of their own and routines that are called stay as they are.
  const moving = made.blocks.reduce(
    (sum, { block, stepId, routine: of }) =>
      of === routine.value!.id && byShare.has(stepId) && block.kind !== 'hold' ? sum + block.duration : sum,
    0,
  );
  const fixed = made.durationS - moving;
  if (wish <= fixed || moving === 0) {
    told.value = `${formatNumber(fixed, 1)} s of it go by whatever the pace of its steps: waits, steps with a time of their own, routines that are called.`;
    return;
  }
  const factor = moving / (wish - fixed);
  const result = steps.commit(`Stay under ${formatNumber(wish, 1)} s`, (r) => {
    for (const s of r.steps)
      if ('pace' in s && 'speedShare' in s.pace)
        s.pace.speedShare = Math.min(1, Math.max(0.01, Math.ceil(s.pace.speedShare * factor * 1000) / 1000));
  });
  if (!result) fastest.value = wish;
}
watch(plan, (made) => {
  if (fastest.value === null || !made) return;
  told.value =
    made.durationS > fastest.value + 0.005
      ? `At full speed it takes ${formatNumber(made.durationS, 1)} s; ${formatNumber(fastest.value, 1)} s cannot be had.`
      : '';
  fastest.value = null;
});
const findings = computed(() =>
  view.findings.filter((f) => f.place.station === 'routine' && f.place.routine === routine.value?.id),
);
</script>

<template>
  <StationPage v-model="part" station="routine" :parts="routine ? parts : []">
    <template #about>
      <div class="row top">
        <Select
          v-if="!isRenaming"
          :model-value="routine?.id ?? null"
          :options="[...rigs.rig!.routines]"
          option-label="name"
          option-value="id"
          size="small"
          aria-label="Routine"
          class="grow"
          placeholder="no routine yet"
          @update:model-value="routineId = $event"
        />
        <TextField
          v-if="routine && isRenaming"
          class="grow"
          :value="routine.name"
          label="Name of the routine"
          :commit="rename"
        />
        <span v-if="routine?.role" class="role small">{{ routine.role === 'park' ? 'parks' : 'unparks' }}</span>
        <Button size="small" severity="secondary" label="New" aria-label="New routine" @click="newRoutine"
          ><template #icon><IconPlus :size="15" /></template
        ></Button>
        <Button
          v-if="routine"
          size="small"
          severity="secondary"
          aria-label="More for this routine"
          @click="menu?.toggle($event)"
          ><IconDots :size="16"
        /></Button>
        <Menu ref="menu" :model="actions" popup />
      </div>
    </template>
    <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
    <template v-if="routine">
      <template v-if="part === 'steps'">
        <input
          v-if="steps.steps.value.length > 8"
          v-model="search"
          class="search"
          type="search"
          placeholder="search the steps"
          aria-label="Search the steps"
        />
        <p v-if="!steps.steps.value.length" class="muted empty">
          No steps yet. Take a few poses first, then add a joint move to each.
        </p>
        <div class="list-form">
          <StepList class="list" :class="{ short: selected }" />
          <StepDetail v-if="selected" :step="selected" :routine />
        </div>
      </template>
      <RoutineText v-else-if="part === 'text'" />
      <BuildPart v-else-if="part === 'build'" @done="part = 'steps'" />
      <TimelinePart v-else-if="part === 'timeline'" />
      <SmoothingPart v-else />

      <div v-if="plan && plan.durationS > 0 && part === 'timeline'" class="row wish">
        <span class="small">Finish in under</span>
        <TextField
          class="under"
          :value="''"
          label="Stay under this duration, s"
          placeholder="… s"
          :commit="
            (v: string) =>
              v === '' ? undefined : Number(v) > 0 ? void under(Number(v)) : 'Seconds are allowed here, such as 30.'
          "
        />
        <span class="small">by changing the pace of its steps</span>
      </div>

      <div v-if="findings.length" class="stack tight">
        <FindingRow v-for="(f, k) in findings.slice(0, 4)" :key="k" :finding="f" @go="goTo(f)" />
        <span v-if="findings.length > 4" class="muted small"
          >{{ findings.length - 4 }} more in the list of all findings</span
        >
      </div>
    </template>
    <p v-else class="muted">No routine yet: press New.</p>
    <template v-if="(routine && part === 'steps') || (plan && plan.durationS > 0)" #foot>
      <div v-if="routine && part === 'steps'" class="row adds"><AddStep /></div>
      <RoutinePlayer v-if="plan && plan.durationS > 0" :plan @told="told = $event" />
      <p v-if="told" class="small told" role="status">{{ told }}</p>
    </template>
  </StationPage>
</template>

<style scoped>
.top,
.parts {
  margin-bottom: 0.5rem;
}
.role {
  background: var(--cork-wash);
  color: var(--cork);
  border-radius: 3px;
  padding: 0.05rem 0.4rem;
}
.search {
  width: 100%;
  margin-bottom: 0.4rem;
  border: 1px solid var(--lines);
  border-radius: 4px;
  background: var(--paper);
  color: inherit;
  font: inherit;
  font-size: 0.88rem;
  padding: 0.15rem 0.5rem;
}
.list {
  max-height: 26rem;
}
.list.short {
  max-height: 12.5rem;
}
/* Beside its step's form it may be as long as alone. */
@container station (min-width: 46rem) {
  .list.short {
    max-height: 26rem;
  }
}
.adds {
  flex-wrap: wrap;
  margin-bottom: 0.4rem;
  gap: 0.35rem;
}
.tight {
  gap: 0.3rem;
  margin: 0.5rem 0 0.4rem;
}
.wish {
  margin-top: 0.4rem;
}
.under {
  width: 6rem;
}
.told {
  color: var(--caution);
  margin-top: 0.3rem;
}
.empty {
  padding: 0.6rem 0;
}
</style>
