<script setup lang="ts">
/** How warm motors become, and what is around them, when the routine goes on and on. */
import { useLocalStorage } from '@vueuse/core';
import { computed, ref } from 'vue';
import {
  ampsFor,
  currentsOf,
  dutyFor,
  heatBounds,
  meanSquare,
  riseAt,
  secondsTo,
  wattsOf,
  windingOf,
} from '@cork-elbow/core/actuators';
import { markDash } from '@cork-elbow/core/drawing';
import { formatNumber } from '@cork-elbow/core/units';
import ChoiceField from '../../shared/ChoiceField.vue';
import JointMark from '../../shared/JointMark.vue';
import LineChart, { type Series } from '../../shared/LineChart.vue';
import NumberField from '../../shared/NumberField.vue';
import ChartKey from '../../shared/ChartKey.vue';
import { useSlots } from '../../shared/joints';
import { useOverlay } from '../../shared/useOverlay';
import { useRigStore } from '../../stores/rig';
import { useGo } from '../../workspace/useGo';
import { usePlan } from '../../workspace/usePlan';
import HeatFigures from './HeatFigures.vue';
import { useLoads } from './useLoads';

const rigs = useRigStore();
const slots = useSlots();
const plan = usePlan();
const { routineId, routine } = plan;
const go = useGo(plan);
const { along, loading } = useLoads();
useOverlay(() => ({ dimensions: false }));

const airC = useLocalStorage('cork-elbow:air-c', 25);
/** K that are to be left to what gives way. */
const LEFT = 15;
const MINUTES = 60;

const boundWords = { winding: 'its winding', around: 'the part around it' } as const;
const rows = computed(() => {
  const found = along.answer.value;
  const own = loading.value?.motors;
  if (!found || !own || found.amps.length !== own.length) return [];
  return own.flatMap(({ drive, slots: [slot] }, k) => {
    const winding = windingOf(drive);
    if (!winding || Number.isNaN(found.amps[k][0])) return [];
    const square = meanSquare(found.timeS, found.amps[k]);
    const watts = wattsOf(winding, square);
    const bounds = heatBounds(drive, winding).map((bound) => {
      const room = (bound.celsius - airC.value) / bound.share;
      const most = ampsFor(winding, (bound.celsius - LEFT - airC.value) / bound.share);
      return {
        ...bound,
        at: airC.value + bound.share * riseAt(winding, watts, 60 * MINUTES),
        minutes: secondsTo(winding, watts, room) / 60,
        most,
        duty: dutyFor(most, square, currentsOf(drive)?.idleA ?? 0),
      };
    });
    const worst = bounds.reduce((a, b) => (a.celsius - a.at < b.celsius - b.at ? a : b));
    const left = worst.celsius - worst.at;
    const state = left < 0 ? 'over' : left < LEFT ? 'tight' : 'good';
    return [{ ...{ drive, slot, winding, watts, bounds, worst, left, state }, meanA: Math.sqrt(square) }];
  });
});
type Row = (typeof rows.value)[number];
const unknown = computed(() => {
  const known = new Set(rows.value.map(({ drive }) => drive.id));
  return (loading.value?.motors ?? []).filter(({ drive }) => !known.has(drive.id));
});
const hottest = computed(() => rows.value.reduce<Row | null>((a, b) => (a && a.left <= b.left ? a : b), null));
const chosenId = ref<string | null>(null);
const chosen = computed(() => rows.value.find(({ drive }) => drive.id === chosenId.value) ?? hottest.value ?? null);
const verdict = computed(() => {
  const row = hottest.value;
  if (!row) return null;
  const who = slots.value[row.slot]?.name ?? row.drive.name;
  if (row.state === 'over')
    return {
      state: 'over',
      words: `${row.worst.of === 'winding' ? `The winding of ${who}` : `The part around ${who}`} becomes too hot after ${formatNumber(row.worst.minutes, 0)} min.`,
    };
  return row.state === 'tight'
    ? {
        state: 'tight',
        words: `${who} comes within ${formatNumber(row.left, 0)} K of what ${boundWords[row.worst.of]} stands.`,
      }
    : {
        state: 'good',
        words: `${unknown.value.length ? 'What is known of it stays' : 'It stays'} cool enough: ${formatNumber(row.left, 0)} K left at ${who}, the hottest.`,
      };
});

/** Winding and surroundings of the chosen motor, and where they give way. */
const series = computed<Series[]>(() => {
  const row = chosen.value;
  if (!row) return [];
  const minutes = Array.from({ length: MINUTES * 2 + 1 }, (_, i) => i / 2);
  const line = (label: string, share: number, colour: number): Series => ({
    ...{ label, colour },
    points: minutes.map((x) => ({ x, y: airC.value + share * riseAt(row.winding, row.watts, 60 * x) })),
  });
  const flat = (label: string, celsius: number, colour: number, dash: number): Series => ({
    ...{ label, colour, dash: markDash(dash) },
    points: [
      { x: 0, y: celsius },
      { x: MINUTES, y: celsius },
    ],
  });
  return [
    line('winding', 1, 1),
    line('around it', row.winding.outside, 2),
    flat('winding gives way', row.bounds[0].celsius, 1, 2),
    ...(row.bounds[1] ? [flat('part softens', row.bounds[1].celsius, 2, 3)] : []),
  ];
});
const times = (minutes: number): string =>
  minutes === Infinity
    ? 'never'
    : minutes < 1
      ? `${formatNumber(60 * minutes, 0)} s`
      : `${formatNumber(minutes, 0)} min`;
/** Of the bound that leaves least. */
const most = ({ bounds }: Row): number => Math.min(...bounds.map((b) => b.most));
const duty = ({ bounds }: Row): string => {
  const least = bounds.reduce<number | null>(
    (a, b) => (a === null || b.duty === null ? null : Math.min(a, b.duty)),
    1,
  );
  return least === null ? 'none' : `${formatNumber(100 * least, 0)} %`;
};
</script>

<template>
  <div data-heat-part :data-state="verdict?.state ?? 'none'">
    <div class="form">
      <ChoiceField
        v-if="rigs.rig?.routines.length"
        label="routine, again and again"
        :options="rigs.rig.routines.map(({ id, name }) => ({ value: id, label: name }))"
        :value="routine?.id ?? null"
        @change="routineId = $event as string"
      />
      <label
        >the air has
        <NumberField
          :value="airC"
          dimension="temperature"
          label="Temperature of the air"
          :min="-20"
          :max="60"
          :commit="(v: number) => void (airC = v)"
      /></label>
    </div>
    <p v-if="!rigs.rig?.routines.length" class="row wrap small muted">
      There is no routine yet: what warms the motors is what they do.
      <button class="link" @click="go({ place: { station: 'routine', part: 'steps' } })">Make one</button>
    </p>
    <p v-else-if="!rows.length && along.isBusy.value" class="small muted">Weighing the routine …</p>
    <template v-if="rows.length">
      <h2 v-if="verdict" role="status" class="verdict" :class="verdict.state">{{ verdict.words }}</h2>
      <table class="plain heat" aria-label="Heat of each motor">
        <thead>
          <tr>
            <th>joint</th>
            <th class="right" title="Root of the mean square over the routine">mean, A</th>
            <th class="right" title="After an hour">winding, °C</th>
            <th class="right" title="After an hour">around, °C</th>
            <th class="right">too hot in</th>
            <th class="right" title="For ever, with 15 K left">may have, A</th>
            <th class="right" title="Share of the time that the routine may run, with 15 K left">may run</th>
          </tr>
        </thead>
        <tbody>
          <tr
            v-for="row in rows"
            :key="row.drive.id"
            :class="[row.state, { chosen: row === chosen }]"
            :data-heat="row.drive.id"
            :data-state="row.state"
            @click="chosenId = row.drive.id"
          >
            <td>
              <span class="who"
                ><JointMark :index="row.slot" :size="20" />
                <button class="link" :aria-pressed="row === chosen">{{ slots[row.slot]?.name }}</button></span
              >
            </td>
            <td class="num right">{{ formatNumber(row.meanA, 2) }}</td>
            <td class="num right">{{ formatNumber(row.bounds[0].at, 0) }}</td>
            <td class="num right">
              {{ formatNumber(airC + row.winding.outside * (row.bounds[0].at - airC), 0) }}
            </td>
            <td class="num right at">{{ times(Math.min(...row.bounds.map((b) => b.minutes))) }}</td>
            <td class="num right">{{ formatNumber(most(row), 2) }}</td>
            <td class="num right">{{ duty(row) }}</td>
          </tr>
        </tbody>
      </table>
      <template v-if="chosen">
        <h2 class="more">{{ slots[chosen.slot]?.name }} over an hour</h2>
        <div class="over-time">
          <LineChart :series unit="°C" x-unit="min" label="Temperature over an hour" :max-x="MINUTES" />
        </div>
        <ChartKey :series />
        <HeatFigures :drive="chosen.drive" :air-c="airC" :mean-a="chosen.meanA" />
      </template>
      <p class="small muted">
        Still air, from cold; reckoned with one body that warms and cools. What is not entered is what a motor of its
        mass usually has. Let a hot motor cool before you touch it.
      </p>
    </template>
    <p v-if="along.answer.value && unknown.length" class="row wrap small muted">
      Not known, and left out: {{ unknown.map(({ drive }) => drive.name).join(', ') }}. Its currents and voltage are
      needed, of a stepper the resistance of a coil.
      <button
        class="link"
        @click="go({ place: { station: 'motors', part: 'joints', joint: slots[unknown[0].slots[0]]?.id } })"
      >
        Enter them
      </button>
    </p>
  </div>
</template>

<style scoped>
.heat {
  width: 100%;
}
.heat td,
.heat th {
  padding: 0.16rem 0.3rem;
  vertical-align: middle;
}
.heat td {
  white-space: nowrap;
}
.heat th {
  line-height: 1.15;
  white-space: normal;
  vertical-align: bottom;
}
.who .link {
  line-height: 1.3;
}
.right {
  text-align: right;
}
.who {
  display: inline-flex;
  align-items: center;
  gap: 0.35rem;
}
.chosen td {
  background: var(--paper-2);
}
.tight .at,
.tight .link {
  color: var(--caution);
}
.over .at,
.over .link {
  color: var(--alarm);
}
.more {
  margin: 0.9rem 0 0.2rem;
}
.over-time {
  height: 11rem;
}
</style>
