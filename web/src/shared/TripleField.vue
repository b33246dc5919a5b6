<script setup lang="ts">
/** Three numbers that belong together: a place, an axis, angles. */
import type { Dimension } from '@cork-elbow/core/units';
import NumberField from './NumberField.vue';

const {
  value,
  label,
  words = ['forward', 'left', 'up'],
  dimension = 'length',
  commit,
} = defineProps<{
  value: readonly number[];
  /** Begins each field's name for screen readers. */
  label: string;
  words?: readonly string[];
  dimension?: Dimension;
  commit: (index: number, value: number) => string | void;
}>();
</script>

<template>
  <NumberField
    v-for="(word, k) in words"
    :key="word"
    :prefix="word"
    :value="value[k] ?? 0"
    :dimension
    :label="`${label} ${word}`"
    :commit="(v: number) => commit(k, v)"
  />
</template>
