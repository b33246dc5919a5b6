<script setup lang="ts">
/** What stands around: work spots, keep-outs, named frames. */
import FramesPart from './FramesPart.vue';
import KeepOutsPart from './KeepOutsPart.vue';
import SpotsPart from './SpotsPart.vue';

const emit = defineEmits<{ problem: [sentence: string] }>();
const problem = (sentence: string): void => emit('problem', sentence);
</script>

<template>
  <div>
    <SpotsPart @problem="problem" />
    <KeepOutsPart @problem="problem" />
    <FramesPart @problem="problem" />
  </div>
</template>
