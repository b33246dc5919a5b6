<script setup lang="ts">
/** How fast a move is: a share of what the joints can, a time, or a speed of the tool's point. */
import { computed } from 'vue';
import type { Pace } from '@cork-elbow/core/rig';
import NumberField from '../../shared/NumberField.vue';
import type { Said } from './useSteps';

const { pace, takes, set } = defineProps<{
  pace: Pace;
  /** Seconds as planned; null where it has none. */
  takes: number | null;
  set: (pace: Pace) => Said;
}>();
const way = computed(() => ('durationS' in pace ? 'time' : 'mmPerS' in pace ? 'tool' : 'speed'));
function setWay(next: 'speed' | 'time' | 'tool'): void {
  if (next === way.value) return;
  if (next === 'speed') set({ speedShare: 0.5 });
  else if (next === 'time') set({ durationS: Math.max(0.01, Math.ceil((takes ?? 1) * 100) / 100) });
  else set({ mmPerS: 50 });
}
</script>

<template>
  <span v-rove.across="'button'" class="choice small" role="group" aria-label="Pace"
    ><button :aria-pressed="way === 'speed'" @click="setWay('speed')">speed</button
    ><button :aria-pressed="way === 'time'" @click="setWay('time')">time</button
    ><button :aria-pressed="way === 'tool'" title="Speed of the tool’s point" @click="setWay('tool')">
      mm/s
    </button></span
  >
  <NumberField
    v-if="'speedShare' in pace"
    :value="pace.speedShare * 100"
    dimension="share"
    :decimals="0"
    label="Share of full speed"
    :min="1"
    :max="100"
    :step="5"
    :commit="(v: number) => set({ ...pace, speedShare: v / 100 })"
  />
  <NumberField
    v-else-if="'durationS' in pace"
    :value="pace.durationS"
    dimension="time"
    label="Duration"
    :min="0.01"
    :max="3600"
    :step="0.1"
    :commit="(v: number) => set({ durationS: v })"
  />
  <NumberField
    v-else
    :value="pace.mmPerS"
    dimension="speed"
    label="Speed of the tool"
    :min="0.1"
    :max="10000"
    :step="5"
    :commit="(v: number) => set({ mmPerS: v })"
  />
</template>
