/** What a joint's unit is worth at the tip. */
import { probeOf } from '@cork-elbow/core/kinematics';
import type { Mechanism } from '@cork-elbow/core/mechanism';

/** mm that the tip of the first mounted tool moved by a joint goes per ° or mm of it, at a pose; null without one. */
export function tipPerUnit(mechanism: Mechanism, slot: number, q: Float64Array): number | null {
  const tool = mechanism.tools.find((t) => t.mounted && t.slots.includes(slot));
  if (!tool) return null;
  const probe = probeOf(mechanism, tool);
  probe.frameAt(q);
  const J = probe.jacobian();
  return Math.hypot(J[6 * slot], J[6 * slot + 1], J[6 * slot + 2]) * mechanism.siPerUnit[slot] * 1000;
}
