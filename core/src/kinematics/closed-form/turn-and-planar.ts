/**
 * Closed-form inverse kinematics of a base turn followed by two or three parallel joints whose axes are perpendicular
 * to the turn's: most hobby arms (Craig, *Introduction to Robotics*, sec. 4.4 and 4.5).
 *
 * Recognised from the compiled geometry, never from a preset's name. All in world axes at the zero pose: a0 the turn
 * axis through c, n the planar joints' common axis, e1 = n × a0 the direction the plane faces. In the plane, points
 * are (X along a0, Y along e1); a turn about n by θ carries X towards Y.
 *
 * The turn angle follows from the tool point's lateral distance L along n, which planar joints cannot change:
 * front and reach-over branches. Two links then meet the wrist point with the elbow on either side.
 */
import { axisOf, positionOf, STRIDE, vec3, type Vec3 } from '../../linear';
import { TURNING, type CompiledTool, type Mechanism } from '../../mechanism';
import { framesInto, kinematicsSpace, toolInto } from '../forward';
import type { Task } from '../task';

/** Sine of the largest angle by which axes may differ from parallel or perpendicular and still count as such. */
const AXIS_TOLERANCE = 1e-9;
/** Links shorter than this (m) have no direction. */
const LENGTH_TOLERANCE = 1e-9;
/** How far beyond ±1 a cosine may lie and be taken as the stretched or folded arm. */
const COSINE_SLACK = 1e-9;

type Point = readonly [number, number];

export interface PlanarArm {
  /** Turn, then the two or three planar slots. */
  readonly slots: readonly number[];
  readonly signs: readonly number[];
  readonly a0: Vec3;
  readonly c: Vec3;
  readonly e1: Vec3;
  readonly n: Vec3;
  readonly points: readonly Point[];
  readonly tip: Point;
  readonly lateral: number;
  /** Tool rotation at the zero pose. */
  readonly tool0: Float64Array;
}

/** One branch before limits: raw joint angles in rad, in the order of `arm.slots`. */
export interface Branch {
  readonly angles: readonly number[];
  readonly over: boolean;
  readonly elbowUp: boolean;
  /** Part of a one-parameter family; the member nearest to the current pose is given. */
  readonly singular: boolean;
}

/** Where the geometry ends: how far (m) the wrist is beyond or inside what two links span, or the lean of a direction. */
export type Miss = { kind: 'far' | 'near'; by: number } | { kind: 'out-of-plane'; angle: number };

/** The arm in this form, or null where the tool's path is something else. */
export function recognise(mechanism: Mechanism, tool: CompiledTool): PlanarArm | null {
  const count = tool.slots.length;
  if (mechanism.delta) return null;
  if ((count !== 3 && count !== 4) || !isPlainTurning(mechanism, tool)) return null;
  const { axes, origins, tool0 } = zeroPose(mechanism, tool);
  return planarArm(Array.from(tool.slot), axes, origins, positionOf(tool0), tool0);
}

/** Whether every joint on the way to a tool turns and has a value of its own. */
export const isPlainTurning = (mechanism: Mechanism, tool: CompiledTool): boolean =>
  tool.single &&
  tool.joint.length === tool.slots.length &&
  tool.joint.every((j) => mechanism.type[j] === TURNING && mechanism.slotOfJoint[j] >= 0);

/** World axes and pivots of the joints on the way to a tool, and the tool's frame, every joint at 0. */
export function zeroPose(
  mechanism: Mechanism,
  tool: CompiledTool,
): { axes: Vec3[]; origins: Vec3[]; tool0: Float64Array } {
  const space = kinematicsSpace(mechanism);
  framesInto(space, mechanism, new Float64Array(mechanism.m));
  const tool0 = new Float64Array(STRIDE);
  toolInto(tool0, 0, mechanism, space, tool);
  return {
    axes: Array.from(tool.joint, (j) => axisOf(space.frames, 2, STRIDE * j)),
    origins: Array.from(tool.joint, (j) => positionOf(space.frames, STRIDE * j)),
    tool0,
  };
}

/** A turn and the parallel joints after it, bringing the point `end` to places; null where the axes stand otherwise. */
export function planarArm(
  slots: readonly number[],
  axes: readonly Vec3[],
  origins: readonly Vec3[],
  end: Vec3,
  tool0: Float64Array,
): PlanarArm | null {
  const [a0, n] = axes;
  if (Math.abs(vec3.dot(a0, n)) > AXIS_TOLERANCE) return null;
  for (const axis of axes.slice(2)) if (vec3.norm(vec3.cross(n, axis)) > AXIS_TOLERANCE) return null;
  const e1 = vec3.cross(n, a0);
  const [c] = origins;
  const flat = (p: Vec3): Point => [vec3.dot(vec3.sub(p, c), a0), vec3.dot(vec3.sub(p, c), e1)];
  const points = origins.slice(1).map(flat);
  const tip = flat(end);
  const ends = [...points, tip];
  if (gap(ends[0], ends[1]) < LENGTH_TOLERANCE || gap(ends[1], ends[2]) < LENGTH_TOLERANCE) return null;
  return {
    slots,
    signs: axes.slice(1).map((axis) => Math.sign(vec3.dot(n, axis))),
    a0,
    c,
    e1,
    n,
    points,
    tip,
    lateral: vec3.dot(vec3.sub(end, c), n),
    tool0,
  };
}

const gap = (a: Point, b: Point): number => Math.hypot(a[0] - b[0], a[1] - b[1]);
const turned = (p: Point, angle: number): Point => {
  const c = Math.cos(angle);
  const s = Math.sin(angle);
  return [p[0] * c - p[1] * s, p[0] * s + p[1] * c];
};

/** The turn angles that bring the arm's plane through the target point; `near` is kept where the turn does not matter. */
export function turnBranches(
  arm: PlanarArm,
  position: Vec3,
  near: number,
): { q0: number; y: number; over: boolean; singular: boolean }[] | Miss {
  const d = vec3.sub(position, arm.c);
  const x = vec3.dot(d, arm.e1);
  const y = vec3.dot(d, arm.n);
  const r = Math.hypot(x, y);
  if (r < 1e-9 && Math.abs(arm.lateral) < 1e-9) return [{ q0: near, y: 0, over: false, singular: true }];
  const ratio = arm.lateral / r;
  if (Math.abs(ratio) > 1 + COSINE_SLACK) return { kind: 'near', by: Math.abs(arm.lateral) - r };
  const azimuth = Math.atan2(y, x);
  const lean = Math.asin(Math.min(1, Math.max(-1, ratio)));
  const reach = r * Math.cos(lean);
  // sin(azimuth − q0) = L/r: the plane faces the target, or has its back to it.
  return [
    { q0: azimuth - lean, y: reach, over: false, singular: false },
    { q0: azimuth - Math.PI + lean, y: -reach, over: true, singular: false },
  ];
}

/** Elbow branches of one turn branch, the tool turned by `theta` in the plane (three planar joints) or not (two). */
export function elbowBranches(
  arm: PlanarArm,
  q0: number,
  target: Point,
  theta: number | null,
  near: Float64Array,
  over: boolean,
  singular: boolean,
): Branch[] | Miss {
  const [shoulder, elbow, wrist] = arm.points;
  const end = wrist ?? arm.tip;
  const hand =
    wrist && theta !== null ? turned([arm.tip[0] - wrist[0], arm.tip[1] - wrist[1]], theta) : ([0, 0] as Point);
  const goal: Point = [target[0] - hand[0], target[1] - hand[1]];
  const l1 = gap(shoulder, elbow);
  const l2 = gap(elbow, end);
  const phi1 = Math.atan2(elbow[1] - shoulder[1], elbow[0] - shoulder[0]);
  const phi2 = Math.atan2(end[1] - elbow[1], end[0] - elbow[0]);
  const dx = goal[0] - shoulder[0];
  const dy = goal[1] - shoulder[1];
  const d = Math.hypot(dx, dy);
  const cosine = (d * d - l1 * l1 - l2 * l2) / (2 * l1 * l2);
  if (cosine > 1 + COSINE_SLACK) return { kind: 'far', by: d - l1 - l2 };
  if (cosine < -1 - COSINE_SLACK) return { kind: 'near', by: Math.abs(l1 - l2) - d };
  const bend = Math.acos(Math.min(1, Math.max(-1, cosine)));
  const folded = d < 1e-9;
  const bends = bend < 1e-9 || bend > Math.PI - 1e-9 ? [bend] : [bend, -bend];
  return bends.map((gamma) => {
    const first = folded
      ? phi1 + arm.signs[0] * near[arm.slots[1]]
      : Math.atan2(dy, dx) - Math.atan2(l2 * Math.sin(gamma), l1 + l2 * Math.cos(gamma));
    const alpha = first - phi1;
    const beta = gamma - (phi2 - phi1);
    const angles = [q0, arm.signs[0] * alpha, arm.signs[1] * beta];
    if (wrist) angles.push(arm.signs[2] * ((theta ?? 0) - alpha - beta));
    return { angles, over, elbowUp: isElbowUp(first, l1, dx, dy), singular: singular || folded };
  });
}

/** Whether the elbow stands above the line from shoulder to wrist (beside it where that line is upright). */
function isElbowUp(first: number, l1: number, dx: number, dy: number): boolean {
  const ex = l1 * Math.cos(first);
  const ey = l1 * Math.sin(first);
  const side = ex * dy - ey * dx;
  return Math.abs(dy) > 1e-9 ? side * Math.sign(dy) >= 0 : ey >= 0;
}

/**
 * The turn of the tool in the plane that gives the wanted direction or rotation once the base stands at q0, or by how
 * much (rad) the wish leans out of the plane. `null`: the tool's direction does not depend on the planar joints.
 */
export function planarTurn(arm: PlanarArm, task: Task, q0: number): number | Miss | null {
  if (task.kind === 'free') return null;
  const back = (v: Vec3): Vec3 => {
    // Rotate by −q0 about a0 (Rodrigues).
    const c = Math.cos(q0);
    const s = -Math.sin(q0);
    return vec3.add(
      vec3.add(vec3.scale(v, c), vec3.scale(vec3.cross(arm.a0, v), s)),
      vec3.scale(arm.a0, vec3.dot(arm.a0, v) * (1 - c)),
    );
  };
  const planar = (v: Vec3): { angle: number; length: number; across: number } => {
    const x = vec3.dot(v, arm.a0);
    const y = vec3.dot(v, arm.e1);
    return { angle: Math.atan2(y, x), length: Math.hypot(x, y), across: vec3.dot(v, arm.n) };
  };
  if (task.kind === 'direction') {
    const own = planar(axisOf(arm.tool0, 2));
    const wish = planar(back(task.direction));
    const lean = Math.abs(Math.asin(clampUnit(wish.across)) - Math.asin(clampUnit(own.across)));
    if (lean > 1e-7) return { kind: 'out-of-plane', angle: lean };
    return own.length < 1e-6 ? null : wish.angle - own.angle;
  }
  let turn: number | null = null;
  let worst = 0;
  for (const column of [0, 1, 2] as const) {
    const own = planar(axisOf(arm.tool0, column));
    const wish = planar(back(axisOf(task.rotation, column)));
    worst = Math.max(worst, Math.abs(Math.asin(clampUnit(wish.across)) - Math.asin(clampUnit(own.across))));
    if (turn === null && own.length > 0.5) turn = wish.angle - own.angle;
  }
  return worst > 1e-7 ? { kind: 'out-of-plane', angle: worst } : turn;
}

const clampUnit = (v: number): number => Math.min(1, Math.max(-1, v));

/** Height above c along a0 of a world point. */
export const heightOf = (arm: PlanarArm, position: Vec3): number => vec3.dot(vec3.sub(position, arm.c), arm.a0);
