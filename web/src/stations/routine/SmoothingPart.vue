<script setup lang="ts">
/** How the motors are told: along planned motion, through a low pass, or at once; compared on this routine. */
import { computed } from 'vue';
import { commandedMotion } from '@cork-elbow/core/commands';
import {
  firstTickSpeed,
  poseAt,
  sampleTimes,
  settlingOf,
  shareOf,
  stallOf,
  timeConstantOf,
} from '@cork-elbow/core/motion';
import { planMotion, rockingSettles, type School } from '@cork-elbow/core/routine';
import { driveSpeed } from '@cork-elbow/core/actuators';
import type { MotionChoice, Respect } from '@cork-elbow/core/rig';
import { formatNumber } from '@cork-elbow/core/units';
import ChoiceField from '../../shared/ChoiceField.vue';
import JointMark from '../../shared/JointMark.vue';
import ChartKey from '../../shared/ChartKey.vue';
import LineChart, { type Series } from '../../shared/LineChart.vue';
import NumberField from '../../shared/NumberField.vue';
import { useEdit } from '../../shared/useEdit';
import { useJob } from '../../shared/useJob';
import { useSlots } from '../../shared/joints';
import { useRigStore } from '../../stores/rig';
import { useViewStore } from '../../stores/view';
import { usePlan } from '../../workspace/usePlan';
import { inUnit } from '@cork-elbow/core/mechanism';

const rigs = useRigStore();
const view = useViewStore();
const edit = useEdit();
const slots = useSlots();
const { plan, time, tried, show, routine } = usePlan();
/** What moves of this routine are slowed down for. */
const respects: Record<Respect, string> = { torque: 'Motors that hold', tip: 'A base that stands' };
function respect(what: Respect): void {
  const id = routine.value?.id;
  edit(`Slow moves down for ${respects[what].toLowerCase()}`, (draft) => {
    const own = draft.routines.find((r) => r.id === id);
    if (!own) return;
    const now = own.respect ?? [];
    own.respect = now.includes(what) ? now.filter((r) => r !== what) : [...now, what];
    if (!own.respect.length) delete own.respect;
  });
}
const motion = computed(() => rigs.rig!.motion);
const set = (label: string, change: Partial<MotionChoice>) =>
  edit(label, (draft) => void Object.assign(draft.motion, change));

const names: Record<School, string> = { planned: 'Planned', 'low-pass': 'Low pass', jump: 'Raw jump' };
const loopS = computed(() => motion.value.loopMs / 1000);
const share = computed(() => shareOf(motion.value.timeConstantS, loopS.value));
/** The figures of a step that the low pass is shown by. */
const STEP = 60;
const settles = computed(() => settlingOf(motion.value.timeConstantS, 1, 0.02));
const firstTick = computed(() => firstTickSpeed(motion.value.timeConstantS, loopS.value, STEP));
const slowest = computed(() => {
  const servos = rigs.rig!.drives.map((d) => ({ name: d.name, speed: driveSpeed(d) }));
  return servos.sort((a, b) => a.speed - b.speed)[0] ?? null;
});
const stall = computed(() => (motion.value.wholePer === null ? 0 : stallOf(share.value) / motion.value.wholePer));
/** A low pass is reckoned loop by loop: not for longer than this (s). */
const LONGEST = 7200;
const isTooLong = computed(() => (plan.value?.durationS ?? 0) > LONGEST);
const compared = useJob('schools', {
  request: () => {
    const made = plan.value;
    if (!made?.durationS || isTooLong.value) return null;
    return { routineId: made.routineId, inputs: tried.value[made.routineId] ?? {} };
  },
  when: () => [plan.value, motion.value] as const,
});
const figures = computed(() => compared.answer.value ?? []);
const percent = (v: number): string =>
  v > 99 ? '> 99×' : v > 9.995 ? `${formatNumber(v, 0)}×` : `${formatNumber(v * 100, 0)} %`;

// One joint as it is wished and as it is sent, a stretch about the moment on show.
const joint = computed(() => slots.value.find((s) => s.id === view.selected) ?? slots.value[0]);
const window = computed(() => {
  const all = plan.value?.durationS ?? 0;
  const from = Math.max(0, Math.min(time.value - 1.5, all - 4));
  return { from, to: Math.min(all + LATE, from + 4.6) };
});
/** How long after the routine's end is drawn (s). */
const LATE = 0.6;
/** What is sent by each school, over the whole routine. */
const sent = computed(() => {
  const { mechanism } = rigs;
  const made = plan.value;
  if (!made || !mechanism || made.start.length !== mechanism.m || isTooLong.value) return [];
  const timeS = sampleTimes(made.durationS + LATE, Math.max(0.01, made.durationS / 6000));
  const way = planMotion(made);
  return (['jump', 'low-pass', 'planned'] as const).map((school) => {
    const told = commandedMotion(mechanism, rigs.motors, way, { ...motion.value, school }, LATE);
    return { school, timeS, rows: Array.from(timeS, (t) => poseAt(told, t)) };
  });
});
const series = computed<Series[]>(() => {
  const { mechanism } = rigs;
  if (!plan.value || !mechanism || !joint.value || plan.value.start.length !== mechanism.m) return [];
  const { slot } = joint.value;
  const { from, to } = window.value;
  return sent.value.map(({ school, timeS, rows }, k) => {
    return {
      label: names[school],
      colour: [6, 2, 1][k],
      dash: [[2, 3], [6, 3], []][k],
      width: school === motion.value.school ? 2.4 : 1.3,
      points: rows.flatMap((q, i) =>
        timeS[i] < from || timeS[i] > to ? [] : [{ x: timeS[i], y: inUnit(mechanism, slot, q[slot]) }],
      ),
    };
  });
});
const whole = computed(() => [
  { label: 'fractions', value: 0 },
  { label: 'whole numbers', value: 1 },
  { label: 'whole tenths', value: 10 },
  { label: 'whole 256ths', value: 256 },
]);
</script>

<template>
  <section class="smoothing" aria-label="Smoothing">
    <div class="row wrap">
      <span v-rove.across="'button'" class="choice" role="group" aria-label="How motors are told"
        ><button
          v-for="(name, school) in names"
          :key="school"
          :aria-pressed="motion.school === school"
          @click="set('How motors are told', { school })"
        >
          {{ name }}
        </button></span
      >
    </div>
    <div v-if="routine" class="row wrap">
      <span>Slow moves down for</span>
      <span v-rove.across="'button'" class="choice" role="group" aria-label="What moves are slowed down for"
        ><button
          v-for="(name, what) in respects"
          :key="what"
          :aria-pressed="routine.respect?.includes(what) ?? false"
          @click="respect(what)"
        >
          {{ name }}
        </button></span
      >
    </div>
    <p class="muted small">
      {{
        motion.school === 'planned'
          ? 'Every moment of the way is worked out here, inside every limit, and sent.'
          : motion.school === 'low-pass'
            ? 'A low pass: every loop goes the same fraction of what is left to the step’s target, as boards do it. The preview, the table of commands and a run from here are told what comes out of it.'
            : 'Each step’s target is sent at once, in the table and in a run: motors go there as fast as they can, past every limit of speed.'
      }}
    </p>
    <div class="row wrap">
      <NumberField
        prefix="time constant, ms"
        :value="motion.timeConstantS * 1000"
        dimension="ratio"
        :decimals="1"
        label="Time constant in ms"
        :min="0.1"
        :max="10000"
        :commit="(v: number) => set('Time constant', { timeConstantS: v / 1000 })"
      />
      <NumberField
        prefix="loop, ms"
        :value="motion.loopMs"
        dimension="ratio"
        label="Loop of the board in ms"
        :min="0.1"
        :max="1000"
        :commit="(v: number) => set('Loop of the board', { loopMs: v })"
      />
      <NumberField
        prefix="fraction per loop"
        :value="share"
        dimension="ratio"
        label="Fraction per loop"
        :min="0.0001"
        :max="0.999"
        :step="0.01"
        :commit="
          (v: number) => set('Fraction per loop', { timeConstantS: Math.round(timeConstantOf(v, loopS) * 1e6) / 1e6 })
        "
      />
      <ChoiceField
        label="reckons in"
        :options="whole"
        :value="motion.wholePer ?? 0"
        @change="set('Numbers of the board', { wholePer: Number($event) || null })"
      />
    </div>
    <dl class="facts">
      <div>
        <dt>within 2 % after</dt>
        <dd class="num">{{ formatNumber(settles * 1000, 0) }} ms</dd>
      </div>
      <div :class="{ over: slowest && firstTick > slowest.speed }">
        <dt>a {{ STEP }}° step begins at</dt>
        <dd class="num">{{ formatNumber(firstTick, 0) }} °/s</dd>
      </div>
      <div v-if="slowest">
        <dt>the slowest motor makes</dt>
        <dd class="num">{{ formatNumber(slowest.speed, 0) }} °/s</dd>
      </div>
      <div v-if="stall > 0" class="over">
        <dt>stops short by up to</dt>
        <dd class="num">{{ formatNumber(stall, 1) }} counts</dd>
      </div>
    </dl>
    <div class="rule"><h2>This routine by each</h2></div>
    <table v-if="figures.length" class="table">
      <thead>
        <tr>
          <th><span class="sr">way</span></th>
          <th>arrives</th>
          <th>speed</th>
          <th>accel.</th>
          <th>jerk</th>
          <th>off path</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="f in figures" :key="f.school" :class="{ chosen: f.school === motion.school }">
          <th scope="row">{{ names[f.school] }}</th>
          <td class="num">{{ formatNumber(f.arrivesS, 2) }} s</td>
          <td class="num" :class="{ over: f.speed > 1.001 }">{{ percent(f.speed) }}</td>
          <td class="num" :class="{ over: f.accel > 1.02 }">{{ percent(f.accel) }}</td>
          <td class="num" :class="{ over: f.jerk > 1.05 }">{{ percent(f.jerk) }}</td>
          <td class="num">{{ f.offPath === null ? '–' : `${formatNumber(f.offPath * 1000, 1)} mm` }}</td>
        </tr>
      </tbody>
    </table>
    <p class="muted small">
      {{
        isTooLong ? 'Compared are routines of up to two hours.' : 'Shares of each joint’s own limits, at their worst.'
      }}
    </p>
    <div class="chart">
      <LineChart
        :series
        :unit="joint?.unit ?? '°'"
        :label="`${joint?.name}: raw, smoothed and planned over time`"
        :cursor="() => time"
        :min-x="window.from"
        :max-x="window.to"
        @pick="show"
      />
    </div>
    <p class="row legend small"><JointMark v-if="joint" :index="joint.slot" :size="18" /> {{ joint?.name }}</p>
    <ChartKey :series />
    <div class="rule"><h2>Rocking after a fast move</h2></div>
    <div class="row wrap">
      <label class="tick"
        ><input
          type="checkbox"
          :checked="motion.rocking !== null"
          @change="set('Rocking', { rocking: motion.rocking ? null : { hz: 4, damping: 0.08 } })"
        />
        the arm rocks</label
      >
      <template v-if="motion.rocking">
        <NumberField
          prefix="times a second"
          :value="motion.rocking.hz"
          dimension="ratio"
          label="Rocking, times a second"
          :min="0.1"
          :max="200"
          :commit="(v: number) => set('Rocking', { rocking: { ...motion.rocking!, hz: v } })"
        />
        <NumberField
          prefix="damping, %"
          :value="motion.rocking.damping * 100"
          dimension="ratio"
          label="Damping of the rocking, share of critical"
          :min="0.1"
          :max="99"
          :commit="(v: number) => set('Rocking', { rocking: { ...motion.rocking!, damping: v / 100 } })"
        />
        <span class="small muted">still after {{ formatNumber(rockingSettles(motion.rocking), 2) }} s</span>
      </template>
      <span v-else class="small muted">count its swings after a stop, and by how much each is smaller</span>
    </div>
  </section>
</template>

<style scoped>
.smoothing {
  display: grid;
  gap: 0.5rem;
}
.smoothing :deep(.field) {
  width: 11rem;
}
.facts dd {
  margin: 0;
  font-size: 1.15rem;
}
.over {
  color: var(--alarm);
}
.table {
  width: 100%;
  border-collapse: collapse;
  font-size: 0.88rem;
}
.table th {
  text-align: left;
  font-weight: 600;
}
.table thead th {
  font-weight: 400;
  color: var(--ink-2);
  font-size: 0.8rem;
}
.table td {
  white-space: nowrap;
}
.table td,
.table th {
  border-bottom: 1px solid var(--lines);
  padding: 0.2rem 0.4rem;
}
.table thead th:not(:first-child),
.table td {
  text-align: right;
}
.table .chosen {
  background: var(--pine-wash);
}
.chart {
  height: 190px;
}
.legend {
  gap: 0.8rem;
}
</style>
