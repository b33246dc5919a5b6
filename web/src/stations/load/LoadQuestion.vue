<script setup lang="ts">
/** What is asked: where the arm is looked at, and what it holds there. */
import { computed } from 'vue';
import { formatNumber } from '@cork-elbow/core/units';
import ChoiceField from '../../shared/ChoiceField.vue';
import NumberField from '../../shared/NumberField.vue';
import StationParts from '../../shared/StationParts.vue';
import { useRigStore } from '../../stores/rig';
import { usePlan } from '../../workspace/usePlan';
import { massWords } from './words';
import { GRAMS, NOTHING, useLoads, type Scope } from './useLoads';

const rigs = useRigStore();
const { routineId, routine } = usePlan();
const { scope, holds, grams, tools, tool, toolId, isCarried, heldKg } = useLoads();
const scopes: readonly { id: Scope; name: string }[] = [
  { id: 'pose', name: 'As it stands' },
  { id: 'anywhere', name: 'Anywhere' },
  { id: 'routine', name: 'In a routine' },
];
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
  <StationParts v-model="scope" :parts="scopes" label="Where it is looked at" within />
  <div class="form">
    <ChoiceField
      v-if="scope === 'routine'"
      label="routine"
      :options="(rigs.rig?.routines ?? []).map(({ id, name }) => ({ value: id, label: name }))"
      :value="routine?.id ?? null"
      placeholder="none yet"
      @change="routineId = $event as string"
    />
    <template v-else-if="tools.length">
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
  <p v-if="scope === 'routine'" class="small muted">In a routine it holds what its steps pick up.</p>
  <p v-else-if="scope === 'pose' && isCarried" class="small muted">
    A moment of the routine is on show: it holds {{ heldKg > 0 ? massWords(heldKg) : 'nothing' }} there.
  </p>
</template>
