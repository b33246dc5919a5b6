<script setup lang="ts">
/** The run unrolled: steps, what holds each stretch back, signals, joints; with inputs as they are tried, and beside a plan kept before. */
import Button from 'primevue/button';
import { computed, ref } from 'vue';
import TermHint from '../../shared/TermHint.vue';
import { simulatedInput, type SimulatedInputs } from '@cork-elbow/core/contract';
import { commandTable } from '@cork-elbow/core/commands';
import { poseAt, sampleMotion } from '@cork-elbow/core/motion';
import { markDash } from '@cork-elbow/core/drawing';
import { cycleFigures, heldBack, planMotion, stepNames, type Plan, type Stretch } from '@cork-elbow/core/routine';
import { formatFixed, formatNumber } from '@cork-elbow/core/units';
import JointMark from '../../shared/JointMark.vue';
import { useSlots } from '../../shared/joints';
import ChartKey from '../../shared/ChartKey.vue';
import LineChart, { type Series } from '../../shared/LineChart.vue';
import TextField from '../../shared/TextField.vue';
import { useRigStore } from '../../stores/rig';
import { usePlan } from '../../workspace/usePlan';
import HeldNow from './HeldNow.vue';
import TimelineCursor from './TimelineCursor.vue';
import { useSteps } from './useSteps';
import { inUnit } from '@cork-elbow/core/mechanism';

const rigs = useRigStore();
const slots = useSlots();
const steps = useSteps();
const { plan, motion, time, show, pause, tried, kept, routine } = usePlan();
const chartOf = ref<'joints' | 'speeds' | 'accels' | 'sent'>('speeds');
const fits = (made: Plan | null): made is Plan =>
  made !== null && rigs.mechanism !== null && made.start.length === rigs.mechanism.m && made.durationS > 0;
const span = computed(() =>
  Math.max(plan.value?.durationS ?? 0, kept.value?.plan.durationS ?? 0, motion.value?.durationS ?? 0, 0.001),
);
const x = (t: number): string => `${(100 * t) / span.value}%`;
const width = (a: number, b: number): string => `${Math.max(0.12, (100 * (b - a)) / span.value)}%`;

const held = computed(() => (fits(plan.value) ? heldBack(rigs.mechanism!, plan.value) : []));
const figures = computed(() => (fits(plan.value) ? cycleFigures(rigs.mechanism!, plan.value, held.value) : null));
const before = computed(() =>
  kept.value && fits(kept.value.plan) ? cycleFigures(rigs.mechanism!, kept.value.plan) : null,
);
const words = { speed: 'speed', accel: 'acceleration', jerk: 'jerk' } as const;
const paceWords = {
  still: 'nothing moves',
  pace: 'the pace that was asked for',
  torque: 'what its motors bear',
  tip: 'the base, which would tip',
} as const;
function reason(stretch: Stretch): string {
  if (!('slot' in stretch)) return paceWords[stretch.by];
  return `${words[stretch.by]} of ${slots.value[stretch.slot]?.name}`;
}
/** More bars than this are more than can be told apart: the shortest are left out. */
const MOST_BARS = 1200;
const drawn = <T extends { startS: number; endS: number }>(list: readonly T[]): readonly T[] =>
  list.length <= MOST_BARS ? list : list.filter((s) => s.endS - s.startS >= span.value / MOST_BARS);
const bars = (made: Plan | null) =>
  fits(made) ? drawn(made.steps.filter((s) => s.endS > s.startS && s.depth === 0)) : [];
const inner = computed(() =>
  fits(plan.value) ? drawn(plan.value.steps.filter((s) => s.endS > s.startS && s.depth > 0)) : [],
);
const kinds = computed(
  () => new Map(rigs.rig!.routines.map((r) => [r.id, new Map(r.steps.map((s) => [s.id, s.kind]))])),
);
const kindOf = (id: string, routineId: string) => kinds.value.get(routineId)?.get(id);
const title = (s: { stepId: string; routine: string; index: number; startS: number; endS: number }): string => {
  const kind = kindOf(s.stepId, s.routine);
  return `${s.index + 1} ${kind ? stepNames[kind] : ''}: ${formatNumber(s.endS - s.startS, 2)} s`;
};
/** Outputs and inputs over time, a lane each. */
const lanes = computed(() => {
  const made = plan.value;
  if (!made) return [];
  const ids = [...new Set(made.events.flatMap((e) => (e.kind === 'output' || e.kind === 'input' ? [e.signal] : [])))];
  return ids.map((id) => {
    const signal = rigs.rig!.signals.find((s) => s.id === id);
    const events = made.events.filter(
      (e): e is Extract<typeof e, { signal: string }> => 'signal' in e && e.signal === id,
    );
    const on = events.flatMap((e, k) =>
      e.on ? [{ startS: e.timeS, endS: events[k + 1]?.timeS ?? made.durationS }] : [],
    );
    return {
      id,
      name: signal?.name ?? id,
      way: events[0].kind,
      on: drawn(on),
      marks: events.length > MOST_BARS ? [] : events.map((e) => e.timeS),
    };
  });
});
/** Inputs that the routine asks for, here or in what it calls. */
const inputs = computed(() =>
  rigs.rig!.signals.filter(
    (s) => s.way === 'in' && (plan.value?.events.some((e) => e.kind === 'input' && e.signal === s.id) ?? false),
  ),
);
const mine = computed<SimulatedInputs>(() => tried.value[routine.value?.id ?? ''] ?? {});
function setInput(id: string, input: SimulatedInputs[string] | undefined): void {
  const { [id]: _old, ...rest } = mine.value;
  tried.value = {
    ...tried.value,
    [routine.value!.id]: input === undefined ? rest : { ...rest, [id]: input },
  };
}
const stateOf = (id: string): string => {
  const input = mine.value[id];
  if (input === undefined) return 'soon';
  return (typeof input === 'object' ? input.from : input) ? 'on' : 'off';
};
const changesOf = (id: string): string => {
  const input = mine.value[id];
  return typeof input === 'object' ? input.changesS.map((t) => formatNumber(t, 2)).join(', ') : '';
};
function setChanges(id: string, text: string): string | void {
  const parts = text.split(/[\s,;]+/).filter(Boolean);
  const parsed = simulatedInput.safeParse({ from: stateOf(id) === 'on', changesS: parts.map(Number) });
  if (!parsed.success) return 'Times in seconds, such as 2, 4.5, are allowed here.';
  setInput(id, parsed.data);
}

const charts = [
  { id: 'joints', name: 'Position', unit: '°' },
  { id: 'speeds', name: 'Speed', unit: '°/s' },
  { id: 'accels', name: 'Acceleration', unit: '°/s²' },
  { id: 'sent', name: 'Sent', unit: '°' },
] as const;
const unit = computed(() => charts.find((c) => c.id === chartOf.value)!.unit);
/** The chart's unit for a joint: what slides has millimetres. */
const unitOf = (own: '°' | 'mm' | undefined): string => (own === 'mm' ? unit.value.replace('°', 'mm') : unit.value);
/** Places of a line, and of all lines together: more cannot be told apart. */
const PLACES = 700;
const ALL_PLACES = 6000;
const samplesOf = (made: Plan) =>
  sampleMotion(
    rigs.mechanism!,
    planMotion(made),
    Math.max(0.01, made.durationS / Math.min(PLACES, ALL_PLACES / made.start.length)),
  );
const samples = computed(() => (fits(plan.value) ? samplesOf(plan.value) : null));
const keptSamples = computed(() => (kept.value && fits(kept.value.plan) ? samplesOf(kept.value.plan) : null));
/** What the motors really get, in whole pulses or steps at their rate, less what was planned. */
const off = computed<Series[]>(() => {
  const { mechanism } = rigs;
  if (!fits(plan.value) || !motion.value || !mechanism) return [];
  const rate = Math.min(50, 4000 / plan.value.durationS);
  const table = commandTable(mechanism, rigs.driven, motion.value, rate);
  const way = planMotion(plan.value);
  const planned = Array.from(table.timeS, (t) => poseAt(way, t));
  return table.slots.map((slot, k) => ({
    label: slots.value[slot]?.name ?? '',
    unit: unitOf(slots.value[slot]?.unit),
    colour: (slot % 8) + 1,
    slot,
    dash: markDash(slot),
    width: 1.2,
    points: Array.from(table.timeS, (t, i) => ({
      x: t,
      y: table.joints[k][i] - inUnit(mechanism, slot, planned[i][slot]),
    })),
  }));
});
const series = computed<Series[]>(() => {
  const lines = (s: ReturnType<typeof samplesOf>, thin: boolean): Series[] =>
    slots.value.map((info) => ({
      label: thin ? `${info.name}, kept` : info.name,
      unit: unitOf(info.unit),
      colour: (info.slot % 8) + 1,
      slot: info.slot,
      dash: thin ? [2, 3] : markDash(info.slot),
      width: thin ? 1 : undefined,
      points: Array.from(s.timeS, (t, i) => ({ x: t, y: s[chartOf.value as 'joints'][info.slot][i] })),
    }));
  if (chartOf.value === 'sent') return off.value;
  return [
    ...(keptSamples.value ? lines(keptSamples.value, true) : []),
    ...(samples.value ? lines(samples.value, false) : []),
  ];
});
/** A line a joint: the kept ones are like them. */
const keyed = computed(() =>
  series.value.slice(keptSamples.value && chartOf.value !== 'sent' ? slots.value.length : 0),
);
function pick(event: MouseEvent): void {
  const box = (event.currentTarget as HTMLElement).getBoundingClientRect();
  pause();
  show((span.value * (event.clientX - box.left)) / box.width);
}
const plus = (a: number, b: number): string => `${a - b > 0 ? '+' : '−'}${formatNumber(Math.abs(a - b), 2)} s`;
</script>

<template>
  <section class="timeline" aria-label="Timeline">
    <dl v-if="figures" class="facts">
      <div>
        <dt>{{ plan?.endlessFromS === null ? 'takes' : 'a round takes' }}</dt>
        <dd class="num">
          {{ formatFixed(figures.cycleS, 2) }} s
          <span v-if="before" class="small muted">{{ plus(figures.cycleS, before.cycleS) }}</span>
        </dd>
      </div>
      <div>
        <dt>runs an hour</dt>
        <dd class="num">{{ formatNumber(figures.perHour, 0) }}</dd>
      </div>
      <div>
        <dt>moves / waits</dt>
        <dd class="num">{{ formatFixed(figures.movingS, 1) }} / {{ formatFixed(figures.waitingS, 1) }} s</dd>
      </div>
      <div v-if="figures.slowest">
        <dt>holds back most</dt>
        <dd>
          <JointMark :index="figures.slowest.slot" :size="18" /> {{ slots[figures.slowest.slot]?.name }}
          <span class="num small muted">{{ formatNumber(figures.slowest.seconds, 1) }} s</span>
        </dd>
      </div>
    </dl>
    <div class="tracks" @click="pick">
      <div v-if="kept" class="track kept" title="The plan kept before">
        <span
          v-for="(s, k) in bars(kept.plan)"
          :key="k"
          class="bar"
          :class="kindOf(s.stepId, s.routine)"
          :style="{ left: x(s.startS), width: width(s.startS, s.endS) }"
        />
      </div>
      <div class="track">
        <span
          v-for="(s, k) in bars(plan)"
          :key="k"
          class="bar"
          :class="[kindOf(s.stepId, s.routine), { chosen: steps.chosen.value.has(s.stepId) }]"
          :style="{ left: x(s.startS), width: width(s.startS, s.endS) }"
          :title="title(s)"
          >{{ (s.endS - s.startS) / span > 0.035 ? s.index + 1 : '' }}</span
        >
      </div>
      <div v-if="inner.length" class="track inner" title="Steps of routines that are called">
        <span
          v-for="(s, k) in inner"
          :key="k"
          class="bar"
          :class="kindOf(s.stepId, s.routine)"
          :style="{ left: x(s.startS), width: width(s.startS, s.endS) }"
          :title="title(s)"
        />
      </div>
      <div class="track held" aria-label="What holds each stretch back">
        <span
          v-for="(s, k) in drawn(held)"
          :key="k"
          class="why"
          :class="[s.by, 'slot' in s ? `joint-${(s.slot % 8) + 1}` : '']"
          :style="{ left: x(s.startS), width: width(s.startS, s.endS) }"
          :title="reason(s)"
        />
      </div>
      <div v-for="lane in lanes" :key="lane.id" class="track lane">
        <span class="name small">{{ lane.name }}</span>
        <span
          v-for="(on, k) in lane.on"
          :key="k"
          class="on"
          :class="lane.way"
          :style="{ left: x(on.startS), width: width(on.startS, on.endS) }"
        />
        <span v-for="(t, k) in lane.marks" :key="`m${k}`" class="mark" :style="{ left: x(t) }" />
      </div>
      <TimelineCursor :span />
    </div>
    <p class="small now">
      <HeldNow :held :reason />
      <span class="muted legend">
        <i class="swatch speed" /> speed <i class="swatch accel" /> acceleration <i class="swatch jerk" /> jerk
        <i class="swatch pace" /> pace<template v-if="held.some(({ by }) => by === 'torque' || by === 'tip')">
          <i class="swatch load" /> motors or base</template
        ></span
      >
    </p>
    <TermHint term="heldBackBy" />
    <div v-if="inputs.length" class="inputs">
      <div class="rule"><h2>Inputs as they are tried</h2></div>
      <div v-for="s in inputs" :key="s.id" class="row wrap">
        <span class="signal">{{ s.name }}</span>
        <span v-rove.across="'button'" class="choice small" role="group" :aria-label="`${s.name} is`"
          ><button
            :aria-pressed="stateOf(s.id) === 'soon'"
            title="Every wait is met at once; an if reads off"
            @click="setInput(s.id, undefined)"
          >
            when asked</button
          ><button :aria-pressed="stateOf(s.id) === 'off'" @click="setInput(s.id, { from: false, changesS: [] })">
            off</button
          ><button :aria-pressed="stateOf(s.id) === 'on'" @click="setInput(s.id, { from: true, changesS: [] })">
            on
          </button></span
        >
        <TextField
          v-if="stateOf(s.id) !== 'soon'"
          :value="changesOf(s.id)"
          :label="`${s.name} changes at`"
          placeholder="changes at … s"
          :commit="(v: string) => setChanges(s.id, v)"
        />
      </div>
    </div>
    <div class="row">
      <span v-rove.across="'button'" class="choice small" role="group" aria-label="Chart of"
        ><button v-for="c in charts" :key="c.id" :aria-pressed="chartOf === c.id" @click="chartOf = c.id">
          {{ c.name }}
        </button></span
      >
      <span class="grow" />
      <Button
        v-if="!kept"
        size="small"
        variant="text"
        label="Keep to compare"
        :disabled="!plan"
        @click="kept = { plan: plan!, at: new Date() }"
      />
      <Button v-else size="small" variant="text" label="Drop the kept plan" @click="kept = null" />
    </div>
    <div class="chart">
      <LineChart
        :series
        :unit
        :label="`${charts.find((c) => c.id === chartOf)!.name} of every joint over time`"
        :cursor="() => time"
        :max-x="span"
        @pick="show"
      />
    </div>
    <ChartKey :series="keyed" />
    <p v-if="chartOf === 'sent'" class="small muted">
      What is sent, in whole pulses or steps, less what was planned.
    </p>
    <p v-else-if="keptSamples" class="small muted">Thin dotted: the plan that was kept.</p>
  </section>
</template>

<style scoped>
.timeline {
  display: grid;
  gap: 0.5rem;
  align-content: start;
}
.facts dd {
  margin: 0;
  font-size: 1.05rem;
}
.tracks {
  position: relative;
  display: grid;
  gap: 3px;
  cursor: crosshair;
}
.track {
  position: relative;
  height: 22px;
  background: var(--paper-2);
  border-radius: 3px;
  overflow: hidden;
}
.track.kept {
  height: 9px;
  opacity: 0.6;
}
.track.inner {
  height: 11px;
}
.track.held {
  height: 12px;
}
.track.lane {
  height: 18px;
}
.bar,
.why,
.on {
  position: absolute;
  top: 0;
  bottom: 0;
  min-width: 1px;
}
.bar {
  background: var(--pine);
  border-right: 1px solid var(--paper);
  color: var(--on-pine);
  font: 11px/22px var(--mono);
  text-align: center;
  overflow: hidden;
}
.bar.wait,
.bar.wait-input {
  background: repeating-linear-gradient(45deg, var(--lines) 0 3px, var(--paper) 3px 7px);
  color: var(--ink);
}
.bar.grip {
  background: var(--cork);
}
.bar.chosen {
  box-shadow: inset 0 -4px 0 var(--cork);
}
.why {
  background: var(--jc, var(--lines));
}
.why.pace {
  background: var(--cork-wash);
}
.why.torque,
.why.tip {
  background: var(--caution);
}
.why.still {
  background: none;
}
.why.accel,
.swatch.accel {
  -webkit-mask: repeating-linear-gradient(90deg, #000 0 4px, transparent 4px 6px);
  mask: repeating-linear-gradient(90deg, #000 0 4px, transparent 4px 6px);
}
.why.jerk,
.swatch.jerk {
  -webkit-mask: repeating-linear-gradient(90deg, #000 0 1.5px, transparent 1.5px 4px);
  mask: repeating-linear-gradient(90deg, #000 0 1.5px, transparent 1.5px 4px);
}
.swatch {
  display: inline-block;
  width: 16px;
  height: 9px;
  background: var(--ink-2);
  margin: 0 0.1rem 0 0.5rem;
}
.swatch.pace {
  background: var(--cork-wash);
  border: 1px solid var(--lines);
}
.swatch.load {
  background: var(--caution);
}
.lane .name {
  position: absolute;
  left: 0.3rem;
  z-index: 1;
  line-height: 18px;
}
.on {
  background: var(--cork-wash);
  border-bottom: 3px solid var(--cork);
}
.on.input {
  background: var(--pine-wash);
  border-color: var(--pine);
}
.mark {
  position: absolute;
  top: 0;
  bottom: 0;
  width: 1px;
  background: var(--ink-3);
}
.now .legend {
  float: right;
}
.inputs {
  display: grid;
  gap: 0.3rem;
}
.signal {
  min-width: 7rem;
}
.chart {
  height: 190px;
}
</style>
