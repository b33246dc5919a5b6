<script setup lang="ts">
/** The arm at the pose on show: 3D, side elevation or plan. */
import { formatFixed } from '@cork-elbow/core/units';
import { useElementSize, useRafFn } from '@vueuse/core';
import { computed, defineAsyncComponent, ref, shallowRef, useTemplateRef, watch } from 'vue';
import Select from 'primevue/select';
import {
  drawRig,
  isOnPage,
  limbJoints,
  pickLink,
  sceneryOf,
  toPage,
  toWorld,
  type Drawing,
  type DrawingInput,
  type Scenery,
  type ShownLayers,
} from '@cork-elbow/core/drawing';
import { forward, framesInto, kinematicsSpace, toolInto } from '@cork-elbow/core/kinematics';
import type { Vec3 } from '@cork-elbow/core/linear';
import { toSlots } from '@cork-elbow/core/mechanism';
import DrawingSvg from '../shared/DrawingSvg.vue';
import { useRigStore } from '../stores/rig';
import { useViewStore, type StageView } from '../stores/view';
import { useLoadNow } from '../workspace/useLoadNow';
import { usePlan } from '../workspace/usePlan';
import { useJointDrag } from './useJointDrag';

const Stage3d = defineAsyncComponent(() => import('./Stage3d.vue'));
const rigs = useRigStore();
const view = useViewStore();
const { payloads } = usePlan();
const sheet = useTemplateRef('sheet');
const { width, height } = useElementSize(sheet);

const views: { id: StageView; name: string }[] = [
  { id: '3d', name: '3D' },
  { id: 'side', name: 'Side' },
  { id: 'front', name: 'Front' },
  { id: 'plan', name: 'Plan' },
];
const stage3d = useTemplateRef<{ fit(): void }>('stage3d');
/** Limbs to show alone, where there is more than one. */
const limbs = computed(() => {
  const tools = rigs.mechanism?.tools.filter((tool) => tool.mounted) ?? [];
  return tools.length > 1 && !rigs.mechanism?.delta
    ? [{ label: 'all limbs', value: ':all' }, ...tools.map((tool) => ({ label: tool.name, value: tool.id }))]
    : [];
});

/** Where payloads stand; what the Load station has the arm hold is in its hand. */
const { asked } = useLoadNow();
const inHand = computed(() => {
  const { mechanism } = rigs;
  const held = asked.value;
  const id = held && 'id' in held.payload ? (held.payload.id as string) : null;
  const frame =
    id && mechanism && view.poseSource !== 'preview' && forward(mechanism, view.q).tools.get(held!.toolId);
  return frame ? new Map(payloads.value).set(id, frame) : payloads.value;
});

// The path the tool point takes while the arm is posed by hand or played, on request.
const tracing = ref(false);
const trail = shallowRef<Float64Array | null>(null);
/** What is laid on the arm: by the station, by what the arm holds, by the person. */
const layers = computed<ShownLayers>(() => {
  const own = view.overlay.layers;
  return { payloads: inHand.value, ...own, trace: trail.value ?? own?.trace ?? null };
});
/** Poses that have been taken: where the arm works, and what the picture is made to hold. */
const poses = computed(() => {
  const { hardware: rig, mechanism } = rigs;
  return rig && mechanism ? rig.poses.map((pose) => toSlots(mechanism, pose.joints)) : [];
});
/** Where the target is to be reached stands in the picture too; while it is dragged the picture stands still. */
const also = shallowRef<readonly Vec3[]>([]);
const dragging = shallowRef(false);
watch([() => layers.value.target?.at, dragging], ([at, isDragged]) => {
  if (isDragged || (at && also.value[0]?.every((v, k) => v === at[k]))) return;
  if (at ?? also.value.length) also.value = at ? [[...at]] : [];
});
/** The arm has left the picture: from then on it holds all that can be reached. */
const isFar = ref(false);
watch([() => rigs.mechanism, () => view.stage, width, height], () => (isFar.value = false));
let scenery: Scenery | null = null;
const drawing = computed<Drawing | null>(() => {
  const { hardware: rig, mechanism } = rigs;
  if (!rig || !mechanism || view.stage === '3d' || width.value < 50 || height.value < 50) return null;
  const input: DrawingInput = {
    rig,
    mechanism,
    q: view.q,
    kind: view.stage,
    width: Math.round(width.value),
    height: Math.round(height.value),
    selected: view.selected,
    limb: view.limb,
    layers: layers.value,
    // A map or an outline of the reach asks for all of it.
    fit: isFar.value || layers.value.region || layers.value.map ? 'reach' : 'work',
    poses: poses.value,
    also: also.value,
    dimensions: view.overlay.dimensions ?? true,
  };
  scenery = sceneryOf(input, scenery);
  return drawRig(input, scenery);
});
watch(drawing, (made) => {
  if (made && rigs.mechanism && !isOnPage(made.view, rigs.mechanism, view.q)) isFar.value = true;
});

// Dragging the target: the latest pointer position is solved once a frame.
let pending: [number, number] | null = null;
function dragTarget(): void {
  if (!pending || !drawing.value || !sheet.value) return;
  const page = pending;
  pending = null;
  const v = drawing.value.view;
  // In the side view the target comes into the arm's plane; the others keep what they do not show.
  const world = toWorld(v, page);
  const target = layers.value.target?.at;
  view.overlay.onDrag?.(
    v.kind === 'plan' && target
      ? [world[0], world[1], target[2]]
      : v.kind === 'front' && target
        ? [target[0], world[1], world[2]]
        : world,
  );
}
const { pause, resume } = useRafFn(dragTarget, { immediate: false });
watch(dragging, (on) => (on ? resume() : pause()));
const joint = useJointDrag();
const at = (event: PointerEvent): [number, number] => {
  const box = sheet.value!.getBoundingClientRect();
  return [event.clientX - box.left, event.clientY - box.top];
};
function place(event: PointerEvent): void {
  pending = at(event);
}
function press(event: PointerEvent): void {
  if (view.stage === '3d' || event.button !== 0 || !drawing.value) return;
  const sheetElement = event.currentTarget as HTMLElement;
  if (view.overlay.onDrag) {
    sheetElement.setPointerCapture(event.pointerId);
    dragging.value = true;
    place(event);
    return;
  }
  // No target to drag: take hold of the link under the pointer.
  const { rig, mechanism } = rigs;
  if (!rig || !mechanism) return;
  const page = drawing.value.view;
  const limb = limbJoints(rig, mechanism, view.limb);
  const grip = pickLink(
    rig,
    mechanism,
    view.q,
    (p) => toPage(page, p),
    at(event),
    (id) => limb.has(id),
  );
  // The side view turns with the base: what is dragged is judged in the view as it was taken hold of.
  if (grip && joint.start(grip, (p) => toPage(page, p))) sheetElement.setPointerCapture(event.pointerId);
}
function move(event: PointerEvent): void {
  if (dragging.value) place(event);
  else if (joint.active.value) joint.move(at(event));
}
function release(): void {
  if (dragging.value) {
    dragTarget();
    view.overlay.onDrop?.();
  }
  dragging.value = false;
  joint.stop();
}
/** Place of the tip (world, m) at a pose. */
function tipAt(q: Float64Array): Float64Array | null {
  const { mechanism } = rigs;
  const tool = mechanism?.tools.find((t) => (view.limb ? t.id === view.limb : t.mounted));
  if (!mechanism || !tool) return null;
  const space = kinematicsSpace(mechanism);
  framesInto(space, mechanism, q);
  const frame = new Float64Array(12);
  toolInto(frame, 0, mechanism, space, tool);
  return frame.subarray(9, 12);
}
const tip = computed(() => {
  const at = tipAt(view.readQ);
  return at && [...at].map((v) => formatFixed(v * 1000, 1));
});
/** Points kept; the oldest go first. */
const TRAIL = 3000;
watch(tracing, () => (trail.value = null));
watch(
  () => rigs.mechanism,
  () => (trail.value = null),
);
watch([() => view.q, tracing], () => {
  const tipHere = tracing.value && tipAt(view.q);
  if (!tipHere) return;
  const [x, y, z] = tipHere;
  const before = trail.value ?? new Float64Array(0);
  const n = before.length;
  if (n && Math.hypot(x - before[n - 3], y - before[n - 2], z - before[n - 1]) < 5e-4) return;
  const next = new Float64Array(Math.min(n, 3 * (TRAIL - 1)) + 3);
  next.set(before.subarray(n - (next.length - 3)));
  next.set([x, y, z], next.length - 3);
  trail.value = next;
});
const sources = {
  edit: '',
  preview: 'playing the plan',
  replay: 'a recording; in outline: as commanded',
} as const;
const live = {
  all: 'live: what the board reads back',
  some: 'live: what is read back; the rest as it was sent',
  none: 'live: as it was sent; nothing reads it back',
} as const;
const source = computed(() => (view.poseSource === 'live' ? live[view.liveRead] : sources[view.poseSource]));
</script>

<template>
  <section class="stage" aria-label="Stage" :data-view="view.stage">
    <div class="tools">
      <span v-rove.across="'button'" class="choice small" role="group" aria-label="View">
        <button v-for="v in views" :key="v.id" :aria-pressed="view.stage === v.id" @click="view.stage = v.id">
          {{ v.name }}
        </button>
      </span>
      <button
        class="tool"
        :aria-pressed="tracing"
        title="Draw the path of the tip while the arm moves"
        @click="tracing = !tracing"
      >
        Trace
      </button>
      <button v-if="view.stage === '3d'" class="tool" title="Bring the whole arm into view" @click="stage3d?.fit()">
        Fit
      </button>
      <Select
        v-if="limbs.length"
        class="limb"
        :model-value="view.limb ?? ':all'"
        :options="limbs"
        option-label="label"
        option-value="value"
        size="small"
        aria-label="Limb on show"
        @update:model-value="view.limb = $event === ':all' ? null : $event"
      />
    </div>
    <div
      ref="sheet"
      class="sheet"
      :class="{ draggable: view.overlay.onDrag && view.stage !== '3d', holding: joint.active.value }"
      @pointerdown="press"
      @pointermove="move"
      @pointerup="release"
      @pointercancel="release"
    >
      <Stage3d v-if="view.stage === '3d'" ref="stage3d" :layers />
      <DrawingSvg v-else-if="drawing" :drawing />
    </div>
    <div class="under">
      <output v-if="tip" class="num" aria-label="Tip"
        >forward {{ tip[0] }}, left {{ tip[1] }}, up {{ tip[2] }} mm</output
      >
      <span v-if="source" class="chip source" :class="view.poseSource">{{ source }}</span>
    </div>
  </section>
</template>

<style scoped>
.stage {
  display: grid;
  grid-template-rows: auto minmax(0, 1fr) auto;
  background: var(--paper);
  border-radius: 5px;
  box-shadow: var(--shadow);
  overflow: hidden;
  min-height: 0;
  min-width: 0;
}
.sheet {
  position: relative;
  min-height: 0;
  min-width: 0;
  touch-action: none;
}
.sheet > :deep(*) {
  position: absolute;
  inset: 0;
}
.sheet.holding {
  cursor: grabbing;
}
.sheet.draggable {
  cursor: crosshair;
}
.tools {
  display: flex;
  align-items: center;
  gap: 0.4rem;
  padding: 0.35rem 0.5rem;
  border-bottom: 1px solid var(--lines);
  min-width: 0;
}
.tool {
  border: 1px solid var(--lines);
  border-radius: 5px;
  background: var(--paper);
  padding: 0.33rem 0.7rem;
  cursor: pointer;
  font-size: 0.85rem;
}
.tool[aria-pressed='true'] {
  background: var(--cork-wash);
  border-color: var(--cork);
}
.limb {
  max-width: 9.5rem;
  margin-left: auto;
}
.choice button[aria-pressed='true'] {
  background: var(--ink);
  color: var(--paper);
}
/* What the tip's figures are is told under the picture, as on a drawing. */
.under {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 0.5rem;
  min-height: 1.75rem;
  padding: 0.1rem 0.6rem;
  border-top: 1px solid var(--lines);
  font-size: 0.78rem;
  color: var(--ink-2);
}
.source {
  background: var(--pine-wash);
  font-size: 0.8rem;
  white-space: nowrap;
}
.source.live {
  background: var(--alarm);
  color: var(--on-alarm);
  font-weight: 600;
}
</style>
