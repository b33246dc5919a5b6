<script setup lang="ts">
/** Boards and wires: what hangs where, and what is wrong with it. */
import { computed } from 'vue';
import { bySeverity, type Finding, type PartOf } from '@cork-elbow/core/findings';
import type { Part } from '../../../shared/stations';
import FindingRow from '../../../shared/FindingRow.vue';
import { useViewStore } from '../../../stores/view';
import BoardList from './BoardList.vue';
import RailList from './RailList.vue';
import SensorList from './SensorList.vue';
import SignalList from './SignalList.vue';
import { useWiring } from './useWiring';
import WireTable from './WireTable.vue';
import WiringSheet from './WiringSheet.vue';

const { findings, problem } = useWiring();
const view = useViewStore();
defineProps<{ parts: readonly Part<PartOf<'motors'>>[] }>();
const part = defineModel<PartOf<'motors'>>({ required: true });
const sorted = computed(() => [...findings.value].sort(bySeverity));
/** Where a finding about wires is mended. */
function go({ place }: Finding): void {
  if (place.station !== 'motors') return;
  if (place.joint) view.selected = place.joint;
  if (place.part) part.value = place.part;
}
</script>

<template>
  <span class="choice parts" role="group" aria-label="Part of the wiring"
    ><button v-for="p in parts" :key="p.id" :aria-pressed="part === p.id" @click="part = p.id">
      {{ p.name }}
    </button></span
  >
  <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
  <div v-if="sorted.length" class="found" aria-label="Findings about wires">
    <FindingRow v-for="(f, k) in sorted" :key="k" :finding="f" @go="go" />
  </div>
  <WireTable v-if="part === 'wires'" />
  <BoardList v-else-if="part === 'boards'" />
  <RailList v-else-if="part === 'rails'" />
  <SignalList v-else-if="part === 'signals'" />
  <SensorList v-else-if="part === 'sensors'" />
  <WiringSheet v-else />
</template>

<style scoped>
.parts {
  display: flex;
  margin: 0.4rem 0;
}
.parts button {
  flex: 1 1 auto;
  padding-inline: 0.3rem;
}
.found {
  display: grid;
  gap: 0.25rem;
  max-height: 10rem;
  overflow: auto;
  margin-bottom: 0.4rem;
}
.problem {
  color: var(--alarm);
}
@media (max-width: 1100px) {
  .parts button {
    padding-inline: 0.15rem;
    font-size: 0.86rem;
  }
}
</style>
