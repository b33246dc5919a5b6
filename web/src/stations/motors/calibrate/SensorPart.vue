<script setup lang="ts">
/** A sensor: its zero and sense from two readings; a knob's or potentiometer's ends, centre, noise and dead band. */
import { IconArrowBarToLeft } from '@tabler/icons-vue';
import Button from 'primevue/button';
import { computed, ref, watch } from 'vue';
import { knobOf, sensorAngle, zeroFrom } from '@cork-elbow/core/calibration';
import { entryOf, type Sensor } from '@cork-elbow/core/rig';
import { formatNumber } from '@cork-elbow/core/units';
import IconButton from '../../../shared/IconButton.vue';
import NumberField from '../../../shared/NumberField.vue';
import TextField from '../../../shared/TextField.vue';
import { today } from '../../../shared/today';
import { useRigStore } from '../../../stores/rig';
import { useRunStore } from '../../../stores/run';
import { useMotor } from '../useMotor';

const { sensor } = defineProps<{ sensor: Sensor }>();
const rigs = useRigStore();
const run = useRunStore();
const { onBuild } = useMotor();
/** Whether its joint is a slide: a turn of its counts is a millimetre then, where it sits on the joint itself. */
const slides = computed(() => {
  const { mechanism } = rigs;
  const j = mechanism && sensor.joint !== null ? mechanism.index.get(sensor.joint) : undefined;
  return j !== undefined && mechanism!.units[j] === 'mm';
});
const unit = computed(() => (slides.value && sensor.side === 'joint' ? ('mm' as const) : ('°' as const)));
/** What it reads now, as its board says; null while no board does. */
const now = computed(() => (run.isLive ? (run.telemetry?.sensed[sensor.id] ?? null) : null));
const nowWords = computed(() => {
  if (!now.value) return '';
  const { raw, swing } = now.value;
  const counts = `${formatNumber(raw, 0)} counts${swing ? `, within ${formatNumber(swing, 0)} while it rests` : ''}`;
  if (!reading.value) return counts;
  return `${counts}: ${formatNumber(sensorAngle(rigs.build!, sensor, raw, slides.value), 1)} ${unit.value}`;
});
/** Adds what it reads now, both ends of how it swings, to the readings of a place. */
function add(place: 'low' | 'high' | 'centre'): void {
  const { raw, swing } = now.value!;
  const more = swing ? [raw - swing / 2, raw + swing / 2] : [raw];
  texts.value = {
    ...texts.value,
    [place]: [texts.value[place].trim(), ...more.map((v) => String(Math.round(v)))].filter(Boolean).join(' '),
  };
}
const places = [
  { id: 'low', at: 'at the low end', hint: 'at one end: 12 14 13' },
  { id: 'centre', at: 'at the middle', hint: 'in the middle' },
  { id: 'high', at: 'at the high end', hint: 'at the other end' },
] as const;
const problem = ref('');
const at = ref({ raw: 0, angle: 0 });
const after = ref({ raw: 0, angle: 90 });
const texts = ref({ low: '', high: '', centre: '' });
watch(
  () => sensor.id,
  () => {
    at.value = { raw: 0, angle: 0 };
    after.value = { raw: 0, angle: 90 };
    texts.value = { low: '', high: '', centre: '' };
    problem.value = '';
  },
);
const reading = computed(() => entryOf(rigs.build!.sensors, sensor.id));
function takeZero(): void {
  const taken = zeroFrom(sensor, at.value, after.value, slides.value);
  if (!taken) {
    problem.value = 'Two readings that differ, at two different angles, are needed: turn it further and read again.';
    return;
  }
  problem.value =
    onBuild(`Zero of ${sensor.name}`, (build) => {
      build.sensors[sensor.id] = { ...build.sensors[sensor.id], ...taken, takenOn: today() };
    }) ?? '';
}
/** Numbers typed one after the other, in any way people part them. */
const numbers = (text: string): number[] | null => {
  const list = text
    .split(/[\s;,]+/)
    .filter(Boolean)
    .map(Number);
  return list.every(Number.isFinite) ? list : null;
};
function takeEnds(): void {
  const [low, high, centre] = [texts.value.low, texts.value.high, texts.value.centre].map(numbers);
  if (!low || !high || !centre) {
    problem.value = 'Readings are whole numbers with spaces between them, such as 12 14 13.';
    return;
  }
  const ends = knobOf({ low, high, centre });
  if (!ends) {
    problem.value =
      'Readings at both ends and at the middle are needed, with the middle between the ends and the ends further apart than the noise.';
    return;
  }
  problem.value =
    onBuild(`Ends of ${sensor.name}`, (build) => {
      build.sensors[sensor.id] = {
        ...{ zero: ends.centre, direction: (ends.high > ends.low ? 1 : -1) as 1 | -1 },
        ...build.sensors[sensor.id],
        ends,
        takenOn: today(),
      };
    }) ?? '';
}
function forget(): void {
  problem.value = onBuild(`Forget ${sensor.name}`, (build) => void delete build.sensors[sensor.id]) ?? '';
}
</script>

<template>
  <section class="sensor" :aria-label="`Calibration of ${sensor.name}`">
    <b>{{ sensor.name }}</b>
    <p v-if="problem" class="problem small" role="alert">{{ problem }}</p>
    <p class="small" role="status">
      <template v-if="reading"
        >Zero at <span class="num">{{ formatNumber(reading.zero, 0) }}</span>, counts
        {{ reading.direction > 0 ? 'up' : 'down' }} with the angle,
        {{ sensor.wraps ? 'begins again after a turn' : 'does not wrap'
        }}<template v-if="reading.ends"
          >; ends {{ formatNumber(reading.ends.low, 0) }} and {{ formatNumber(reading.ends.high, 0) }}, centre
          {{ formatNumber(reading.ends.centre, 0) }}, noise {{ formatNumber(reading.ends.noise, 0) }}, dead band ±{{
            formatNumber(reading.ends.deadBand, 0)
          }}</template
        >.</template
      ><template v-else>Not calibrated on this build yet.</template>
    </p>
    <p v-if="now" class="small num" role="status" :aria-label="`What ${sensor.name} reads`">Reads {{ nowWords }}.</p>
    <p v-else-if="sensor.board !== null" class="muted small">
      While its board is connected, what it reads stands here and is taken over by a button.
    </p>
    <div class="pairs">
      <NumberField
        prefix="reads"
        :value="at.raw"
        dimension="count"
        :label="`First reading of ${sensor.name}`"
        :min="-1e9"
        :commit="(v: number) => void (at = { ...at, raw: v })"
      />
      <IconButton
        v-if="now"
        :icon="IconArrowBarToLeft"
        :label="`First reading of ${sensor.name} is what it reads now`"
        title="Take what it reads now"
        @click="at = { ...at, raw: Math.round(now.raw) }"
      />
      <NumberField
        prefix="at"
        :value="at.angle"
        :dimension="unit === 'mm' ? 'length' : 'angle'"
        :decimals="1"
        :label="`First angle of ${sensor.name}`"
        :commit="(v: number) => void (at = { ...at, angle: v })"
      />
      <NumberField
        prefix="then"
        :value="after.raw"
        dimension="count"
        :label="`Second reading of ${sensor.name}`"
        :min="-1e9"
        :commit="(v: number) => void (after = { ...after, raw: v })"
      />
      <IconButton
        v-if="now"
        :icon="IconArrowBarToLeft"
        :label="`Second reading of ${sensor.name} is what it reads now`"
        title="Take what it reads now"
        @click="after = { ...after, raw: Math.round(now.raw) }"
      />
      <NumberField
        prefix="at"
        :value="after.angle"
        :dimension="unit === 'mm' ? 'length' : 'angle'"
        :decimals="1"
        :label="`Second angle of ${sensor.name}`"
        :commit="(v: number) => void (after = { ...after, angle: v })"
      />
      <Button size="small" severity="secondary" label="Apply zero and sense" @click="takeZero" />
    </div>
    <div v-if="sensor.kind !== 'encoder'" class="pairs">
      <template v-for="{ id, at: where, hint } in places" :key="id">
        <TextField
          :value="texts[id]"
          :label="`Readings ${where} of ${sensor.name}`"
          :placeholder="hint"
          :commit="(v: string) => void (texts[id] = v)"
        />
        <IconButton
          v-if="now"
          :icon="IconArrowBarToLeft"
          :label="`Add what ${sensor.name} reads now to its readings ${where}`"
          title="Add what it reads now"
          @click="add(id)"
        />
      </template>
      <Button size="small" severity="secondary" label="Apply ends and noise" @click="takeEnds" />
    </div>
    <Button v-if="reading" size="small" variant="text" severity="secondary" label="Forget it" @click="forget" />
  </section>
</template>

<style scoped>
.sensor {
  border-top: 1px solid var(--lines);
  padding: 0.4rem 0;
}
.pairs {
  display: flex;
  flex-wrap: wrap;
  gap: 0.35rem;
  margin: 0.25rem 0;
}
.pairs > :not(button, .icon-button) {
  flex: 1 1 5.6rem;
  min-width: 5.6rem;
}
</style>
