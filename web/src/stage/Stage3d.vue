<script setup lang="ts">
/** The 3D view. One renderer and canvas for the app's life; draws only when something changed. */
import { useElementSize, useRafFn } from '@vueuse/core';
import { onBeforeUnmount, onMounted, ref, useTemplateRef, watch } from 'vue';
import type { ShownLayers } from '@cork-elbow/core/drawing';
import { useRigStore } from '../stores/rig';
import { useViewStore } from '../stores/view';
import { renderer3d } from './three/renderer';
import { gripAt, useJointDrag } from './useJointDrag';

const { layers } = defineProps<{
  /** What is laid on the arm. */
  layers: ShownLayers;
}>();
const rigs = useRigStore();
const view = useViewStore();
const host = useTemplateRef('host');
const { width, height } = useElementSize(host);
const r3 = renderer3d();
defineExpose({ fit: () => r3.fit() });

onMounted(() => {
  r3.attach(host.value!);
  view.picture = r3.picture;
});
onBeforeUnmount(() => {
  r3.detach();
  view.picture = null;
});
watch([width, height], ([w, h]) => r3.resize(w, h));
watch(
  () => view.theme,
  (theme) => r3.setTheme(theme),
  { immediate: true },
);
watch(
  () => [rigs.id, rigs.rig, rigs.mechanism] as const,
  ([id, rig, mechanism]) => id && rig && mechanism && r3.setRig(id, rig, mechanism),
  { immediate: true },
);
/** Where the target is on the canvas (px) as it was last drawn, and whether the view has come to rest. */
const handle = ref('');
const isStill = ref(false);
r3.whenStill((still) => {
  isStill.value = still;
  const { target } = layers;
  if (still) handle.value = target ? r3.project(target.at).map(Math.round).join(' ') : '';
});
watch(
  () => [view.q, layers, view.limb, view.selected, view.theme, rigs.rig, rigs.mechanism] as const,
  () => rigs.mechanism && r3.setPose(view.q, { layers, limb: view.limb, selected: view.selected }),
  { immediate: true },
);

const drag = useJointDrag();
const local = (event: PointerEvent): [number, number] => {
  const box = host.value!.getBoundingClientRect();
  return [event.clientX - box.left, event.clientY - box.top];
};
/** How near (px) to the target a press takes hold of it. */
const NEAR_TARGET = 18;
// The target is dragged in the plane square to the line of sight; the latest place is solved once a frame.
const dragging = ref(false);
let pending: [number, number] | null = null;
function dragTarget(): void {
  const { onDrag } = view.overlay;
  if (!pending || !layers.target || !onDrag) return;
  const at = pending;
  pending = null;
  onDrag(r3.onSightPlane(...at, layers.target.at));
}
const frames = useRafFn(dragTarget, { immediate: false });
watch(dragging, (on) => (on ? frames.resume() : frames.pause()));

/** On the target a press takes hold of it, on the arm of the joint under it; elsewhere it turns the view. */
function press(event: PointerEvent): void {
  const { mechanism } = rigs;
  if (event.button !== 0 || !mechanism) return;
  if (layers.target && view.overlay.onDrag) {
    const [x, y] = local(event);
    const [tx, ty] = r3.project(layers.target.at);
    if (Math.hypot(x - tx, y - ty) <= NEAR_TARGET) {
      r3.setOrbit(false);
      event.stopPropagation();
      host.value!.setPointerCapture(event.pointerId);
      dragging.value = true;
      return;
    }
  }
  const hit = r3.pick(...local(event));
  const grip = hit && gripAt(mechanism, view.q, hit.joint, hit.point);
  if (!grip || !drag.start(grip, (p) => r3.project(p))) return;
  r3.setOrbit(false);
  event.stopPropagation();
  host.value!.setPointerCapture(event.pointerId);
}
function move(event: PointerEvent): void {
  if (dragging.value) pending = local(event);
  else if (drag.active.value) drag.move(local(event));
}
function release(): void {
  if (dragging.value) {
    dragTarget();
    dragging.value = false;
    view.overlay.onDrop?.();
  }
  drag.stop();
  r3.setOrbit(true);
}
</script>

<template>
  <div
    ref="host"
    class="host"
    role="img"
    aria-label="The arm in three dimensions"
    :data-holding="drag.active.value || dragging"
    :data-target="handle"
    :data-still="isStill"
    @pointerdown.capture="press"
    @pointermove="move"
    @pointerup="release"
    @pointercancel="release"
  />
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
