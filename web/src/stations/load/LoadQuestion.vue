<script setup lang="ts">
/** What is asked: where the arm is looked at, and what it holds there. */
import ChoiceField from '../../shared/ChoiceField.vue';
import StationParts from '../../shared/StationParts.vue';
import { useRigStore } from '../../stores/rig';
import { usePlan } from '../../workspace/usePlan';
import LoadHolding from './LoadHolding.vue';
import { massWords } from './words';
import { useLoads, type Scope } from './useLoads';

const rigs = useRigStore();
const { routineId, routine } = usePlan();
const { scope, isCarried, heldKg } = useLoads();
const scopes: readonly { id: Scope; name: string }[] = [
  { id: 'pose', name: 'As it stands' },
  { id: 'anywhere', name: 'Anywhere' },
  { id: 'routine', name: 'In a routine' },
];
</script>

<template>
  <StationParts v-model="scope" :parts="scopes" label="Where it is looked at" within />
  <div v-if="scope === 'routine'" class="form">
    <ChoiceField
      label="routine"
      :options="(rigs.rig?.routines ?? []).map(({ id, name }) => ({ value: id, label: name }))"
      :value="routine?.id ?? null"
      placeholder="none yet"
      @change="routineId = $event as string"
    />
    <slot />
  </div>
  <LoadHolding v-else><slot /></LoadHolding>
  <p v-if="scope === 'routine'" class="small muted">In a routine it holds what its steps pick up.</p>
  <p v-else-if="scope === 'pose' && isCarried" class="small muted">
    A moment of the routine is on show: it holds {{ heldKg > 0 ? massWords(heldKg) : 'nothing' }} there.
  </p>
</template>
