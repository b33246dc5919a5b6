<script setup lang="ts">
/** The 3D view. One renderer and canvas for the app's life; draws only when something changed. */
import { useElementSize } from '@vueuse/core';
import { onBeforeUnmount, onMounted, useTemplateRef, watch } from 'vue';
import { useRigStore } from '../stores/rig';
import { useViewStore } from '../stores/view';
import { usePlan } from '../workspace/usePlan';
import { renderer3d } from './three/renderer';

const rigs = useRigStore();
const view = useViewStore();
const { payloads } = usePlan();
const host = useTemplateRef('host');
const { width, height } = useElementSize(host);
const r3 = renderer3d();

onMounted(() => r3.attach(host.value!));
onBeforeUnmount(() => r3.detach());
watch([width, height], ([w, h]) => r3.resize(w, h));
watch(
  () => view.theme,
  (theme) => r3.setTheme(theme),
  { immediate: true },
);
watch(
  () => [rigs.rig, rigs.mechanism] as const,
  ([rig, mechanism]) => rig && mechanism && r3.setRig(rig, mechanism),
  { immediate: true },
);
watch(
  () => [view.q, view.overlay, rigs.rig, payloads.value] as const,
  () => rigs.mechanism && r3.setPose(view.q, payloads.value, view.overlay.target ?? null, view.overlay.trace ?? null),
  { immediate: true },
);
</script>

<template>
  <div ref="host" class="host" role="img" aria-label="The arm in three dimensions" />
</template>

<style scoped>
.host {
  position: absolute;
  inset: 0;
  cursor: grab;
}
.host:active {
  cursor: grabbing;
}
</style>
