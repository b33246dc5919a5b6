<script setup lang="ts">
/** Steps of the target by buttons or keys: 0.1, 1 or 10 mm, and tilts of 0.5, 1 or 5°. */
import { useEventListener } from '@vueuse/core';
import { ref } from 'vue';
import { vec3, type Vec3 } from '@cork-elbow/core/linear';
import { toRad } from '@cork-elbow/core/units';
import { useReach } from './useReach';

const reach = useReach();
const sizes = [
  { mm: 0.1, deg: 0.5 },
  { mm: 1, deg: 1 },
  { mm: 10, deg: 5 },
];
const size = ref(1);

function nudge(axis: 0 | 1 | 2, sign: 1 | -1): void {
  const by = sign * sizes[size.value].mm;
  void reach.stepBy([0, 1, 2].map((k) => (k === axis ? by : 0)));
}
const angle = (sign: 1 | -1): number => sign * toRad(sizes[size.value].deg);
/** Turns the tool in its own upright plane: up is positive. */
function tilt(sign: 1 | -1): void {
  const d = reach.direction.value;
  if (!d) return;
  const out: Vec3 = vec3.unit([d[0], d[1], 0]) ??
    vec3.unit([reach.worldTarget.value[0], reach.worldTarget.value[1], 0]) ?? [1, 0, 0];
  void reach.turnBy(vec3.cross(out, [0, 0, 1]), angle(sign));
}
/** Turns the tool about its own length, counter-clockwise as it points; only where its whole rotation is given. */
function roll(sign: 1 | -1): void {
  if (reach.aim.value === 'full' && reach.direction.value) void reach.turnBy(reach.direction.value, angle(sign));
}

const keys: Record<string, () => void> = {
  ArrowUp: () => nudge(0, 1),
  ArrowDown: () => nudge(0, -1),
  ArrowLeft: () => nudge(1, 1),
  ArrowRight: () => nudge(1, -1),
  PageUp: () => nudge(2, 1),
  PageDown: () => nudge(2, -1),
  '[': () => tilt(-1),
  ']': () => tilt(1),
  ',': () => roll(1),
  '.': () => roll(-1),
};
// Only where a key would mean nothing else: on the page itself or on the pad.
useEventListener(window, 'keydown', (event: KeyboardEvent) => {
  const element = event.target as HTMLElement;
  const isOwn = element === document.body || element.closest('.pad') !== null;
  if (!isOwn || event.ctrlKey || event.metaKey || event.altKey || !keys[event.key]) return;
  event.preventDefault();
  keys[event.key]();
});
</script>

<template>
  <div class="pad" role="group" aria-label="Step the target">
    <span class="muted">Step</span>
    <span v-rove.across="'button'" class="choice small" role="group" aria-label="Size of a step">
      <button v-for="(s, k) in sizes" :key="k" :aria-pressed="size === k" class="num" @click="size = k">
        {{ s.mm }} mm · {{ s.deg }}°
      </button>
    </span>
    <span class="keys">
      <button title="Forward (↑)" aria-label="Step forward" @click="nudge(0, 1)">fwd</button>
      <button title="Back (↓)" aria-label="Step back" @click="nudge(0, -1)">back</button>
      <button title="Left (←)" aria-label="Step left" @click="nudge(1, 1)">left</button>
      <button title="Right (→)" aria-label="Step right" @click="nudge(1, -1)">right</button>
      <button title="Up (Page up)" aria-label="Step up" @click="nudge(2, 1)">up</button>
      <button title="Down (Page down)" aria-label="Step down" @click="nudge(2, -1)">down</button>
      <button title="Tilt the tool up (])" aria-label="Tilt up" :disabled="!reach.direction.value" @click="tilt(1)">
        tilt ↑
      </button>
      <button
        title="Tilt the tool down ([)"
        aria-label="Tilt down"
        :disabled="!reach.direction.value"
        @click="tilt(-1)"
      >
        tilt ↓
      </button>
      <template v-if="reach.aim.value === 'full'">
        <button title="Roll the tool counter-clockwise (,)" aria-label="Roll counter-clockwise" @click="roll(1)">
          roll ↺
        </button>
        <button title="Roll the tool clockwise (.)" aria-label="Roll clockwise" @click="roll(-1)">roll ↻</button>
      </template>
    </span>
  </div>
</template>

<style scoped>
.pad {
  display: grid;
  grid-template-columns: 2.9rem 1fr;
  gap: 0.3rem 0.45rem;
  align-items: center;
  margin-bottom: 0.5rem;
}
.choice {
  display: flex;
}
.choice button {
  flex: 1;
  padding-inline: 0.2rem;
  white-space: nowrap;
}
.keys {
  grid-column: 2;
  display: grid;
  grid-template-columns: repeat(8, minmax(0, 1fr));
  gap: 0.25rem;
}
.keys button {
  border: 1px solid var(--lines);
  border-radius: 4px;
  background: var(--paper);
  padding: 0.22rem 0;
  font-size: 0.8rem;
  cursor: pointer;
  white-space: nowrap;
}
.keys button:hover:not(:disabled) {
  background: var(--pine-wash);
}
.keys button:disabled {
  color: var(--ink-3);
  cursor: default;
}
</style>
