<script setup lang="ts">
/** What a motor's warmth hangs on, entered or usual; and both figures again from two readings. */
import Button from 'primevue/button';
import { computed, ref } from 'vue';
import { INSULATION_C, refit, wattsOf, windingOf } from '@cork-elbow/core/actuators';
import type { Drive } from '@cork-elbow/core/rig';
import { formatNumber } from '@cork-elbow/core/units';
import NumberField from '../../shared/NumberField.vue';
import { useEdit } from '../../shared/useEdit';

const { drive, airC, meanA } = defineProps<{ drive: Drive; airC: number; meanA: number }>();
const edit = useEdit();
const winding = computed(() => windingOf(drive)!);
type Key = 'ohm' | 'kPerW' | 'tauS' | 'outside';
const change = (label: string, recipe: (drive: Drive) => void): string | void =>
  edit(`${label} of ${drive.name}`, (draft) => recipe(draft.drives.find(({ id }) => id === drive.id)!));
const setHeat = (key: Key, value: number): string | void =>
  change('Warmth', (d) => {
    const heat = { ...d.heat };
    if (value > 0) heat[key] = value;
    else delete heat[key];
    if (Object.keys(heat).length) d.heat = heat;
    else delete d.heat;
  });
const isOwn = (key: Key): boolean => drive.heat?.[key] !== undefined;

// ── From two readings ─────────────────────────────────────────────────────────────────────────────────────────────

const amps = ref<number | null>(null);
const readings = ref([
  { min: 5, celsius: 0 },
  { min: 20, celsius: 0 },
]);
const current = computed(() => amps.value ?? Math.round(100 * meanA) / 100);
const found = computed(() => {
  const [first, second] = readings.value.map(({ min, celsius }) => ({ s: 60 * min, rise: celsius - airC }));
  return refit(winding.value, wattsOf(winding.value, current.value ** 2), first, second);
});
const isTyped = computed(() => readings.value.every(({ celsius }) => celsius !== 0));
function apply(): void {
  const { kPerW, tauS } = found.value!;
  const rounded = (v: number): number => Number(v.toPrecision(4));
  change('Warmth from two readings', (d) => {
    d.heat = { ...d.heat, kPerW: rounded(kPerW), tauS: rounded(tauS) };
  });
}
</script>

<template>
  <div class="form">
    <label
      >the part around it softens at
      <NumberField
        :value="drive.softensC ?? 0"
        :unset="drive.softensC ? null : 'unknown'"
        dimension="temperature"
        label="Temperature at which the part around it softens"
        :decimals="0"
        :min="0"
        :max="400"
        :commit="(v: number) => change('Softening', (d) => void (d.softensC = v || undefined))"
    /></label>
    <label
      >its winding stands
      <NumberField
        :value="drive.thermalC ?? INSULATION_C"
        :unset="drive.thermalC === undefined ? 'usual' : null"
        dimension="temperature"
        label="Highest temperature of its winding"
        :decimals="0"
        :min="30"
        :max="400"
        :commit="(v: number) => change('Highest temperature', (d) => void (d.thermalC = v))"
    /></label>
  </div>
  <p class="small muted">
    Usual prints soften at about 55 °C (polylactide), 75 °C (its copolyester kin) or 95 °C (styrene).
  </p>
  <details>
    <summary>What its warmth is reckoned with</summary>
    <div class="form">
      <label
        >{{ drive.kind === 'stepper' ? 'resistance of a coil' : 'resistance' }}
        <NumberField
          :value="winding.ohm"
          :unset="isOwn('ohm') ? null : 'usual'"
          dimension="resistance"
          label="Resistance of its winding"
          :min="0"
          :max="100000"
          :commit="(v: number) => setHeat('ohm', v)"
      /></label>
      <label
        >rise for each W, K
        <NumberField
          :value="winding.kPerW"
          :unset="isOwn('kPerW') ? null : 'usual'"
          dimension="ratio"
          :decimals="1"
          label="Rise of its winding for each watt"
          :min="0"
          :max="10000"
          :commit="(v: number) => setHeat('kPerW', v)"
      /></label>
      <label
        >time constant
        <NumberField
          :value="winding.tauS"
          :unset="isOwn('tauS') ? null : 'usual'"
          dimension="time"
          :decimals="0"
          label="Time constant of its warmth"
          :min="0"
          :max="100000"
          :commit="(v: number) => setHeat('tauS', v)"
      /></label>
      <label
        >of the rise arrives outside
        <NumberField
          :value="100 * winding.outside"
          :unset="isOwn('outside') ? null : 'usual'"
          dimension="share"
          :decimals="0"
          label="Share of the rise that arrives outside"
          :min="0"
          :max="100"
          :commit="(v: number) => setHeat('outside', v / 100)"
      /></label>
    </div>
    <p class="small muted">Grey figures are reckoned from its mass and its currents. 0 goes back to them.</p>
  </details>
  <details data-refit>
    <summary>From two readings of a thermometer</summary>
    <p class="small muted">
      From cold, with the same current all the time: the outside of its case, read twice. The later reading has to be
      the warmer one.
    </p>
    <div class="form">
      <label
        >current
        <NumberField
          :value="current"
          dimension="current"
          label="Current while it was read"
          :min="0"
          :max="100"
          :commit="(v: number) => void (amps = v)"
      /></label>
      <template v-for="(reading, k) in readings" :key="k">
        <label
          >after min
          <NumberField
            :value="reading.min"
            dimension="ratio"
            :decimals="1"
            :label="`Minutes of reading ${k + 1}`"
            :min="0.1"
            :max="600"
            :commit="(v: number) => void (reading.min = v)"
        /></label>
        <label
          >it had
          <NumberField
            :value="reading.celsius"
            dimension="temperature"
            :label="`Temperature of reading ${k + 1}`"
            :min="-20"
            :max="300"
            :commit="(v: number) => void (reading.celsius = v)"
        /></label>
      </template>
    </div>
    <p v-if="found" class="row wrap small">
      <span
        ><b class="num">{{ formatNumber(found.kPerW, 1) }} K/W</b>, time constant
        <b class="num">{{ formatNumber(found.tauS / 60, 1) }} min</b>.</span
      >
      <Button size="small" severity="secondary" label="Apply" @click="apply" />
    </p>
    <p v-else-if="isTyped" class="small">
      Nothing warms like that: the second reading has to be later and warmer than the first, by less than in
      proportion to the time, and both above the air.
    </p>
  </details>
</template>
