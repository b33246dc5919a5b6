/** A step of a tool straight to where it is in another pose: planned as the routine's own straight move is. */
import type { Mechanism } from '@cork-elbow/core/mechanism';
import type { Motion } from '@cork-elbow/core/motion';
import { planMotion, planRoutine } from '@cork-elbow/core/routine';
import type { Build, Rig, Routine } from '@cork-elbow/core/rig';

/** From `start` (slots, SI) to the pose `joints` (° or mm by id), at a share of the speed; or why that cannot be, one sentence. */
export function toolStep(
  rig: Rig,
  mechanism: Mechanism,
  build: Build,
  start: Float64Array,
  joints: Readonly<Record<string, number>>,
  share: number,
  tool?: string,
): { readonly motion: Motion } | { readonly reason: string } {
  const routine: Routine = {
    ...{ id: 'by-hand', name: 'By hand', role: null, note: '', profile: 's-curve' },
    steps: [
      {
        ...{ kind: 'straight-move', id: 'step', enabled: true, note: '', pace: { speedShare: share } },
        ...{ target: { joints: { ...joints } }, ...(tool === undefined ? {} : { tool }) },
      },
    ],
  };
  // Its limits are the mechanism's as they are given: how far a joint goes may just be being found.
  const plan = planRoutine(rig, mechanism, { ...build, confirmed: {} }, routine, { start });
  const stop = plan.findings.find(({ severity }) => severity === 'stop');
  return stop ? { reason: stop.message } : { motion: planMotion(plan) };
}
