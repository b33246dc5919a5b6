<script setup lang="ts">
import { computed } from 'vue';
import JointMark from '../shared/JointMark.vue';
import { markClass } from '@cork-elbow/core/drawing';
import JointSlider from './JointSlider.vue';
import JointValue from './JointValue.vue';
import LoadShare from './LoadShare.vue';
import MeasuredValue from './MeasuredValue.vue';
import { isBounded, type StripJoint } from './strip-joint';

const { joint, locked, selected } = defineProps<{ joint: StripJoint; locked: boolean; selected: boolean }>();
const emit = defineEmits<{ move: [value: number]; select: [] }>();
const bounded = computed(() => isBounded(joint));
const share = computed(() =>
  bounded.value ? Math.min(1, Math.max(0, (joint.value - joint.low) / (joint.high - joint.low))) : 0.5,
);

// Gauge: an arc of 240°, open at the bottom.
const point = (f: number, r: number): string => {
  const a = ((150 + 240 * f) * Math.PI) / 180;
  return `${(26 + r * Math.cos(a)).toFixed(2)} ${(26 + r * Math.sin(a)).toFixed(2)}`;
};
const arc = (from: number, to: number): string =>
  `M${point(from, 21)}A21 21 0 ${240 * (to - from) > 180 ? 1 : 0} 1 ${point(to, 21)}`;
</script>

<template>
  <section
    class="cell"
    :class="[markClass(joint.info.slot), { selected }]"
    :data-joint="joint.info.id"
    @pointerdown="emit('select')"
  >
    <header>
      <JointMark :index="joint.info.slot" :size="25" />
      <span class="name">{{ joint.info.name }}</span>
      <MeasuredValue v-if="joint.measured !== null" :joint />
      <LoadShare v-else-if="joint.load !== null" :joint />
    </header>
    <div class="body">
      <svg viewBox="0 0 52 48" width="56" height="50" aria-hidden="true">
        <path :d="arc(0, 1)" class="track" />
        <path v-if="bounded && share > 0.004" :d="arc(0, share)" class="fill" />
        <path v-if="bounded" :d="`M${point(share, 6)}L${point(share, 17)}`" class="hand" />
      </svg>
      <div class="grow">
        <JointValue class="big" :joint :locked @move="emit('move', $event)" />
        <div class="wire num">{{ joint.command ?? 'no motor' }}</div>
      </div>
    </div>
    <JointSlider :joint :locked @move="emit('move', $event)" />
  </section>
</template>

<style scoped>
.cell {
  background: var(--paper);
  border-radius: 5px;
  padding: 0.45rem 0.6rem 0.35rem;
  min-width: 8.4rem;
  flex: 1 1 0;
  border: 2px solid transparent;
  box-shadow: var(--shadow);
  display: flex;
  flex-direction: column;
  justify-content: space-between;
  container-type: inline-size;
  /* Of thirty joints a dozen are seen: the others are not laid out. */
  content-visibility: auto;
  contain-intrinsic-size: auto 8.4rem auto 6.5rem;
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
</style>
