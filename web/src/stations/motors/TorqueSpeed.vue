<script setup lang="ts">
/** Points of torque left at speed, drawn and edited. */
import Button from 'primevue/button';
import { computed } from 'vue';
import { driveSpeed } from '@cork-elbow/core/actuators';
import type { Drive } from '@cork-elbow/core/rig';
import NumberField from '../../shared/NumberField.vue';

type Points = NonNullable<Drive['torqueAtSpeed']>;
const { drive, commit } = defineProps<{ drive: Drive; commit: (points: Points) => string | void }>();
const points = computed(() => drive.torqueAtSpeed ?? []);
/** Until points are typed: straight from stall to no load. */
const shown = computed(() =>
  points.value.length
    ? points.value
    : [
        { degPerS: 0, nm: drive.stallNm },
        { degPerS: driveSpeed(drive), nm: 0 },
      ],
);
const rising = (list: Points): Points => [...list].sort((a, b) => a.degPerS - b.degPerS);
const set = (k: number, change: Partial<Points[number]>): string | void =>
  commit(rising(shown.value.map((p, i) => (i === k ? { ...p, ...change } : p))));
function add(): void {
  const [a, b] = shown.value.slice(-2);
  commit(rising([...shown.value, { degPerS: Math.round((a.degPerS + b.degPerS) / 2), nm: (a.nm + b.nm) / 2 }]));
}
const path = computed(() => {
  const topX = Math.max(1, ...shown.value.map((p) => p.degPerS));
  const topY = Math.max(0.001, ...shown.value.map((p) => p.nm));
  return shown.value
    .map((p, i) => `${i ? 'L' : 'M'}${10 + (p.degPerS / topX) * 180} ${80 - (p.nm / topY) * 68}`)
    .join('');
});
</script>

<template>
  <div class="two">
    <div>
      <div v-for="(p, k) in shown" :key="k" class="row pair">
        <NumberField
          prefix="at"
          :value="p.degPerS"
          dimension="angularSpeed"
          :decimals="0"
          :label="`Speed of torque point ${k + 1}`"
          :min="0"
          :commit="(v: number) => set(k, { degPerS: v })"
        />
        <NumberField
          :value="p.nm"
          dimension="torque"
          :decimals="2"
          :label="`Torque of torque point ${k + 1}`"
          :min="0"
          :commit="(v: number) => set(k, { nm: v })"
        />
        <Button
          size="small"
          variant="text"
          severity="secondary"
          label="×"
          :aria-label="`Delete torque point ${k + 1}`"
          :disabled="shown.length < 3"
          @click="commit(shown.filter((_, i) => i !== k))"
        />
      </div>
      <Button size="small" variant="text" label="Another point" @click="add" />
    </div>
    <svg viewBox="0 0 200 96" class="drawing" role="img" aria-label="Torque over speed">
      <path class="grid axis" d="M10 8V80H194" />
      <path class="curve" :d="path" />
      <text x="194" y="93" text-anchor="end" class="grid-label">°/s</text>
      <text x="14" y="14" class="grid-label">N·m</text>
    </svg>
  </div>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: 1.5fr 1fr;
  gap: 0.6rem;
  align-items: start;
  margin: 0.4rem 0;
}
.pair {
  gap: 0.3rem;
  margin-bottom: 0.2rem;
}
svg {
  width: 100%;
  height: auto;
}
.curve {
  fill: none;
  stroke: var(--cork);
  stroke-width: 2.5;
}
</style>
