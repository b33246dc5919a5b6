/** Why a target is not reached, and by how much; every figure comes from a solved pose. */
import { say, type Code, type Data } from '../contract/messages';
import { positionOf, STRIDE, vec3 } from '../linear';
import { worstRule, type CompiledTool, type Mechanism } from '../mechanism';
import { DEG_PER_RAD, MM_PER_M } from '../units/convert';
import type { ClosedResult } from './closed-form';
import { closestPose } from './closest';
import { framesInto, kinematicsSpace, toolInto } from './forward';
import { solveNumeric } from './numeric';
import { askError, isHitAt, LIMIT_SLACK, nearestTurn, type Reason, type Solution } from './solution';
import { HIT_M, HIT_RAD, isHit, type Ask, type Placed } from './task';

export const reason = (code: Code, data: Data = {}, extra: Omit<Reason, 'code' | 'message'> = {}): Reason => ({
  code,
  message: say(code, data),
  ...extra,
});

export function explain(
  mechanism: Mechanism,
  ask: Ask,
  near: Float64Array,
  branches: ClosedResult,
  held?: ReadonlySet<number>,
): { reasons: Reason[]; closest: Solution } {
  const { tool } = ask;
  const task = ask.task as Placed;
  const closest = closestPose(mechanism, [ask], near, 'position', held);
  const reasons: Reason[] = [];
  const raw = branches ? branches.list.filter((b) => isHitAt(mechanism, tool, task, b.q)).map((b) => b.q) : [];
  const miss = branches?.miss ?? null;
  if (!raw.length && !miss) {
    const { q, ...error } = solveNumeric(mechanism, tool, task, closest.q, { limits: false, held });
    if (isHit(error)) raw.push(q);
  }
  if (raw.length) {
    reasons.push(...limitReasons(mechanism, tool, raw, near));
  } else if (miss?.kind === 'out-of-plane') {
    reasons.push(turnReason('direction-out-of-plane', miss.angle));
  }
  if (task.kind === 'free') {
    if (!raw.length) reasons.push(distanceReason(mechanism, tool, task, closest));
  } else {
    const isPlaced = closest.distance <= HIT_M;
    // Too few joints to turn the tool as well: how far the place is with the tool turned as asked says nothing.
    const few = isPlaced && !raw.length && tool.slots.length < (task.kind === 'full' ? 6 : 4);
    const isOutOfPlane = miss?.kind === 'out-of-plane';
    if (!raw.length && !isOutOfPlane && !few) {
      const turned = closestPose(mechanism, [ask], near, 'rotation', held);
      if (turned.distance > HIT_M) reasons.push(distanceReason(mechanism, tool, task, turned));
    }
    if (isPlaced && !isOutOfPlane)
      reasons.push(turnReason(task.kind === 'direction' ? 'direction-off' : 'rotation-off', closest.angle));
    else if (reasons.length === 0) reasons.push(distanceReason(mechanism, tool, task, closest));
    if (few) reasons.push(reason('few-joints', { joints: tool.slots.length }));
  }
  return { reasons, closest };
}

export const turnReason = (code: Code, angle: number): Reason => {
  const byDeg = angle * DEG_PER_RAD;
  return reason(code, { byDeg }, { byDeg });
};

/** Too far or too near, judged from the first joint on the path whose motion changes the distance. */
function distanceReason(mechanism: Mechanism, tool: CompiledTool, task: Placed, pose: Solution): Reason {
  const space = kinematicsSpace(mechanism);
  framesInto(space, mechanism, pose.q);
  const frame = new Float64Array(STRIDE);
  toolInto(frame, 0, mechanism, space, tool);
  const pivot = positionOf(space.frames, STRIDE * tool.joint[Math.min(1, tool.joint.length - 1)]);
  const byMm = pose.distance * MM_PER_M;
  const outward = vec3.distance(task.position, pivot) >= vec3.distance(positionOf(frame), pivot);
  return reason(outward ? 'too-far' : 'too-near', { byMm }, { byMm });
}

/** Of the poses that would do without limits, the one least past them: each joint that is, and by how much. */
export function limitReasons(
  mechanism: Mechanism,
  tool: CompiledTool,
  raw: readonly Float64Array[],
  near: Float64Array,
): Reason[] {
  const options = raw.map((q) =>
    Array.from(tool.slots)
      .map((s) => {
        const placed =
          mechanism.units[mechanism.jointOfSlot[s]] === '°'
            ? nearestTurn(q[s], near[s], mechanism.lower[s], mechanism.upper[s])
            : q[s];
        return { s, by: Math.max(mechanism.lower[s] - placed, placed - mechanism.upper[s], 0) };
      })
      .filter(({ by }) => by > LIMIT_SLACK)
      .sort((a, b) => b.by - a.by),
  );
  const best = options.filter((o) => o.length).sort((a, b) => a.length - b.length || a[0].by - b[0].by)[0] ?? [];
  return best.map(({ s, by }) => {
    const j = mechanism.jointOfSlot[s];
    const data = { joint: mechanism.names[j] };
    if (mechanism.units[j] === 'mm')
      return reason(
        'slide-in-the-way',
        { ...data, byMm: by * MM_PER_M },
        { joint: mechanism.ids[j], byMm: by * MM_PER_M },
      );
    return reason(
      'limit-in-the-way',
      { ...data, byDeg: by * DEG_PER_RAD },
      { joint: mechanism.ids[j], byDeg: by * DEG_PER_RAD },
    );
  });
}

/** Of poses that do but for a rule, the one that breaks it least. */
export function ruleReason(mechanism: Mechanism, found: readonly Solution[]): Reason {
  const { joint, by } = found.map(({ q }) => worstRule(mechanism, q)).reduce((a, b) => (b.by < a.by ? b : a));
  const unit = mechanism.units[joint];
  const shown = unit === 'mm' ? by * MM_PER_M : by * DEG_PER_RAD;
  return reason(
    'rule-in-the-way',
    { joint: mechanism.names[joint], by: shown, unit },
    { joint: mechanism.ids[joint], ...(unit === 'mm' ? { byMm: shown } : { byDeg: shown }) },
  );
}

/** For several tools at once, or a spot to point at: each tool that the closest pose leaves off its task, and by how much. */
export function missReasons(mechanism: Mechanism, asks: readonly Ask[], closest: Solution): Reason[] {
  return asks.flatMap((ask) => {
    const { distance, angle } = askError(mechanism, ask, closest.q);
    const tool = ask.tool.name;
    const [byMm, byDeg] = [distance * MM_PER_M, angle * DEG_PER_RAD];
    if (distance > HIT_M) return [reason('tool-misses', { tool, byMm }, { byMm })];
    return angle > HIT_RAD ? [reason('tool-turned', { tool, byDeg }, { byDeg })] : [];
  });
}
