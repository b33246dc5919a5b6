/** The frame and Jacobian of one tool at any pose, its buffers laid out once per compiled tool. */
import { STRIDE } from '../linear';
import type { CompiledTool, Mechanism } from '../mechanism';
import { chainInto, chainJacobianInto, chainOf, chainSpace, type Chain, type ChainSpace } from './chain';
import { framesInto, jacobianInto, kinematicsSpace, toolInto, type KinematicsSpace } from './forward';
import { outerReach } from './end';

export interface Probe {
  /** World frame of the tool at q; the array is written again by the next call. */
  frameAt(q: Float64Array): Float64Array;
  /** Geometric Jacobian (6 × m, see forward.ts) at the pose last asked for; the array is written again. */
  jacobian(): Float64Array;
  readonly chain: Chain;
  readonly space: ChainSpace;
  /** A quarter of the outer reach (m): what a radian of the tool weighs against its way. */
  readonly length: number;
}

const known = new WeakMap<CompiledTool, Probe>();

/** The probe of a tool, remembered per compiled tool. */
export function probeOf(mechanism: Mechanism, tool: CompiledTool): Probe {
  let probe = known.get(tool);
  if (!probe) known.set(tool, (probe = makeProbe(mechanism, tool)));
  return probe;
}

function makeProbe(mechanism: Mechanism, tool: CompiledTool): Probe {
  const chain = chainOf(mechanism, tool);
  const space = chainSpace(chain);
  const J = new Float64Array(6 * mechanism.m);
  const length = Math.max(outerReach(mechanism, tool) / 4, 1e-3);
  const { delta } = mechanism;
  if (!delta || tool.parent !== delta.platform)
    return {
      chain,
      space,
      length,
      frameAt(q) {
        chainInto(space, chain, q);
        return space.tool;
      },
      jacobian() {
        chainJacobianInto(J, space, chain);
        return J;
      },
    };
  const whole: KinematicsSpace = kinematicsSpace(mechanism);
  const frame = new Float64Array(STRIDE);
  return {
    chain,
    space,
    length,
    frameAt(q) {
      framesInto(whole, mechanism, q);
      toolInto(frame, 0, mechanism, whole, tool);
      return frame;
    },
    jacobian() {
      jacobianInto(J, mechanism, whole, tool, frame);
      return J;
    },
  };
}
