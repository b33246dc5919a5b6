<script setup lang="ts">
import { IconGripVertical, IconPlayerPause, IconPlayerPlay, IconPlus } from '@tabler/icons-vue';
import Button from 'primevue/button';
import Select from 'primevue/select';
import { computed, nextTick, ref, watch } from 'vue';
import { VueDraggable } from 'vue-draggable-plus';
import { useRoute } from 'vue-router';
import { markDash } from '@cork-elbow/core/formats';
import { describeStep, samplePlan, stepNames } from '@cork-elbow/core/routine';
import { freeId, type Pace, type Routine, type Step } from '@cork-elbow/core/rig';
import { formatNumber } from '@cork-elbow/core/units';
import type { Finding } from '@cork-elbow/core/contract';
import FindingRow from '../../shared/FindingRow.vue';
import JointMark from '../../shared/JointMark.vue';
import { useSlots } from '../../shared/joints';
import LineChart, { type Series } from '../../shared/LineChart.vue';
import StationHead from '../../shared/StationHead.vue';
import { useOverlay } from '../../shared/useOverlay';
import { useRigStore } from '../../stores/rig';
import { useViewStore } from '../../stores/view';
import { usePlan } from '../../workspace/usePlan';
import StepDetail from './StepDetail.vue';

const rigs = useRigStore();
const view = useViewStore();
const route = useRoute();
const slots = useSlots();
const { routineId, routine, plan, time, step: current, trace, isPlaying, play, pause, show } = usePlan();
const problem = ref('');
const selectedId = ref<string | null>(null);
const chartOf = ref<'joints' | 'speeds' | 'accels'>('joints');
useOverlay(() => ({ dimensions: false, trace: trace.value }));

const steps = computed(() => routine.value?.steps ?? []);
const selected = computed(() => steps.value.find((s) => s.id === selectedId.value) ?? null);
watch(
  () => route.query.step,
  (id) => typeof id === 'string' && select(id),
  { immediate: true },
);

function commit(label: string, recipe: (routine: Routine) => void): string | void {
  const id = routine.value!.id;
  const result = rigs.commit(label, (draft) => recipe(draft.routines.find((r) => r.id === id)!));
  problem.value = result.ok ? '' : result.message;
  if (!result.ok) return result.message;
}
const onStep = (label: string, change: (step: Step) => void): string | void => {
  const id = selected.value!.id;
  return commit(label, (r) => change(r.steps.find((s) => s.id === id)!));
};
function select(id: string): void {
  selectedId.value = id;
  const timed = plan.value?.steps.find((s) => s.stepId === id);
  if (timed) {
    pause();
    show(timed.endS);
  }
  void nextTick(() =>
    document.querySelector(`[data-step="${CSS.escape(id)}"]`)?.scrollIntoView({ block: 'nearest' }),
  );
}
/** The step of a finding, and the very moment where it has one. */
function goTo({ place }: Finding): void {
  if (place.step) select(place.step);
  if (place.timeS !== undefined) show(place.timeS);
}
const firstTool = computed(() => rigs.rig!.mechanism.tools.find((t) => t.grip && 'joint' in t.grip));
const pace: Pace = { speedShare: 0.5 };
function insert(kind: Step['kind']): void {
  const taken = steps.value.map((s) => s.id);
  const base = { id: freeId('step', taken), enabled: true, note: '' };
  const pose = rigs.rig!.poses[0];
  let step: Step;
  if (kind === 'joint-move' || kind === 'straight-move')
    step = { ...base, kind, target: pose ? { pose: pose.id } : { joints: {} }, pace };
  else if (kind === 'wait') step = { ...base, kind, durationS: 1 };
  else if (kind === 'grip') step = { ...base, kind, tool: firstTool.value?.id ?? 'none', to: 'closed', pace };
  else step = { ...base, kind, note: 'Note' };
  const at = selected.value ? steps.value.indexOf(selected.value) + 1 : steps.value.length;
  commit(`Add: ${stepNames[kind]}`, (r) => void r.steps.splice(at, 0, step));
  selectedId.value = step.id;
}
function remove(step: Step): void {
  const at = steps.value.indexOf(step);
  commit(`Delete step ${at + 1}`, (r) => void r.steps.splice(at, 1));
  selectedId.value = steps.value[at]?.id ?? steps.value[at - 1]?.id ?? null;
}
function reorder(list: Step[]): void {
  const order = list.map((s) => s.id);
  commit('Reorder the steps', (r) => void r.steps.sort((a, b) => order.indexOf(a.id) - order.indexOf(b.id)));
}
function listKey(event: KeyboardEvent, step: Step): void {
  const at = steps.value.indexOf(step);
  const by = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0;
  if (event.target !== event.currentTarget) return;
  if (by && event.altKey) {
    event.preventDefault();
    const order = [...steps.value];
    if (at + by < 0 || at + by >= order.length) return;
    order.splice(at, 1);
    order.splice(at + by, 0, step);
    reorder(order);
  } else if (by) {
    event.preventDefault();
    const next = steps.value[at + by];
    if (next) {
      select(next.id);
      void nextTick(() => document.querySelector<HTMLElement>(`[data-step="${CSS.escape(next.id)}"]`)?.focus());
    }
  } else if (event.key === 'Delete') remove(step);
}
function newRoutine(): void {
  const list = rigs.rig!.routines;
  const id = freeId(
    'routine',
    list.map((r) => r.id),
  );
  const result = rigs.commit(
    'Add a routine',
    (draft) =>
      void draft.routines.push({ id, name: `Routine ${list.length + 1}`, note: '', profile: 's-curve', steps: [] }),
  );
  if (result.ok) routineId.value = id;
}
const timeOf = (id: string): number | null => {
  const s = plan.value?.steps.find((t) => t.stepId === id);
  return s ? s.endS - s.startS : null;
};
const paceText = (step: Step): string => {
  if (!('pace' in step)) return '';
  return 'durationS' in step.pace
    ? `in ${formatNumber(step.pace.durationS, 2)} s`
    : `${formatNumber(step.pace.speedShare * 100, 0)} %`;
};
// Charts: at most about 700 points a joint.
const samples = computed(() =>
  plan.value && rigs.mechanism && plan.value.start.length === rigs.mechanism.m && plan.value.durationS > 0
    ? samplePlan(rigs.mechanism, plan.value, Math.max(0.01, plan.value.durationS / 700))
    : null,
);
const series = computed<Series[]>(() => {
  const s = samples.value;
  if (!s) return [];
  return slots.value.map((info) => ({
    label: info.name,
    colour: (info.slot % 8) + 1,
    dash: markDash(info.slot),
    points: Array.from(s.timeS, (x, i) => ({ x, y: s[chartOf.value][info.slot][i] })),
  }));
});
const charts = [
  { id: 'joints', name: 'Position', unit: '°' },
  { id: 'speeds', name: 'Speed', unit: '°/s' },
  { id: 'accels', name: 'Acceleration', unit: '°/s²' },
] as const;
const unit = computed(() => charts.find((c) => c.id === chartOf.value)!.unit);
const findings = computed(() =>
  view.findings.filter((f) => f.place.station === 'routine' && f.place.routine === routine.value?.id),
);
const cycle = computed(() => (plan.value?.durationS ? 3600 / plan.value.durationS : 0));
</script>

<template>
  <StationHead question="What does it do, and how smoothly?" />
  <div class="row top">
    <Select
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
    <Button size="small" severity="secondary" label="New" aria-label="New routine" @click="newRoutine"
      ><template #icon><IconPlus :size="15" /></template
    ></Button>
  </div>
  <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
  <template v-if="routine">
    <VueDraggable
      tag="ol"
      class="steps"
      :model-value="[...steps]"
      handle=".grip"
      :animation="120"
      @update:model-value="reorder($event as Step[])"
    >
      <li
        v-for="(s, k) in steps"
        :key="s.id"
        class="step"
        tabindex="0"
        :data-step="s.id"
        :aria-current="current?.stepId === s.id ? 'step' : undefined"
        :class="{
          chosen: s.id === selectedId,
          playing: view.poseSource !== 'edit' && current?.stepId === s.id,
          off: !s.enabled,
        }"
        @click="select(s.id)"
        @keydown="listKey($event, s)"
      >
        <span class="grip" aria-hidden="true"><IconGripVertical :size="14" /></span>
        <span class="num no">{{ k + 1 }}</span>
        <span class="what"
          ><b>{{ stepNames[s.kind] }}</b> {{ describeStep(rigs.rig!, s) }}
          <span v-if="s.note && s.kind !== 'note'" class="muted small">{{ s.note }}</span></span
        >
        <span class="muted small pace">{{ paceText(s) }}</span>
        <span class="num small time">{{ timeOf(s.id) === null ? '' : `${formatNumber(timeOf(s.id)!, 2)} s` }}</span>
      </li>
    </VueDraggable>
    <p v-if="!steps.length" class="muted empty">
      No steps yet. Take a few poses first, then add a joint move to each.
    </p>
    <div class="row adds">
      <span class="muted small">Add</span
      ><Button
        v-for="(name, kind) in stepNames"
        :key="kind"
        size="small"
        severity="secondary"
        :label="name"
        :disabled="kind === 'grip' && !firstTool"
        @click="insert(kind)"
      />
    </div>

    <StepDetail
      v-if="selected"
      :key="selected.id"
      :step="selected"
      :takes="timeOf(selected.id)"
      :routine
      :edit="onStep"
      :edit-routine="commit"
      @remove="remove(selected)"
    />

    <div v-if="findings.length" class="stack tight">
      <FindingRow v-for="(f, k) in findings.slice(0, 4)" :key="k" :finding="f" @go="goTo(f)" />
    </div>

    <div v-if="plan && plan.durationS > 0" class="player">
      <div class="row">
        <Button
          size="small"
          :aria-label="isPlaying ? 'Pause' : 'Play on the stage'"
          :disabled="view.poseSource === 'live'"
          @click="isPlaying ? pause() : play()"
          ><IconPlayerPause v-if="isPlaying" :size="17" /><IconPlayerPlay v-else :size="17"
        /></Button>
        <input
          class="grow scrub"
          type="range"
          min="0"
          :max="plan.durationS"
          step="0.01"
          :value="time"
          aria-label="Time in the routine"
          :aria-valuetext="`${formatNumber(time, 1)} s`"
          @input="
            pause();
            show(Number(($event.target as HTMLInputElement).value));
          "
        />
        <span class="num small">{{ time.toFixed(1) }} / {{ plan.durationS.toFixed(1) }} s</span>
        <span class="num small muted">{{ formatNumber(cycle, 0) }} / h</span>
      </div>
      <div class="row legend">
        <span class="choice small" role="group" aria-label="Chart of"
          ><button v-for="c in charts" :key="c.id" :aria-pressed="chartOf === c.id" @click="chartOf = c.id">
            {{ c.name }}
          </button></span
        >
        <span class="grow" />
        <JointMark v-for="s in slots" :key="s.id" :index="s.slot" :size="20" />
      </div>
      <div class="chart">
        <LineChart
          :series
          :unit
          :label="`${charts.find((c) => c.id === chartOf)!.name} of every joint over time`"
          :cursor="time"
          :max-x="plan.durationS"
          @pick="show"
        />
      </div>
    </div>
  </template>
  <p v-else class="muted">No routine yet: press New.</p>
</template>

<style scoped>
.steps {
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 196px;
  overflow: auto;
  border: 1px solid var(--lines);
  border-radius: 4px;
  scrollbar-width: thin;
}
.step {
  display: grid;
  grid-template-columns: 1rem 1.5rem minmax(0, 1fr) auto 3.6rem;
  gap: 0.35rem;
  align-items: center;
  padding: 0.16rem 0.4rem 0.16rem 0.1rem;
  border-bottom: 1px solid var(--lines);
  cursor: pointer;
  font-size: 0.9rem;
}
.step:last-child {
  border-bottom: 0;
}
.step.chosen {
  background: var(--pine-wash);
}
.step.playing {
  box-shadow: inset 4px 0 0 var(--cork);
}
.step.off {
  opacity: 0.55;
  text-decoration: line-through;
}
.what {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.no,
.grip {
  color: var(--ink-3);
}
.no {
  text-align: right;
  font-size: 0.8rem;
}
.time {
  text-align: right;
}
.grip {
  cursor: grab;
  display: grid;
}
.top {
  margin-bottom: 0.5rem;
}
.adds {
  margin: 0.45rem 0;
  gap: 0.35rem;
}
.detail label {
  display: inline-flex;
  align-items: center;
  gap: 0.35rem;
  font-size: 0.88rem;
}
.detail .note {
  flex: 1;
  min-width: 8rem;
}
.tight {
  gap: 0.3rem;
  margin-bottom: 0.4rem;
}
.player {
  display: flex;
  flex-direction: column;
  gap: 0.35rem;
}
.scrub {
  accent-color: var(--cork);
}
.chart {
  height: 172px;
}
.legend {
  gap: 0.15rem;
}
.problem {
  color: var(--alarm);
}
.empty {
  padding: 0.6rem 0;
}
</style>
