<script setup lang="ts">
/** Boards and wires: what hangs where, and what is wrong with it. */
import { computed, type Component } from 'vue';
import { bySeverity, type Finding, type PartOf } from '@cork-elbow/core/findings';
import type { Part } from '../../../shared/stations';
import FindingRow from '../../../shared/FindingRow.vue';
import StationParts from '../../../shared/StationParts.vue';
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
const pages: Partial<Record<PartOf<'motors'>, Component>> = {
  wires: WireTable,
  boards: BoardList,
  rails: RailList,
  signals: SignalList,
  sensors: SensorList,
  sheet: WiringSheet,
};
const sorted = computed(() => [...findings.value].sort(bySeverity));
/** Where a finding about wires is mended. */
function go({ place }: Finding): void {
  if (place.station !== 'motors') return;
  if (place.joint) view.selected = place.joint;
  if (place.part) part.value = place.part;
}
</script>

<template>
  <StationParts v-model="part" within :parts label="Part of the wiring" />
  <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
  <div v-if="sorted.length" class="found" aria-label="Findings about wires">
    <FindingRow v-for="(f, k) in sorted" :key="k" :finding="f" @go="go" />
  </div>
  <component :is="pages[part]" />
</template>

<style scoped>
.found {
  display: grid;
  gap: 0.25rem;
  max-height: 10rem;
  overflow: auto;
  margin-bottom: 0.4rem;
}
</style>
