<script setup lang="ts">
/** Boards and wires: what hangs where, and what is wrong with it. */
import { useSessionStorage } from '@vueuse/core';
import { computed } from 'vue';
import { bySeverity, type Finding } from '@cork-elbow/core/findings';
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
type Part = 'wires' | 'boards' | 'rails' | 'signals' | 'sensors' | 'sheet';
const parts: { id: Part; name: string }[] = [
  { id: 'wires', name: 'Wires' },
  { id: 'boards', name: 'Boards' },
  { id: 'rails', name: 'Supplies' },
  { id: 'signals', name: 'Inputs & outputs' },
  { id: 'sensors', name: 'Sensors' },
  { id: 'sheet', name: 'Sheet' },
];
const part = useSessionStorage<Part>('cork-elbow:wiring-part', 'wires');
const sorted = computed(() => [...findings.value].sort(bySeverity));
/** Where a finding about wires is mended. */
function go({ code, place }: Finding): void {
  if (place.joint) view.selected = place.joint;
  part.value = /^(signal|polarity|input|output)/.test(code)
    ? 'signals'
    : /^(voltage|ground|rail-on)/.test(code)
      ? 'rails'
      : /^(board|loop|steps)/.test(code)
        ? 'boards'
        : code === 'address-twice' && !place.drive
          ? 'sensors'
          : 'wires';
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
