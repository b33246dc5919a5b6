<script setup lang="ts">
/** What the arm holds. */
import { computed } from 'vue';
import { formatNumber } from '@cork-elbow/core/units';
import ChoiceField from '../../shared/ChoiceField.vue';
import NumberField from '../../shared/NumberField.vue';
import { useRigStore } from '../../stores/rig';
import { GRAMS, NOTHING, useLoads } from './useLoads';

const rigs = useRigStore();
const { holds, grams, tools, tool, toolId } = useLoads();
const loads = computed(() => [
  { value: NOTHING, label: 'nothing' },
  ...(rigs.rig?.payloads ?? []).map(({ id, name, massG }) => ({
    value: id,
    label: `${name}, ${formatNumber(massG, 0)} g`,
  })),
  { value: GRAMS, label: 'so many grams' },
]);
const nameOf = (id: string): string => rigs.rig?.mechanism.tools.find((t) => t.id === id)?.name ?? id;
</script>

<template>
  <div class="form">
    <template v-if="tools.length">
      <ChoiceField label="it holds" :options="loads" :value="holds" @change="holds = $event as string" />
      <label v-if="holds === GRAMS"
        >mass
        <NumberField
          :value="grams"
          dimension="mass"
          label="Mass that it holds"
          :min="0"
          :max="500000"
          :commit="(v: number) => void (grams = v)"
      /></label>
      <ChoiceField
        v-if="tools.length > 1"
        label="with"
        name="Tool that holds it"
        :options="tools.map(({ id }) => ({ value: id, label: nameOf(id) }))"
        :value="tool?.id ?? null"
        @change="toolId = $event as string"
      />
    </template>
    <slot />
  </div>
</template>
