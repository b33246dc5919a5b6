/**
 * Closed-form inverse kinematics of arms whose bars lie in one plane: the plane turned about an axis in it (a base turn
 * and two or three parallel joints: most hobby arms), or slid along its normal (level-swinging arms with a vertical
 * slide). Craig, *Introduction to Robotics*, sec. 4.4 and 4.5. A last joint that only rolls the tool about its own
 * direction may follow.
 *
 * Recognised from the compiled geometry, never from a preset's name. All in world axes at the zero pose: n the bars' common
 * axis, a0 and e1 = n × a0 the plane's X and Y; for a turned plane a0 is the turn's axis through c and e1 the
 * direction that the plane faces.
 */
import { axisAngle, axisOf, mul, positionOf, STRIDE, vec3, type Vec3 } from '../../linear';
import { SLIDING, TURNING, type CompiledTool, type Mechanism } from '../../mechanism';
import { framesInto, kinematicsSpace, toolInto } from '../forward';
import type { Placed } from '../task';
import { bendsTo, linkageOf, valuesOf, type Bend, type Linkage, type Point, type SpanMiss } from './linkage';

/** Sine of the largest angle by which axes may differ from parallel or perpendicular and still count as such. */
const AXIS_TOLERANCE = 1e-9;
/** How far (m) a rolling joint's axis may pass the tool's point. */
const ON_AXIS = 1e-9;
/** Cosine below which a plane stands across the base's forward and faces neither way. */
const FACING = 1e-6;
/** How far beyond ±1 a cosine may lie and be taken as ±1. */
const COSINE_SLACK = 1e-9;

export interface PlanarArm {
  /** What brings the plane to the target: its slot turns it, or slides it along n by `slide` (±1). */
  readonly lead:
    | { readonly kind: 'turn'; readonly slot: number }
    | { readonly kind: 'slide'; readonly slot: number; readonly slide: number };
  /** The lead's slot, the linkage's, and the roll's where there is one. */
  readonly slots: readonly number[];
  readonly linkage: Linkage;
  /** Signs of the planar joints along n, where every one of them is a slot of its own; else null. */
  readonly signs: readonly number[] | null;
  readonly a0: Vec3;
  readonly c: Vec3;
  readonly e1: Vec3;
  readonly n: Vec3;
  /** How far (m) the tip stands off the plane through c, along n. */
  readonly lateral: number;
  /** Tool rotation at the zero pose. */
  readonly tool0: Float64Array;
  /** The last joint where it rolls the tool about its own Z, and the sense of it. */
  readonly roll: { readonly slot: number; readonly sign: number } | null;
}

/** Where the geometry ends: out of what the bars span, or the lean (rad) of a direction out of the plane. */
export type Miss = SpanMiss | { readonly kind: 'out-of-plane'; readonly angle: number };

/** One branch before limits: raw values in the order of `arm.slots`. */
export interface Branch {
  readonly values: readonly number[];
  readonly posture: string;
  /** Part of a one-parameter family; the member nearest to the current pose is given. */
  readonly singular: boolean;
}

/** A plane brought through the target: the lead's value and the target in the plane. */
export interface Led {
  readonly lead: number;
  readonly at: Point;
  readonly over: boolean;
  readonly singular: boolean;
}

/** World axes and pivots of the moving joints on the way to a tool, and the tool's frame, every slot at 0. */
export interface ZeroPose {
  readonly joints: readonly number[];
  readonly axes: readonly Vec3[];
  readonly origins: readonly Vec3[];
  readonly tool0: Float64Array;
}

export function zeroPose(mechanism: Mechanism, tool: CompiledTool): ZeroPose {
  const space = kinematicsSpace(mechanism);
  framesInto(space, mechanism, new Float64Array(mechanism.m));
  const tool0 = new Float64Array(STRIDE);
  toolInto(tool0, 0, mechanism, space, tool);
  const joints = [...new Set(tool.joint)];
  return {
    joints,
    axes: joints.map((j) => axisOf(space.frames, 2, STRIDE * j)),
    origins: joints.map((j) => positionOf(space.frames, STRIDE * j)),
    tool0,
  };
}

const areParallel = (a: Vec3, b: Vec3): boolean => vec3.norm(vec3.cross(a, b)) <= AXIS_TOLERANCE;

/** The independent slot of a joint that nothing else on the way to the tool follows; −1 for any other. */
export function ownSlot(mechanism: Mechanism, tool: CompiledTool, j: number): number {
  const slot = mechanism.slotOfJoint[j];
  return slot >= 0 && tool.slot.every((s, i) => s !== slot || tool.joint[i] === j) ? slot : -1;
}

/** The arm in this form, or null where the joints of the zero pose are something else. */
export function recognisePlanar(mechanism: Mechanism, tool: CompiledTool, pose: ZeroPose): PlanarArm | null {
  const { joints, axes, origins, tool0 } = pose;
  const sliding = joints.flatMap((j, k) => (mechanism.type[j] === SLIDING ? [k] : []));
  if (sliding.length > 1) return null;
  let roll: PlanarArm['roll'] = null;
  const planar = joints.map((_, k) => k).filter((k) => k !== sliding[0]);
  if (planar.length < 3) return null;
  const tip = positionOf(tool0);
  const toolZ = axisOf(tool0, 2);
  // A last joint about the tool's own direction, through its point, where it is not one of the planar joints.
  const end = planar.at(-1)!;
  if (
    end === joints.length - 1 &&
    areParallel(axes[end], toolZ) &&
    !areParallel(axes[end], axes[planar.at(-2)!]) &&
    vec3.norm(vec3.cross(vec3.sub(tip, origins[end]), toolZ)) <= ON_AXIS
  ) {
    const slot = ownSlot(mechanism, tool, joints[end]);
    if (slot < 0) return null;
    roll = { slot, sign: Math.sign(vec3.dot(axes[end], toolZ)) };
    planar.pop();
  }
  let lead: PlanarArm['lead'];
  let n: Vec3;
  let a0: Vec3;
  if (sliding.length) {
    n = axes[planar[0]];
    if (!areParallel(axes[sliding[0]], n)) return null;
    const slot = ownSlot(mechanism, tool, joints[sliding[0]]);
    lead = { kind: 'slide', slot, slide: Math.sign(vec3.dot(axes[sliding[0]], n)) };
    a0 = vec3.perpendicular(n);
  } else {
    const first = planar.shift()!;
    a0 = axes[first];
    // Either sense of the bars' axis would do; the one that makes the plane face as the base does.
    n = axes[planar[0]];
    if (vec3.dot(vec3.cross(n, a0), axisOf(mechanism.base, 0)) < -FACING) n = vec3.scale(n, -1);
    if (Math.abs(vec3.dot(a0, n)) > AXIS_TOLERANCE) return null;
    lead = { kind: 'turn', slot: ownSlot(mechanism, tool, joints[first]) };
  }
  if (lead.slot < 0 || planar.some((k) => !areParallel(axes[k], n))) return null;
  const c = origins[lead.kind === 'turn' ? 0 : planar[0]];
  const e1 = vec3.cross(n, a0);
  const flat = (p: Vec3): Point => [vec3.dot(vec3.sub(p, c), a0), vec3.dot(vec3.sub(p, c), e1)];
  const signs = planar.map((k) => Math.sign(vec3.dot(axes[k], n)));
  const planarJoints = planar.map((k) => joints[k]);
  const linkage = linkageOf(
    tool,
    planarJoints,
    signs,
    planar.map((k) => flat(origins[k])),
    flat(tip),
  );
  if (!linkage || linkage.slots.includes(lead.slot) || (roll && linkage.slots.includes(roll.slot))) return null;
  const plain = planarJoints.every((j, k) => mechanism.slotOfJoint[j] === linkage.slots[k]);
  return {
    lead,
    slots: [lead.slot, ...linkage.slots, ...(roll ? [roll.slot] : [])],
    linkage,
    signs: plain ? signs : null,
    a0,
    c,
    e1,
    n,
    lateral: vec3.dot(vec3.sub(tip, c), n),
    tool0,
    roll,
  };
}

/** The values of the lead that bring the plane through a point; `near` is kept where the turn does not matter. */
export function leadsTo(arm: PlanarArm, position: Vec3, near: number): Led[] | Miss {
  const d = vec3.sub(position, arm.c);
  const height = vec3.dot(d, arm.a0);
  const x = vec3.dot(d, arm.e1);
  const y = vec3.dot(d, arm.n);
  if (arm.lead.kind === 'slide')
    return [{ lead: arm.lead.slide * (y - arm.lateral), at: [height, x], over: false, singular: false }];
  const r = Math.hypot(x, y);
  if (r < 1e-9 && Math.abs(arm.lateral) < 1e-9) return [{ lead: near, at: [height, 0], over: false, singular: true }];
  const ratio = arm.lateral / r;
  if (Math.abs(ratio) > 1 + COSINE_SLACK) return { kind: 'near', by: Math.abs(arm.lateral) - r };
  const azimuth = Math.atan2(y, x);
  const lean = Math.asin(Math.min(1, Math.max(-1, ratio)));
  const reach = r * Math.cos(lean);
  // sin(azimuth − lead) = L/r: the plane faces the target, or has its back to it.
  return [
    { lead: azimuth - lean, at: [height, reach], over: false, singular: false },
    { lead: azimuth - Math.PI + lean, at: [height, -reach], over: true, singular: false },
  ];
}

/** Branches of one led plane with the hand turned by `theta` in it. */
export function planarBranches(arm: PlanarArm, led: Led, theta: number, near: Float64Array): Branch[] | Miss {
  const { linkage } = arm;
  // The first bar's turn at `near`: the first row of the matrix is what its slots add up to.
  const bends = bendsTo(linkage, led.at, theta, firstTurn(arm, near));
  if (!Array.isArray(bends)) return bends;
  const extra = arm.roll ? [near[arm.roll.slot]] : [];
  return bends.map((bend) => ({
    values: [led.lead, ...valuesOf(linkage, bend.turns), ...extra],
    posture: postureOf(arm, bend, led.over),
    singular: led.singular || bend.folded,
  }));
}

/** The turn of the first bar at a pose, for plain chains; 0 for coupled ones, where any member of the family will do. */
const firstTurn = (arm: PlanarArm, q: Float64Array): number =>
  arm.signs ? arm.signs[0] * q[arm.linkage.slots[0]] : 0;

/** The turn of the hand in the plane at a pose. */
export const handTurnAt = ({ linkage }: PlanarArm, q: Float64Array): number =>
  linkage.slots.reduce((sum, s, k) => sum + linkage.handTurn[k] * q[s], 0);

/** Closed list: elbow up or down, or to the left or right where the plane lies flat; and reaching over. */
function postureOf(arm: PlanarArm, { side, elbow, end }: Bend, over: boolean): string {
  if (arm.lead.kind === 'slide') return side * Math.sign(arm.n[2] || 1) > 0 ? 'elbow right' : 'elbow left';
  // Whether the elbow stands above the line from shoulder to wrist (beside it where that line is upright).
  const [ex, ey] = elbow;
  const [dx, dy] = end;
  const across = ex * dy - ey * dx;
  const isUp = Math.abs(dy) > 1e-9 ? across * Math.sign(dy) >= 0 : ey >= 0;
  return `${isUp ? 'elbow up' : 'elbow down'}${over ? ', reaching over' : ''}`;
}

/** Part of a direction across the turn's axis below which it says nothing about the turn. */
const ACROSS = 1e-7;

/** The direction that the tool's +Z is to have, where the task says one. */
const zWished = (task: Placed): Vec3 | null =>
  task.kind === 'direction' ? task.direction : task.kind === 'full' ? axisOf(task.rotation, 2) : null;

/**
 * The values of a turning lead at which the plane stands as the task's direction or rotation asks, wherever the target is:
 * n(θ)·z is what the tool's own Z has along n; for a whole rotation without a roll, n(θ) itself is given. Null: the turn
 * is free; else by how much (rad) no turn does.
 */
export function leadsFacing(arm: PlanarArm, task: Placed): number[] | Miss | null {
  const z = zWished(task);
  if (arm.lead.kind === 'slide' || !z) return null;
  const { a0, e1, n, tool0 } = arm;
  if (task.kind === 'full' && !arm.roll) {
    // n as the tool holds it, carried to where the task wants the tool.
    const held = [0, 1, 2].map((c) => vec3.dot(axisOf(tool0, c as 0 | 1 | 2), n));
    const w = [0, 1, 2].reduce<Vec3>(
      (sum, c) => vec3.add(sum, vec3.scale(axisOf(task.rotation, c as 0 | 1 | 2), held[c])),
      [0, 0, 0],
    );
    const out = Math.abs(Math.asin(Math.min(1, Math.max(-1, vec3.dot(w, a0)))));
    return out > OUT_OF_PLANE ? { kind: 'out-of-plane', angle: out } : [Math.atan2(-vec3.dot(w, e1), vec3.dot(w, n))];
  }
  const lean = vec3.dot(axisOf(tool0, 2), n);
  const [x, y] = [vec3.dot(z, e1), vec3.dot(z, n)];
  const across = Math.hypot(x, y);
  if (across < ACROSS && Math.abs(lean) < ACROSS) return null;
  if (Math.abs(lean) > across * (1 + COSINE_SLACK))
    return { kind: 'out-of-plane', angle: Math.asin(Math.min(1, Math.abs(lean))) - Math.asin(Math.min(1, across)) };
  const heading = Math.atan2(y, x);
  const off = Math.asin(Math.min(1, Math.max(-1, lean / across)));
  return [heading - off, heading - Math.PI + off];
}

/** The plane at a value of a turning lead, with the target in it as far as it lies in it. */
export function ledAt(arm: PlanarArm, position: Vec3, lead: number): { led: Led; off: number; normal: Vec3 } {
  const d = vec3.sub(position, arm.c);
  const [s, c] = [Math.sin(lead), Math.cos(lead)];
  const normal = vec3.sub(vec3.scale(arm.n, c), vec3.scale(arm.e1, s));
  const out = vec3.add(vec3.scale(arm.e1, c), vec3.scale(arm.n, s));
  const reach = vec3.dot(d, out);
  return {
    led: { lead, at: [vec3.dot(d, arm.a0), reach], over: reach < 0, singular: false },
    off: vec3.dot(d, normal) - arm.lateral,
    normal,
  };
}

/** How far (m) the tip can be from `c` at most. */
export const reachOf = ({ linkage, lateral }: PlanarArm): number => {
  const { shoulder, hand, fixed, l1, l2 } = linkage;
  return Math.hypot(...shoulder) + l1 + l2 + Math.hypot(...hand) + Math.hypot(...fixed) + Math.abs(lateral);
};

/** Lean (rad) out of the plane that counts as rounding. */
const OUT_OF_PLANE = 1e-7;
/** Length in the plane below which a direction has no angle there. */
const NO_ANGLE = 1e-6;

/**
 * The turns of the hand in the plane that give the wanted direction, rotation or tilt once the lead stands at `lead`, or
 * by how much (rad) the wish leans out of the plane. `null`: it does not depend on the hand's turn.
 */
export function handTurnsFor(arm: PlanarArm, task: Placed, lead: number): number[] | Miss | null {
  if (task.kind === 'free') return null;
  // Undo the lead's turn (Rodrigues).
  const c = arm.lead.kind === 'turn' ? Math.cos(lead) : 1;
  const s = arm.lead.kind === 'turn' ? -Math.sin(lead) : 0;
  const back = (v: Vec3): Vec3 =>
    vec3.add(
      vec3.add(vec3.scale(v, c), vec3.scale(vec3.cross(arm.a0, v), s)),
      vec3.scale(arm.a0, vec3.dot(arm.a0, v) * (1 - c)),
    );
  const inPlane = (v: Vec3): { x: number; y: number; across: number } => ({
    x: vec3.dot(v, arm.a0),
    y: vec3.dot(v, arm.e1),
    across: Math.min(1, Math.max(-1, vec3.dot(v, arm.n))),
  });
  if (task.kind === 'tilt') {
    // up · (Z turned by φ) = cos of the wished angle: A·cos φ + B·sin φ = C.
    const [own, up] = [inPlane(axisOf(arm.tool0, 2)), inPlane(back(task.up))];
    const a = up.x * own.x + up.y * own.y;
    const b = up.y * own.x - up.x * own.y;
    const wish = Math.cos(task.fromUp) - up.across * own.across;
    const size = Math.hypot(a, b);
    const short = Math.abs(wish) - size;
    if (short > OUT_OF_PLANE)
      return { kind: 'out-of-plane', angle: tiltMiss(task.fromUp, up.across * own.across, size) };
    if (size < NO_ANGLE) return null;
    const [middle, off] = [Math.atan2(b, a), Math.acos(Math.min(1, Math.max(-1, wish / size)))];
    return off < NO_ANGLE || Math.PI - off < NO_ANGLE ? [middle + off] : [middle + off, middle - off];
  }
  const columns = task.kind === 'direction' || arm.roll ? ([2] as const) : ([0, 1, 2] as const);
  let turn: number | null = null;
  let worst = 0;
  for (const column of columns) {
    const own = inPlane(axisOf(arm.tool0, column));
    const wish = inPlane(back(task.kind === 'direction' ? task.direction : axisOf(task.rotation, column)));
    worst = Math.max(worst, Math.abs(Math.asin(wish.across) - Math.asin(own.across)));
    if (turn === null && Math.hypot(own.x, own.y) > (columns.length === 1 ? NO_ANGLE : 0.5))
      turn = Math.atan2(wish.y, wish.x) - Math.atan2(own.y, own.x);
  }
  return worst > OUT_OF_PLANE ? { kind: 'out-of-plane', angle: worst } : turn === null ? null : [turn];
}

/** How far (rad) the nearest tilt that a plane allows, with cosines middle ± size, is from the wished one. */
function tiltMiss(fromUp: number, middle: number, size: number): number {
  const ends = [middle - size, middle + size].map((v) => Math.acos(Math.min(1, Math.max(-1, v))));
  return Math.min(...ends.map((v) => Math.abs(v - fromUp)));
}

/** The roll that turns the tool from where the branch leaves it to a full rotation; `theta` the hand's turn. */
export function rollFor(arm: PlanarArm, rotation: Float64Array, lead: number, theta: number): number {
  const zero = mul(
    arm.lead.kind === 'turn' ? axisAngle(arm.a0, lead) : axisAngle(arm.a0, 0),
    mul(axisAngle(arm.n, theta), rotationOf(arm.tool0)),
  );
  const x = axisOf(rotation, 0);
  return arm.roll!.sign * Math.atan2(vec3.dot(axisOf(zero, 1), x), vec3.dot(axisOf(zero, 0), x));
}

function rotationOf(frame: Float64Array): Float64Array {
  const out = frame.slice();
  out.fill(0, 9);
  return out;
}

/** Whether every joint on the way to a tool turns and has a value of its own. */
export const isPlainTurning = (mechanism: Mechanism, tool: CompiledTool, joints: readonly number[]): boolean =>
  joints.every((j) => mechanism.type[j] === TURNING && ownSlot(mechanism, tool, j) >= 0) &&
  tool.factor.every((f) => f === 1);
