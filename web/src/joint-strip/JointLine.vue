<script setup lang="ts">
/** One joint in a line: its name, a slider as wide as there is room, its figure and what its motor is sent. */
import JointMark from '../shared/JointMark.vue';
import { markClass } from '@cork-elbow/core/drawing';
import JointSlider from './JointSlider.vue';
import JointValue from './JointValue.vue';
import LoadShare from './LoadShare.vue';
import MeasuredValue from './MeasuredValue.vue';
import type { StripJoint } from './strip-joint';

const { joint, locked } = defineProps<{ joint: StripJoint; locked: boolean }>();
const emit = defineEmits<{ move: [value: number] }>();
</script>

<template>
  <section class="joint-line" :class="markClass(joint.info.slot)" :data-joint="joint.info.id">
    <JointMark :index="joint.info.slot" :size="25" />
    <b class="name">{{ joint.info.name }}</b>
    <JointSlider class="slide" :joint :locked @move="emit('move', $event)" />
    <JointValue class="value" :joint :locked @move="emit('move', $event)" />
    <MeasuredValue v-if="joint.measured !== null" :joint />
    <LoadShare v-else-if="joint.load !== null" :joint />
    <span class="wire num">{{ joint.command ?? 'no motor' }}</span>
  </section>
</template>

<style scoped>
.joint-line {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0.1rem 0.6rem;
  min-height: 2.75rem;
  min-width: 0;
  padding: 0 0.6rem;
  background: var(--paper);
  border-radius: 5px;
  box-shadow: var(--shadow);
}
.name {
  flex: 0 1 auto;
  line-height: 1.05;
}
.slide {
  flex: 1 1 7rem;
}
.value {
  width: 5.6rem;
}
.wire {
  font-size: 0.82rem;
  color: var(--ink-2);
  white-space: nowrap;
}
</style>
