/** The way of a tool's tip along a motion, for drawing. */
import type { Mechanism } from '../mechanism';
import { sampleBuffers, type Motion } from '../motion';
import { STRIDE } from '../linear';
import { framesInto, kinematicsSpace, toolInto } from './forward';

/** Positions (x, y, z of each, world, m) of the first mounted tool at `looks` + 1 even times. Null without a tool. */
export function tipPath(mechanism: Mechanism, motion: Motion, looks: number): Float64Array | null {
  const tool = mechanism.tools.find((t) => t.mounted) ?? mechanism.tools[0];
  if (!tool) return null;
  const path = new Float64Array(3 * (looks + 1));
  const space = kinematicsSpace(mechanism);
  const frame = new Float64Array(STRIDE);
  const [q, v, a] = sampleBuffers(mechanism.m);
  for (let k = 0; k <= looks; k++) {
    motion.sampleInto(q, v, a, (motion.durationS * k) / looks);
    framesInto(space, mechanism, q);
    toolInto(frame, 0, mechanism, space, tool);
    path.set(frame.subarray(9, 12), 3 * k);
  }
  return path;
}

/** Most places of a path as it is drawn, and seconds between two of them. */
const MOST_PLACES = 600;
const EVERY_S = 0.04;

/** The same at as many places as a drawing of it needs. */
export const tipTrace = (mechanism: Mechanism, motion: Motion): Float64Array | null =>
  tipPath(mechanism, motion, Math.min(MOST_PLACES, Math.max(2, Math.ceil(motion.durationS / EVERY_S))));
