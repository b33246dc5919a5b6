/**
 * Closed-form inverse kinematics of six turning joints whose last three axes meet in one point (Pieper 1968): the first
 * three, a turn and two parallel joints, bring that point to its place; the wrist then makes the rotation. Up to eight
 * branches: facing or reaching over, elbow up or down, wrist plain or flipped.
 *
 * The wrist's two first angles come from Paden and Kahan's second subproblem, the last from their first (Murray, Li &
 * Sastry, *A Mathematical Introduction to Robotic Manipulation*, sec. 3.3.2), so its axes need not be perpendicular.
 */
import { axisAngle, mul, positionOf, rotate, vec3, type Vec3 } from '../../linear';
import type { CompiledTool, Mechanism } from '../../mechanism';
import type { Task } from '../task';
import {
  elbowBranches,
  heightOf,
  isPlainTurning,
  planarArm,
  turnBranches,
  zeroPose,
  type Miss,
  type PlanarArm,
} from './turn-and-planar';

/** How far apart (m) the wrist's axes may pass each other and still count as meeting. */
const MEETING = 1e-9;
/** Sine below which two wrist axes are one and the wrist is none. */
const PARALLEL = 1e-6;
/** Rounding allowed before a direction counts as out of the wrist's reach. */
const SLACK = 1e-9;

export interface SphericalArm {
  readonly arm: PlanarArm;
  /** Slots, world axes at the zero pose, of the wrist's joints. */
  readonly slots: readonly [number, number, number];
  readonly axes: readonly [Vec3, Vec3, Vec3];
  /** The wrist's point in the tool's frame. */
  readonly centre: Vec3;
  readonly tool0: Float64Array;
}

/** A branch before limits: six raw angles (rad), in the order of the joints. */
export interface WristBranch {
  readonly angles: readonly number[];
  readonly posture: string;
  readonly singular: boolean;
}

/** The arm in this form, or null where the tool's path is something else. */
export function recogniseSpherical(mechanism: Mechanism, tool: CompiledTool): SphericalArm | null {
  if (mechanism.delta || tool.slots.length !== 6 || !isPlainTurning(mechanism, tool)) return null;
  const { axes, origins, tool0 } = zeroPose(mechanism, tool);
  const [a4, a5, a6] = axes.slice(3);
  const across = vec3.cross(a4, a5);
  const square = vec3.dot(across, across);
  if (square < PARALLEL ** 2 || vec3.norm(vec3.cross(a5, a6)) < PARALLEL) return null;
  // Where line 4 comes nearest to line 5, and whether all three pass through there.
  const between = vec3.sub(origins[4], origins[3]);
  const along = vec3.dot(vec3.cross(between, a5), across) / square;
  const point = vec3.add(origins[3], vec3.scale(a4, along));
  const off = (k: number): number => vec3.norm(vec3.cross(vec3.sub(point, origins[k]), axes[k]));
  if (off(4) > MEETING || off(5) > MEETING) return null;
  const slots = Array.from(tool.slot);
  const arm = planarArm(slots.slice(0, 3), axes.slice(0, 3), origins.slice(0, 3), point, tool0);
  if (!arm) return null;
  const inTool = vec3.sub(point, positionOf(tool0));
  const centre: Vec3 = [0, 1, 2].map(
    (c) => tool0[c] * inTool[0] + tool0[3 + c] * inTool[1] + tool0[6 + c] * inTool[2],
  ) as never;
  return { arm, slots: [slots[3], slots[4], slots[5]], axes: [a4, a5, a6], centre, tool0 };
}

/** Every branch of a full pose; a miss where the wrist's point is out of the first three joints' reach. */
export function sphericalBranches(
  { arm, slots, axes, centre, tool0 }: SphericalArm,
  task: Extract<Task, { kind: 'full' }>,
  near: Float64Array,
): WristBranch[] | Miss {
  const point = vec3.add(task.position, rotate(task.rotation, centre));
  const turns = turnBranches(arm, point, near[arm.slots[0]]);
  if (!Array.isArray(turns)) return turns;
  const whole = rotationFrom(tool0, task.rotation);
  const [a0, n] = [arm.a0, arm.n];
  const list: WristBranch[] = [];
  let miss: Miss | null = null;
  for (const { q0, y, over, singular } of turns) {
    const elbows = elbowBranches(arm, q0, [heightOf(arm, point), y], null, near, over, singular);
    if (!Array.isArray(elbows)) {
      if (!miss || elbows.kind === 'far') miss = elbows;
      continue;
    }
    for (const branch of elbows) {
      const [, q1, q2] = branch.angles;
      // Shoulder and elbow turn about the same direction: together one turn.
      const bend = arm.signs[0] * q1 + arm.signs[1] * q2;
      const rest = mul(axisAngle(n, -bend), mul(axisAngle(a0, -q0), whole));
      const name = `${branch.elbowUp ? 'elbow up' : 'elbow down'}${over ? ', reaching over' : ''}`;
      for (const wrist of wristAngles(axes, rest, near[slots[0]]))
        list.push({
          angles: [q0, q1, q2, ...wrist.angles],
          posture: `${name}${wrist.flipped ? ', wrist flipped' : ''}`,
          singular: branch.singular || wrist.singular,
        });
    }
  }
  return list.length || !miss ? list : miss;
}

/** The rotation (as a transform without shift) that carries `from` onto `to`: to·fromᵀ. */
function rotationFrom(from: Float64Array, to: Float64Array): Float64Array {
  const out = new Float64Array(12);
  for (let i = 0; i < 3; i++)
    for (let j = 0; j < 3; j++)
      out[3 * i + j] = to[3 * i] * from[3 * j] + to[3 * i + 1] * from[3 * j + 1] + to[3 * i + 2] * from[3 * j + 2];
  return out;
}

/** Angles of three axes through one point whose turns make `rest`: two sets, one where they fall together. */
function wristAngles(
  [a4, a5, a6]: SphericalArm['axes'],
  rest: Float64Array,
  near: number,
): { angles: [number, number, number]; flipped: boolean; singular: boolean }[] {
  const v = rotate(rest, a6);
  const d = vec3.dot(a4, a5);
  const [up, vp] = [vec3.dot(a5, a6), vec3.dot(a4, v)];
  const alpha = (d * up - vp) / (d * d - 1);
  const beta = (d * vp - up) / (d * d - 1);
  const cross = vec3.cross(a4, a5);
  const square = (1 - alpha * alpha - beta * beta - 2 * alpha * beta * d) / vec3.dot(cross, cross);
  if (square < -SLACK) return [];
  const gamma = Math.sqrt(Math.max(0, square));
  const flat = vec3.add(vec3.scale(a4, alpha), vec3.scale(a5, beta));
  const signs = gamma < 1e-9 ? [0] : [1, -1];
  return signs.map((sign) => {
    const c = vec3.add(flat, vec3.scale(cross, sign * gamma));
    const q5 = angleAbout(a5, a6, c);
    // With the last axis along the first one, only the sum of their angles counts: the first stays where it was.
    const singular = vec3.norm(vec3.cross(a4, v)) < 1e-9;
    const q4 = singular ? near : angleAbout(a4, c, v);
    const spun = mul(axisAngle(a5, -q5), mul(axisAngle(a4, -q4), rest));
    const side = vec3.perpendicular(a6);
    return { angles: [q4, q5, angleAbout(a6, side, rotate(spun, side))], flipped: sign < 0, singular };
  });
}

/** Angle (rad) of the turn about a unit axis that carries u onto v, both seen along the axis. */
function angleAbout(axis: Vec3, u: Vec3, v: Vec3): number {
  const cu = vec3.cross(axis, u);
  return Math.atan2(vec3.dot(cu, v), vec3.dot(u, v) - vec3.dot(axis, u) * vec3.dot(axis, v));
}
