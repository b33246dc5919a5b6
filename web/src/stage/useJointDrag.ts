/** Posing by dragging a link: the joint that moves it follows the pointer, one solve a frame. */
import { useRafFn } from '@vueuse/core';
import { computed, shallowRef } from 'vue';
import { dragTo, type Grip, type Projection, type Pt } from '@cork-elbow/core/drawing';
import { forward } from '@cork-elbow/core/kinematics';
import { apply, inverse, type Vec3 } from '@cork-elbow/core/linear';
import type { Mechanism } from '@cork-elbow/core/mechanism';
import { useRigStore } from '../stores/rig';
import { useRunStore } from '../stores/run';
import { useViewStore } from '../stores/view';
import { useMoveJoint } from '../workspace/useMoveJoint';

/** A hold of joint `id` at a point of the world; null where nothing of its own moves it. */
export function gripAt(mechanism: Mechanism, q: Float64Array, id: string, point: Vec3): Grip | null {
  const on = mechanism.index.get(id);
  if (on === undefined) return null;
  let slot = -1;
  for (let j = on; j >= 0 && slot < 0; j = mechanism.parent[j]) slot = mechanism.slotOfJoint[j];
  if (slot < 0) return null;
  return { slot, on, local: apply(inverse(forward(mechanism, q).joints.get(id)!), point) };
}

export function useJointDrag() {
  const rigs = useRigStore();
  const view = useViewStore();
  const run = useRunStore();
  const moveJoint = useMoveJoint();
  const held = shallowRef<{ grip: Grip; project: Projection } | null>(null);
  let wanted: Pt | null = null;
  function follow(): void {
    const { mechanism } = rigs;
    if (!held.value || !wanted || !mechanism) return;
    const to = wanted;
    wanted = null;
    const { grip, project } = held.value;
    moveJoint(grip.slot, dragTo(mechanism, view.q, grip, project, to));
  }
  const frame = useRafFn(follow, { immediate: false });
  return {
    active: computed(() => held.value !== null),
    /** Takes hold, unless the board is on show and not led by hand. */
    start(grip: Grip, project: Projection): boolean {
      if ((view.poseSource === 'live' && !run.byHand) || !rigs.mechanism) return false;
      held.value = { grip, project };
      view.selected = rigs.mechanism.slotIds[grip.slot];
      frame.resume();
      return true;
    },
    move(to: Pt): void {
      wanted = to;
    },
    stop(): void {
      // The last place of the pointer counts, even when no frame came since.
      follow();
      held.value = null;
      wanted = null;
      frame.pause();
    },
  };
}
