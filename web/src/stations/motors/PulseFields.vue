<script setup lang="ts">
/** One pulse in the other ways people write it: duty, 12-bit driver counts, 0 to 1. */
import { computed } from 'vue';
import { pulseForms, pulseFrom, type PulseForms } from '@cork-elbow/core/actuators';
import NumberField from '../../shared/NumberField.vue';

const { drive, us, commit } = defineProps<{
  drive: Parameters<typeof pulseForms>[0];
  us: number;
  /** Takes the pulse (µs). */
  commit: (us: number) => string | void;
}>();
const forms = computed(() => pulseForms(drive, us));
const setForm = (form: keyof PulseForms, v: number): string | void => commit(pulseFrom(drive, form, v));
</script>

<template>
  <label
    >duty
    <NumberField
      :value="forms.dutyPercent"
      dimension="share"
      :decimals="3"
      label="Duty"
      :commit="(v: number) => setForm('dutyPercent', v)"
  /></label>
  <label
    >driver counts
    <NumberField
      :value="forms.ticks"
      dimension="count"
      :decimals="2"
      label="Driver counts"
      :commit="(v: number) => setForm('ticks', v)"
  /></label>
  <label
    >0 to 1
    <NumberField
      :value="forms.fraction"
      dimension="ratio"
      :decimals="4"
      label="Fraction"
      :commit="(v: number) => setForm('fraction', v)"
  /></label>
</template>
