/** Inverse kinematics of a tool on a rotary delta: one place of the platform, one angle per motor, knees outward. */
import { apply, inverse, mul, positionOf, vec3 } from '../../linear';
import type { CompiledDelta, CompiledTool, Mechanism } from '../../mechanism';
import { MM_PER_M } from '../../units/convert';
import { closestPose } from '../closest';
import { deltaArm } from '../../mechanism/delta';
import { insideLimits, judge, nearestTurn, type InverseResult, type Reason } from '../solution';
import { HIT_RAD, isHit, taskError, type Placed } from '../task';
import { limitReasons, reason, turnReason } from '../why-not';

export function solveDelta(
  mechanism: Mechanism,
  delta: CompiledDelta,
  tool: CompiledTool,
  task: Placed,
  near: Float64Array,
  explained = true,
): InverseResult {
  // The platform never turns, so the tool's direction is the same everywhere.
  const upright = mul(mechanism.base, tool.local);
  const { angle } = taskError({ ...task, position: positionOf(upright) }, upright);
  const offset = vec3.sub(positionOf(upright), positionOf(mechanism.base));
  const centre = apply(inverse(mechanism.base), vec3.sub(task.position, offset));
  const arms = [0, 1, 2].map((i) => deltaArm(delta, i, centre));
  const reasons: Reason[] = [];
  const q = near.slice();
  arms.forEach((arm, s) => {
    if (arm.ok) {
      q[s] = nearestTurn(arm.angle, near[s], mechanism.lower[s], mechanism.upper[s]);
      return;
    }
    const joint = mechanism.ids[mechanism.jointOfSlot[s]];
    const data = { joint: mechanism.names[mechanism.jointOfSlot[s]], byMm: Math.abs(arm.by) * MM_PER_M };
    reasons.push(reason(arm.by > 0 ? 'rod-too-short' : 'rod-too-long', data, { joint, byMm: data.byMm }));
  });
  if (!reasons.length && angle <= HIT_RAD) {
    const inside = insideLimits(mechanism, q, near);
    const solution = inside && judge(mechanism, [{ tool, task }], inside, near, 'knees out', false);
    if (solution && isHit(solution)) return { reachable: true, solutions: [solution], reasons: [] };
  }
  if (!explained) return { reachable: false, solutions: [], reasons: [] };
  if (!reasons.length) reasons.push(...limitReasons(mechanism, tool, [q], near));
  if (angle > HIT_RAD)
    reasons.unshift(turnReason(task.kind === 'direction' ? 'direction-off' : 'rotation-off', angle));
  // Both knees may lie the other way at the edge of the forearms' reach: the place is then simply not in reach.
  if (!reasons.length) reasons.push(reason('too-far', { byMm: 0 }, { byMm: 0 }));
  return {
    reachable: false,
    solutions: [],
    reasons,
    closest: closestPose(mechanism, [{ tool, task }], near, 'position'),
  };
}
