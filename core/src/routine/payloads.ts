/** Where payloads are during a plan: where they will be taken from, in the tool, or where they were set down. */
import { forward } from '../kinematics';
import type { Mechanism } from '../mechanism';
import { poseAt, type Motion } from '../motion';
import type { Plan } from './plan';

/** Payload id → the tool's world frame (12 numbers) that it stands in at time t of a motion; followers of `q` while held. */
export function payloadFrames(
  mechanism: Mechanism,
  { carries }: Pick<Plan, 'carries'>,
  motion: Motion,
  t: number,
  q: Float64Array,
): Map<string, Float64Array> {
  const frames = new Map<string, Float64Array>();
  const held = new Map<string, string>();
  const toolAt = (tool: string, time: number): Float64Array | undefined =>
    forward(mechanism, poseAt(motion, time)).tools.get(tool);
  for (const { timeS, tool, payload } of carries) {
    const happened = timeS <= t + 1e-9;
    if (payload !== null) {
      if (happened) held.set(tool, payload);
      if (happened || !frames.has(payload)) {
        const frame = toolAt(tool, timeS);
        if (frame && (!happened || !frames.has(payload))) frames.set(payload, frame);
      }
    } else if (happened && held.has(tool)) {
      const frame = toolAt(tool, timeS);
      if (frame) frames.set(held.get(tool)!, frame);
      held.delete(tool);
    }
  }
  const { tools } = forward(mechanism, q);
  for (const [tool, payload] of held) {
    const frame = tools.get(tool);
    if (frame) frames.set(payload, frame);
  }
  return frames;
}
