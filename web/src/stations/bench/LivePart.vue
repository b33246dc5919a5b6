<script setup lang="ts">
/** Boards, what they are asked to do, and what they do now. */
import { refThrottled } from '@vueuse/core';
import Button from 'primevue/button';
import Select from 'primevue/select';
import { computed, defineAsyncComponent, ref, watch } from 'vue';
import { contractFindings, idleStatus } from '@cork-elbow/core/contract';
import { inUnit, toSlots } from '@cork-elbow/core/mechanism';
import { poseAt } from '@cork-elbow/core/motion';
import { planMotion, runFindings, runPace } from '@cork-elbow/core/routine';
import { formatFixed, formatNumber } from '@cork-elbow/core/units';
import ChoiceField from '../../shared/ChoiceField.vue';
import BoardCard from './BoardCard.vue';
import JointMarks from './JointMarks.vue';
import LimitFinder from './LimitFinder.vue';
import LineLog from './LineLog.vue';
import MotorHeat from './MotorHeat.vue';
import PaceSlider from './PaceSlider.vue';
import { runWords } from './run-words';
import SignalPanel from './SignalPanel.vue';
import TroublePanel from './TroublePanel.vue';
import FindingRow from '../../shared/FindingRow.vue';
import { behindFigure, useSlots } from '../../shared/joints';
import ChartKey from '../../shared/ChartKey.vue';
import type { Series } from '../../shared/LineChart.vue';
import { useOverlay } from '../../shared/useOverlay';
import { useRigStore } from '../../stores/rig';
import { useRunStore } from '../../stores/run';
import { useViewStore } from '../../stores/view';
import { useGo } from '../../workspace/useGo';
import { usePlan } from '../../workspace/usePlan';

const LineChart = defineAsyncComponent(() => import('../../shared/LineChart.vue'));

const rigs = useRigStore();
const view = useViewStore();
const run = useRunStore();
const slots = useSlots();
const context = usePlan();
const { routineId, routine, plan, trace } = context;
const go = useGo(context);
const shown = ref<string | null>(null);
useOverlay(() => ({ layers: { trace: trace.value }, dimensions: false }));

/** Of this rig: what a board did for another one says nothing here. */
const status = computed(() => ([null, rigs.id].includes(run.status.rigId) ? run.status : idleStatus));
const connected = computed(() => run.isLive);
const isMine = computed(() => connected.value && run.isRunning);
/** What of the routine the builder's own lines cannot do. */
const unsaid = computed(() =>
  connected.value && run.ownLines.size && rigs.rig && plan.value
    ? runFindings(rigs.rig, plan.value, run.ownLines).filter(({ code }) => code === 'run-lines')
    : [],
);
const stops = computed(() => [...view.findings.filter((f) => f.severity === 'stop'), ...unsaid.value]);
/** An arm that homes and has not is run slowly, unless somebody has looked. */
const unverified = computed(() => (rigs.rig?.homing.axes.length ?? 0) > 0 && !status.value.homed);
const asDrawn = ref(false);
const slowly = computed(() => runPace(rigs.rig!, false));
/** Whether it would be run slowly and cannot be. */
const tooFast = computed(() => (asDrawn.value || !unverified.value ? null : slowly.value.refused));
watch(connected, () => (asDrawn.value = false));
const canRun = computed(
  () =>
    connected.value &&
    status.value.armed &&
    ['normal', 'by-hand'].includes(status.value.mode) &&
    run.mayDrive &&
    run.isFree &&
    !run.isRunning &&
    !stops.value.length &&
    !tooFast.value &&
    (plan.value?.durationS ?? 0) > 0 &&
    rigs.saveState === 'saved',
);
const start = (stepwise = false): void =>
  run.send({
    type: 'run',
    rigId: rigs.id!,
    revision: rigs.revision,
    buildId: rigs.build!.id,
    routineId: routine.value!.id,
    ...(fromStep.value ? { fromStep: fromStep.value } : {}),
    ...(unverified.value && asDrawn.value ? { asDrawn: true } : {}),
    ...(stepwise ? { stepwise } : {}),
  });
/** Steps that a run may begin with; the first one means all of it. */
const fromStep = ref('');
watch(
  () => routine.value?.id,
  () => (fromStep.value = ''),
);
const begins = computed(() => [
  { label: 'from the start', value: '' },
  ...(plan.value?.steps ?? [])
    .filter((s, k, all) => s.depth === 0 && s.endS > s.startS && all.findIndex((o) => o.stepId === s.stepId) === k)
    .map((s) => ({ label: `from step ${s.index + 1}`, value: s.stepId })),
]);
/** Where the run begins (slots, SI). */
const begin = computed(
  () =>
    plan.value &&
    poseAt(planMotion(plan.value), plan.value.steps.find((s) => s.stepId === fromStep.value)?.startS ?? 0),
);
/** How far the arm really stands from there. */
const away = computed(() => {
  const { mechanism } = rigs;
  const stands = run.telemetry?.commanded;
  if (!mechanism || !begin.value || !stands || !status.value.armed || run.isRunning) return null;
  const there = begin.value;
  const from = toSlots(mechanism, stands);
  const far = slots.value
    .map((s) => ({ s, by: inUnit(mechanism, s.slot, Math.abs(there[s.slot] - from[s.slot])) }))
    .sort((a, b) => b.by - a.by)[0];
  return far && far.by > 1
    ? `${far.s.name} stands ${formatNumber(far.by, 0)}${behindFigure(far.s)} from there: the arm goes there slowly first.`
    : null;
});

/** What keeps the run from beginning: in the list before the button is pressed, or what the last one was refused for. */
const reasons = computed(() => (stops.value.length ? stops.value : (run.refusal?.findings ?? [])));
// Why else the run button is grey, in one line.
const hint = computed(() => {
  if (run.isRunning || canRun.value) return '';
  if (!connected.value) return 'Run is grey: no board is connected yet.';
  if (!run.mayDrive) return run.whyNotDrive;
  if (!plan.value?.durationS) return contractFindings.say('run-empty');
  if (rigs.saveState !== 'saved') return 'The last edit is still being saved.';
  if (status.value.mode === 'bringing-up') return 'The motors are being switched on one after the other.';
  if (status.value.mode === 'one-motor') return 'One motor is on alone; switch it off and arm the whole arm.';
  if (status.value.mode === 'homing') return 'The joints are finding their places.';
  if (status.value.mode === 'neutral') return 'The motors stand at neutral; disarm and arm again before a run.';
  if (!status.value.armed) return 'Nothing moves before the board is armed.';
  if (status.value.latched) return 'The arm was stopped: look at it, then clear the stop.';
  if (status.value.limp.length) return 'A motor was let go; hold it again first.';
  return tooFast.value?.message ?? '';
});
/** What somebody has to do before the run goes on. */
const swapWords = computed(() => {
  const { swap, run: state } = status.value;
  if (!swap || state !== 'paused') return '';
  const name = (id: string): string => `“${rigs.rig!.mechanism.tools.find((tool) => tool.id === id)?.name ?? id}”`;
  const doings = [swap.off && `take off ${name(swap.off)}`, swap.on && `put on ${name(swap.on)}`].filter(Boolean);
  return `Now ${doings.join(', ')}, then press Go on. The motors hold meanwhile and may start by a fault: fingers out of joints, an arm that could fall held up.`;
});
const words = computed(() => {
  const { waits } = status.value;
  if (waits && status.value.run === 'running') {
    const name = rigs.rig!.signals.find(({ id }) => id === waits.signal)?.name ?? waits.signal;
    return `Waits for “${name}” to be ${waits.is ? 'on' : 'off'}`;
  }
  if (status.value.swap && status.value.run === 'paused') return 'Swap the tool';
  if (status.value.run !== 'idle') return runWords[status.value.run];
  if (!connected.value) return 'Not connected';
  if (!status.value.armed) return 'Not armed';
  return canRun.value ? 'Ready to run' : 'Armed';
});
// The chart is redrawn five times a second; stage and strip follow every message.
const ticks = refThrottled(
  computed(() => run.ticks),
  200,
);
const joint = computed(() => slots.value.find((s) => s.id === (shown.value ?? view.selected)) ?? slots.value[0]);
const series = computed<Series[]>(() => {
  void ticks.value;
  const t = run.traceNow();
  const info = joint.value;
  if (!info || !t.timeS.length) return [];
  const every = Math.max(1, Math.ceil(t.timeS.length / 700));
  const pick = (kind: 'commanded' | 'measured') =>
    t.timeS.flatMap((x, i) =>
      i % every || t[kind][info.id]?.[i] === undefined ? [] : [{ x, y: t[kind][info.id][i] }],
    );
  return [
    {
      label: `${info.name} commanded`,
      slot: info.slot,
      colour: (info.slot % 8) + 1,
      width: 1.6,
      points: pick('commanded'),
    },
    { label: 'measured', colour: 8, dash: [4, 3], width: 1.6, points: pick('measured') },
  ];
});
</script>

<template>
  <div>
    <BoardCard />
    <SignalPanel />
    <LimitFinder />
    <TroublePanel />

    <div class="rule"><h2>Run</h2></div>
    <div class="row top">
      <Select
        class="grow"
        :model-value="routine?.id ?? null"
        :options="[...rigs.rig!.routines]"
        option-label="name"
        option-value="id"
        size="small"
        aria-label="Routine"
        :disabled="run.isRunning"
        @update:model-value="routineId = $event"
      />
      <template v-if="run.isRunning">
        <template v-if="status.steps">
          <Button
            severity="secondary"
            label="Step back"
            title="The same way backwards, to where the step began"
            data-moves
            :disabled="!run.mayDrive || !status.steps.back"
            @click="run.send({ type: 'step', way: 'back' })"
          />
          <Button
            severity="secondary"
            label="Step on"
            title="On to the end of the step"
            data-moves
            :disabled="!run.mayDrive || !status.steps.on"
            @click="run.send({ type: 'step', way: 'on' })"
          />
        </template>
        <Button
          v-if="status.run === 'paused'"
          label="Go on"
          data-moves
          :disabled="!run.mayDrive"
          @click="run.send({ type: 'resume' })"
        />
        <Button
          v-else
          severity="secondary"
          label="Pause"
          :disabled="status.run === 'stopping' || status.run === 'pausing'"
          @click="run.send({ type: 'pause' })"
        />
      </template>
      <template v-else>
        <ChoiceField label="" name="Begin" :options="begins" :value="fromStep" @change="fromStep = String($event)" />
        <Button
          severity="secondary"
          label="Step"
          title="Goes slowly to where it begins and stands there, to be gone through step by step"
          data-moves
          :disabled="!canRun"
          @click="start(true)"
        />
        <Button label="Run" data-moves :disabled="!canRun" @click="start()" />
      </template>
    </div>
    <label v-if="connected && unverified && !run.isRunning" class="check"
      ><input v-model="asDrawn" type="checkbox" /> I have looked: the arm stands as it is drawn. Without that a run
      keeps to {{ formatNumber(slowly.share * 100, 0) }} % of its speed, since nothing has homed it.</label
    >
    <p v-if="away" class="muted small" role="note">{{ away }}</p>
    <div
      class="state"
      :data-run="status.run"
      :data-link="status.link"
      :data-armed="status.armed"
      :data-mode="status.mode"
      role="status"
    >
      <b>{{ words }}</b>
      <progress
        :value="status.totalS ? (isMine ? (run.telemetry?.runS ?? 0) : status.runS) / status.totalS : 0"
        max="1"
        aria-label="Progress of the run"
      />
      <span class="num small"
        >{{ formatFixed(isMine ? (run.telemetry?.runS ?? status.runS) : status.runS, 1) }} /
        {{ formatFixed(status.totalS || plan?.durationS || 0, 1) }} s</span
      >
    </div>
    <p v-if="swapWords" class="small swap" role="alert">{{ swapWords }}</p>
    <p v-if="status.steps && !status.swap" class="muted small" role="note">
      Back is the same way backwards: outputs, counters, and what was taken or put down stay as they are.
    </p>
    <MotorHeat />
    <PaceSlider v-if="isMine" />
    <div v-if="run.isRunning" class="row freeze">
      <span class="grow muted small">Freeze stops without slowing down, which is hard on gears, and disarms.</span>
      <Button size="small" severity="danger" variant="outlined" label="Freeze" @click="run.send({ type: 'halt' })" />
    </div>
    <p v-if="hint" class="muted small">{{ hint }}</p>
    <div v-if="reasons.length && !run.isRunning" class="stack tight">
      <FindingRow v-for="(f, k) in reasons.slice(0, 3)" :key="k" :finding="f" @go="go" />
    </div>

    <div class="rule">
      <h2>Commanded and measured</h2>
    </div>
    <JointMarks :joints="slots" :model-value="joint?.id ?? null" @update:model-value="shown = $event" />
    <div class="chart">
      <LineChart
        v-if="series.length"
        :series
        :unit="joint?.unit ?? '°'"
        :label="`${joint?.name}: commanded and measured`"
        :max-x="status.totalS || undefined"
      />
      <p v-else class="muted small">The first run draws here what each joint was told and what it did.</p>
    </div>
    <ChartKey v-if="series.length" :series />

    <LineLog />
  </div>
</template>

<style scoped>
.check {
  display: flex;
  gap: 0.5rem;
  align-items: start;
  font-size: 0.92rem;
}
.check input {
  margin-top: 0.25rem;
}
.top {
  margin: 0.5rem 0;
}
.state {
  display: flex;
  align-items: center;
  gap: 0.7rem;
}
.state b {
  min-width: 7.5rem;
}
progress {
  flex: 1;
  height: 8px;
}
.chart {
  height: 178px;
  margin-top: 0.4rem;
}
.freeze {
  margin-top: 0.35rem;
}
.swap {
  color: var(--caution);
  font-weight: 600;
  margin: 0.3rem 0 0;
}
.tight {
  gap: 0.3rem;
}
</style>
