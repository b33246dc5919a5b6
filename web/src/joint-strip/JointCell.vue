<script setup lang="ts">
import { computed } from 'vue';
import { formatNumber } from '@cork-elbow/core/units';
import JointMark from '../shared/JointMark.vue';
import NumberField from '../shared/NumberField.vue';
import type { SlotInfo } from '../shared/joints';
import { markClass } from '@cork-elbow/core/drawing';

const { info, value, low, high, command, measured, locked, selected } = defineProps<{
  info: SlotInfo;
  /** In the joint's unit. */
  value: number;
  low: number;
  high: number;
  /** What its motor is sent, with the unit; null for no motor. */
  command: string | null;
  measured: number | null;
  locked: boolean;
  selected: boolean;
}>();
const emit = defineEmits<{ move: [value: number]; select: [] }>();
const bounded = computed(() => Number.isFinite(high - low));
const share = computed(() => (bounded.value ? Math.min(1, Math.max(0, (value - low) / (high - low))) : 0.5));

// Gauge: an arc of 240°, open at the bottom.
const point = (f: number, r: number): string => {
  const a = ((150 + 240 * f) * Math.PI) / 180;
  return `${(26 + r * Math.cos(a)).toFixed(2)} ${(26 + r * Math.sin(a)).toFixed(2)}`;
};
const arc = (from: number, to: number): string =>
  `M${point(from, 21)}A21 21 0 ${240 * (to - from) > 180 ? 1 : 0} 1 ${point(to, 21)}`;
function drag(event: Event): void {
  emit('move', Number((event.target as HTMLInputElement).value));
}
</script>

<template>
  <section
    class="cell"
    :class="[markClass(info.slot), { selected }]"
    :data-joint="info.id"
    @pointerdown="emit('select')"
  >
    <header>
      <JointMark :index="info.slot" :size="25" />
      <span class="name">{{ info.name }}</span>
      <span v-if="measured !== null" class="measured num" title="Read back from the board"
        >{{ formatNumber(measured, 1) }}{{ info.unit === '°' ? '°' : ' mm' }}</span
      >
    </header>
    <div class="body">
      <svg viewBox="0 0 52 48" width="56" height="50" aria-hidden="true">
        <path :d="arc(0, 1)" class="track" />
        <path v-if="bounded && share > 0.004" :d="arc(0, share)" class="fill" />
        <path v-if="bounded" :d="`M${point(share, 6)}L${point(share, 17)}`" class="hand" />
      </svg>
      <div class="grow">
        <NumberField
          class="big"
          :value="value"
          :dimension="info.unit === 'mm' ? 'length' : 'angle'"
          :decimals="1"
          :label="`${info.name} position`"
          :min="low"
          :max="high"
          :disabled="locked"
          :step="1"
          :commit="(v: number) => emit('move', v)"
        />
        <div class="wire num">{{ command ?? 'no motor' }}</div>
      </div>
    </div>
    <footer class="num">
      <span>{{ bounded ? formatNumber(low, 0) : '–∞' }}</span>
      <input
        v-if="bounded"
        type="range"
        :aria-label="`${info.name} slider`"
        :min="low"
        :max="high"
        step="0.1"
        :value
        :disabled="locked"
        :aria-valuetext="`${formatNumber(value, 1)} ${info.unit}`"
        @input="drag"
      />
      <span>{{ bounded ? formatNumber(high, 0) : '∞' }}</span>
    </footer>
  </section>
</template>

<style scoped>
.cell {
  background: var(--paper);
  border-radius: 5px;
  padding: 0.45rem 0.6rem 0.35rem;
  min-width: 9.2rem;
  flex: 1 1 0;
  border: 2px solid transparent;
  box-shadow: var(--shadow);
  display: flex;
  flex-direction: column;
  justify-content: space-between;
  container-type: inline-size;
}
.cell.selected {
  border-color: var(--pine);
}
header {
  display: flex;
  align-items: center;
  gap: 0.45rem;
}
.name {
  font-weight: 600;
  flex: 1;
  min-width: 0;
  overflow: hidden;
  line-height: 1.08;
  display: -webkit-box;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: 2;
  line-clamp: 2;
}
.measured {
  font-size: 0.78rem;
  color: var(--ink-2);
  border-bottom: 2px dotted var(--jc);
}
.body {
  display: flex;
  align-items: center;
  gap: 0.4rem;
}
.track,
.fill {
  fill: none;
  stroke-width: 5.5;
  stroke-linecap: round;
}
.track {
  stroke: var(--lines);
}
.fill {
  stroke: var(--jc);
}
.hand {
  stroke: var(--ink);
  stroke-width: 2;
  stroke-linecap: round;
}
.big :deep(.box) {
  border-color: transparent;
  background: transparent;
  padding: 0 0.15rem;
}
.big :deep(.box:hover),
.big :deep(.box:focus-within) {
  border-color: var(--lines);
}
.big :deep(input) {
  font-size: 1.2rem;
}
.wire {
  white-space: nowrap;
  font-size: 0.82rem;
  color: var(--ink-2);
  padding: 0 0.2rem;
  text-align: right;
}
/* Many joints: smaller figures before any is cut off. */
@container (max-width: 178px) {
  .body svg {
    width: 42px;
    height: 38px;
    flex: none;
  }
  .big :deep(input) {
    font-size: 1.02rem;
  }
  .big :deep(.box) {
    padding: 0;
  }
  .wire {
    font-size: 0.74rem;
    padding: 0;
  }
}
footer {
  display: flex;
  align-items: center;
  gap: 0.4rem;
  font-size: 0.76rem;
  color: var(--ink-2);
}
input[type='range'] {
  flex: 1;
  min-width: 0;
  height: 14px;
  margin: 0;
  accent-color: var(--jc);
  background: none;
  cursor: pointer;
  appearance: none;
}
input[type='range']::-webkit-slider-runnable-track {
  height: 4px;
  border-radius: 2px;
  background: var(--lines);
}
input[type='range']::-webkit-slider-thumb {
  appearance: none;
  width: 8px;
  height: 14px;
  margin-top: -5px;
  border-radius: 2px;
  background: var(--jc);
}
input[type='range']::-moz-range-track {
  height: 4px;
  border-radius: 2px;
  background: var(--lines);
}
input[type='range']::-moz-range-thumb {
  width: 8px;
  height: 14px;
  border: 0;
  border-radius: 2px;
  background: var(--jc);
}
input:disabled {
  opacity: 0.5;
  cursor: default;
}
</style>
