/** What the targets of steps mean, seen from where the arm stands. */
import type { RoutineSaying } from './findings';
import { forward } from '../kinematics';
import { axisAngle, axisOf, mul, positionOf, rotate, vec3, type Vec3 } from '../linear';
import { fromSlots, toSlots, type CompiledTool, type Mechanism } from '../mechanism';
import { isJaw, type Keep, type Pose, type Rig, type Target } from '../rig';
import { M_PER_MM } from '../units/convert';
import { leastOf, poseKeeping } from './orientation';

/** A fault of a step: the arm stays where it is. */
export type Problem = RoutineSaying & { readonly joint?: string; readonly pose?: string };

/** Where a move goes: as joints where the target says so, and as the tool's frame. */
export interface Goal {
  readonly q: Float64Array | null;
  readonly frame: () => Float64Array;
  /** The least of the frame's orientation that must be met. */
  readonly least: Keep;
}

export const isProblem = <T extends object>(value: T | Problem): value is Problem =>
  'code' in value && 'data' in value;

const mm = ([x, y, z]: readonly number[]): Vec3 => [x * M_PER_MM, y * M_PER_MM, z * M_PER_MM];
const moved = (frame: Float64Array, position: Vec3): Float64Array => {
  const out = frame.slice();
  out.set(position, 9);
  return out;
};
/** The frame with its +Z turned the shortest way into the unit vector `direction`. */
function pointed(frame: Float64Array, direction: Vec3): Float64Array {
  const z = axisOf(frame, 2);
  const about = vec3.unit(vec3.cross(z, direction)) ?? vec3.perpendicular(z);
  const turned = mul(axisAngle(about, vec3.angleBetween(z, direction)), moved(frame, [0, 0, 0]));
  return moved(turned, positionOf(frame));
}

/** `tool` may be missing where the target is one of joints. */
export function goalOf(
  rig: Rig,
  mechanism: Mechanism,
  tool: CompiledTool | undefined,
  target: Target,
  at: Float64Array,
  step: number,
  /** What the step says is kept of the tool's orientation. */
  keep?: Keep,
): Goal | Problem {
  const frameOf = (q: Float64Array): Float64Array => forward(mechanism, q).tools.get(tool!.id)!;
  const least = (): Keep => keep ?? (tool ? leastOf(mechanism, tool) : 'turn');
  const joints = (q: Float64Array): Goal => ({ q, frame: () => frameOf(q), least: least() });
  if ('joints' in target) return joints(toSlots(mechanism, target.joints, at));
  if ('pose' in target) {
    const pose = rig.poses.find((p) => p.id === target.pose);
    if (!pose) return { code: 'pose-unknown', data: { step }, pose: target.pose };
    return joints(poseSlots(rig, mechanism, pose, at));
  }
  if ('shift' in target && 'joints' in target.shift) {
    const by = target.shift.joints;
    const now = fromSlots(mechanism, at);
    return joints(
      toSlots(mechanism, Object.fromEntries(Object.entries(by).map(([id, v]) => [id, (now[id] ?? 0) + v])), at),
    );
  }
  if (!tool) return { code: 'path-no-tool', data: { step } };
  if ('shift' in target) {
    const { xyzMm, along } = target.shift as { xyzMm: readonly number[]; along: 'world' | 'tool' };
    const frame = frameOf(at);
    const by = along === 'tool' ? rotate(frame, mm(xyzMm)) : mm(xyzMm);
    const to = moved(frame, vec3.add(positionOf(frame), by));
    return { q: null, frame: () => to, least: least() };
  }
  const spot = rig.spots.find((s) => s.id === target.spot);
  if (!spot) return { code: 'spot-unknown', data: { step } };
  const wish = target.direction === undefined ? spot.direction : target.direction;
  const direction = wish && vec3.unit(wish);
  return placeGoal(mechanism, tool, at, spot.xyzMm, direction ?? null);
}

/** The goal moved back along the tool's own axis by `distance` (m). */
export function before({ frame, least }: Goal, distance: number): Goal {
  const there = frame();
  const to = moved(there, vec3.sub(positionOf(there), vec3.scale(axisOf(there, 2), distance)));
  return { q: null, frame: () => to, least };
}

/** A place with the tool pointing along `direction` there; null: as much as it points now as can be. */
export function placeGoal(
  mechanism: Mechanism,
  tool: CompiledTool,
  at: Float64Array,
  xyzMm: readonly number[],
  direction: Vec3 | null,
): Goal {
  const frame = moved(forward(mechanism, at).tools.get(tool.id)!, mm(xyzMm));
  const to = direction ? pointed(frame, direction) : frame;
  // Three joints place a tool and cannot point it as well.
  return { q: null, frame: () => to, least: direction && tool.slots.length > 3 ? 'direction' : 'nothing' };
}

/** The joints that meet a goal, nearest to `at`. */
export function solveGoal(
  mechanism: Mechanism,
  tool: CompiledTool | undefined,
  goal: Goal,
  at: Float64Array,
  step: number,
): { q: Float64Array } | Problem {
  if (goal.q) return { q: goal.q };
  const found = poseKeeping(mechanism, tool!, goal.frame(), at, goal.least);
  if (!found) {
    const [x, y, z] = positionOf(goal.frame());
    return { code: 'target-unreachable', data: { step, x: x / M_PER_MM, y: y / M_PER_MM, z: z / M_PER_MM } };
  }
  return { q: found.q };
}

/** A pose as slots; joints it does not name, and jaws, keep their value of `at`: grip steps work those. */
export function poseSlots(rig: Rig, mechanism: Mechanism, pose: Pose, at: Float64Array): Float64Array {
  const q = toSlots(mechanism, pose.joints, at);
  for (const joint of rig.mechanism.joints) {
    const slot = mechanism.slotOf.get(joint.id);
    if (slot !== undefined && isJaw(joint)) q[slot] = at[slot];
  }
  return q;
}
