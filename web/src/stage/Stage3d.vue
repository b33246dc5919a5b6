<script setup lang="ts">
/** The 3D view. One renderer and canvas for the app's life; draws only when something changed. */
import { useElementSize, useRafFn } from '@vueuse/core';
import { onBeforeUnmount, onMounted, ref, shallowRef, useTemplateRef, watch } from 'vue';
import { limbJoints, setApart, type ShownLayers } from '@cork-elbow/core/drawing';
import { framesInto, kinematicsSpace } from '@cork-elbow/core/kinematics';
import { positionOf, STRIDE } from '@cork-elbow/core/linear';
import { isJaw } from '@cork-elbow/core/rig';
import JointMark from '../shared/JointMark.vue';
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
/** Marks of the joints over the picture, each at its pivot or aside at the end of a line: places on the canvas (px). */
const marks = shallowRef<
  readonly { slot: number; at: readonly [number, number]; pivot: readonly [number, number] }[]
>([]);
const SIZE = 10;
function placeMarks(): void {
  const { mechanism, hardware: rig } = rigs;
  if (!mechanism || !rig || view.q.length !== mechanism.m) return void (marks.value = []);
  const space = kinematicsSpace(mechanism);
  framesInto(space, mechanism, view.q);
  const limb = limbJoints(rig, mechanism, view.limb);
  const jaws = new Set<string>(rig.mechanism.joints.filter(isJaw).map(({ id }) => id));
  const slots = mechanism.slotIds.map((id, slot) => ({ id, slot })).filter(({ id }) => limb.has(id) && !jaws.has(id));
  const pivots = slots.map(({ id }) => r3.project(positionOf(space.frames, STRIDE * mechanism.index.get(id)!)));
  const places = setApart(pivots, { size: SIZE, width: width.value, height: height.value });
  marks.value = slots.map(({ slot }, k) => ({ slot, at: places[k], pivot: pivots[k] }));
}
/** Pictures that are there, for whoever measures. */
let pictures = 0;
r3.whenDrawn((isDone) => {
  if (!isDone) placeMarks();
  else if (host.value) host.value.dataset.pictures = `${++pictures}`;
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
  >
    <svg class="marks" :width :height aria-hidden="true">
      <line
        v-for="m in marks"
        :key="m.slot"
        :x1="m.pivot[0]"
        :y1="m.pivot[1]"
        :x2="m.at[0]"
        :y2="m.at[1]"
        class="leader"
      />
      <JointMark
        v-for="m in marks"
        :key="m.slot"
        :index="m.slot"
        :size="SIZE * 2.2"
        :x="m.at[0] - SIZE * 1.1"
        :y="m.at[1] - SIZE * 1.1"
      />
    </svg>
  </div>
</template>

<style scoped>
.host {
  position: absolute;
  inset: 0;
  cursor: grab;
}
.marks {
  position: absolute;
  inset: 0;
  pointer-events: none;
}
.marks :deep(svg) {
  width: 22px;
  height: 22px;
}
.leader {
  stroke: var(--ink);
  stroke-width: 1;
}
.host:active {
  cursor: grabbing;
}
</style>
