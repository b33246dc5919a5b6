/**
 * Denavit–Hartenberg tables, both ways. Standard: Aᵢ = Rz(θᵢ)·Tz(dᵢ)·Tx(aᵢ)·Rx(αᵢ), row i belongs to the link after joint
 * i (Denavit & Hartenberg 1955; Spong, *Robot Modeling and Control*, sec. 3.2). Modified: Rx(αᵢ₋₁)·Tx(aᵢ₋₁)·Rz(θᵢ)·Tz(dᵢ)
 * (Craig, *Introduction to Robotics*, sec. 3.4). The joint's own value is added to θ (turning) or d (sliding).
 */
import { apply, axisAngle, axisOf, identity, inverse, mul, positionOf, rpyOf, vec3, type Vec3 } from '../linear';
import type { Frame, JointType, MovingJoint } from '../rig';
import { DEG_PER_RAD, MM_PER_M, M_PER_MM, RAD_PER_DEG } from '../units/convert';
import { frameToSi } from './convert';
import { SLIDING, type CompiledTool, type Mechanism } from './mechanism';
import { inUnit } from './values';

export type DhConvention = 'standard' | 'modified';

export interface DhRow {
  readonly type: Extract<JointType, 'revolute' | 'prismatic' | 'continuous'>;
  readonly thetaDeg: number;
  readonly dMm: number;
  /** Standard: aᵢ and αᵢ; modified: aᵢ₋₁ and αᵢ₋₁. */
  readonly aMm: number;
  readonly alphaDeg: number;
  readonly name?: string;
  readonly min?: number;
  readonly max?: number;
}

export interface DhTable {
  readonly convention: DhConvention;
  readonly rows: readonly DhRow[];
  /** First frame of the table in the base's frame, and the tool's frame in the last one. */
  readonly base: Frame;
  readonly tool: Frame;
}

const X: Vec3 = [1, 0, 0];
const Z: Vec3 = [0, 0, 1];
const shift = (x: number, y: number, z: number): Float64Array => Float64Array.of(1, 0, 0, 0, 1, 0, 0, 0, 1, x, y, z);
const aboutX = (deg: number): Float64Array => axisAngle(X, deg * RAD_PER_DEG);
const aboutZ = (deg: number): Float64Array => axisAngle(Z, deg * RAD_PER_DEG);

/** Rounds away what trigonometry leaves behind a right angle or a whole length (1e-9 mm or °). */
const tidy = (v: number): number => {
  const rounded = Math.round(v * 1e9) / 1e9;
  return rounded === 0 ? 0 : rounded;
};
const tidy3 = (v: Vec3, factor: number): [number, number, number] => [
  tidy(v[0] * factor),
  tidy(v[1] * factor),
  tidy(v[2] * factor),
];
/** A transform (SI) as a document's frame. */
export const frameOf = (t: Float64Array): Frame => ({
  xyzMm: tidy3(positionOf(t), MM_PER_M),
  rpyDeg: tidy3(rpyOf(t), DEG_PER_RAD),
});

export type DhJoint = Pick<MovingJoint, 'axis' | 'origin'> & { type: DhRow['type'] };

/** Origins and axes (always Z) of the joints that a table describes, and the tool's frame on the last of them. */
export function jointsFromDh(
  rows: readonly DhRow[],
  convention: DhConvention,
  base: Frame = { xyzMm: [0, 0, 0], rpyDeg: [0, 0, 0] },
  tool: Frame = { xyzMm: [0, 0, 0], rpyDeg: [0, 0, 0] },
): { joints: DhJoint[]; tool: Frame } {
  let fixed = frameToSi(base);
  const joints = rows.map((row): DhJoint => {
    const link = mul(shift(row.aMm * M_PER_MM, 0, 0), aboutX(row.alphaDeg));
    const along = shift(0, 0, row.dMm * M_PER_MM);
    if (convention === 'modified') fixed = mul(fixed, link);
    // Of θ and d the constant part of the joint's own comes before its motion, the other one after it.
    const turns = row.type !== 'prismatic';
    const before = turns ? aboutZ(row.thetaDeg) : mul(aboutZ(row.thetaDeg), along);
    const after = turns ? along : identity();
    const origin = frameOf(mul(fixed, before));
    fixed = convention === 'standard' ? mul(after, link) : after;
    return { type: row.type, origin, axis: [0, 0, 1] };
  });
  return { joints, tool: frameOf(mul(fixed, frameToSi(tool))) };
}

interface Line {
  readonly point: Vec3;
  readonly direction: Vec3;
}
/** Sine below which axes count as parallel, and distance (m) below which they count as one. */
const PARALLEL = 1e-9;
const SAME_LINE = 1e-9;

/** Common normal of two lines: its direction and where it stands on each. `before`: the X to keep where it is free. */
function normalOf(a: Line, b: Line, origin: Vec3, before: Vec3): { x: Vec3; onA: Vec3; onB: Vec3 } {
  const cross = vec3.cross(a.direction, b.direction);
  const sine = vec3.norm(cross);
  const between = vec3.sub(b.point, a.point);
  if (sine > PARALLEL) {
    const s = (vec3.dot(vec3.cross(between, b.direction), cross) / (sine * sine)) as number;
    const t = (vec3.dot(vec3.cross(between, a.direction), cross) / (sine * sine)) as number;
    const onA = vec3.add(a.point, vec3.scale(a.direction, s));
    const onB = vec3.add(b.point, vec3.scale(b.direction, t));
    const gap = vec3.sub(onB, onA);
    let x = vec3.scale(cross, 1 / sine);
    const along = vec3.norm(gap) > SAME_LINE ? vec3.dot(gap, x) : vec3.dot(before, x);
    if (along < 0) x = vec3.scale(x, -1);
    return { x, onA, onB };
  }
  // Parallel: any normal will do; the one through the frame before has d = 0.
  const onA = origin;
  const toB = vec3.sub(b.point, origin);
  const onB = vec3.sub(b.point, vec3.scale(a.direction, vec3.dot(toB, a.direction)));
  const gap = vec3.sub(onB, onA);
  if (vec3.norm(gap) > SAME_LINE) return { x: vec3.unit(gap)!, onA, onB };
  return { x: before, onA: b.point, onB: b.point };
}

/** Angle (°) from u to v about the unit axis. */
const angleAbout = (u: Vec3, v: Vec3, axis: Vec3): number =>
  Math.atan2(vec3.dot(vec3.cross(u, v), axis), vec3.dot(u, v)) * DEG_PER_RAD;

const basis = (x: Vec3, z: Vec3, p: Vec3): Float64Array => {
  const y = vec3.cross(z, x);
  return Float64Array.of(x[0], y[0], z[0], x[1], y[1], z[1], x[2], y[2], z[2], p[0], p[1], p[2]);
};
const perpendicularTo = (z: Vec3): Vec3 => {
  const flat = vec3.sub(X, vec3.scale(z, vec3.dot(X, z)));
  return vec3.unit(flat) && vec3.norm(flat) > 1e-6 ? vec3.unit(flat)! : vec3.perpendicular(z);
};

/**
 * The table of the way to a tool, or null where a joint on it follows others or there is none. `axes` are the world
 * frames of the mechanism's aligned joints and `toolFrame` the tool's, all joints at 0.
 */
export function dhTable(
  mechanism: Mechanism,
  tool: CompiledTool,
  axes: Float64Array,
  toolFrame: Float64Array,
  convention: DhConvention,
): DhTable | null {
  if (!tool.joint.length || !tool.single || mechanism.delta || tool.joint.some((j) => mechanism.slotOfJoint[j] < 0))
    return null;
  const toBase = inverse(mechanism.base);
  const inBase = (p: Vec3): Vec3 => apply(toBase, p);
  const direction = (v: Vec3): Vec3 => vec3.sub(inBase(v), inBase([0, 0, 0]));
  const joints: Line[] = Array.from(tool.joint, (j) => ({
    point: inBase(positionOf(axes, 12 * j)),
    direction: direction(axisOf(axes, 2, 12 * j)),
  }));
  const toolInBase = mul(toBase, toolFrame);
  const end: Line = { point: positionOf(toolInBase), direction: axisOf(toolInBase, 2) };
  const heads = Array.from(tool.joint, (j): Pick<DhRow, 'type' | 'name' | 'min' | 'max'> => {
    const slot = mechanism.slotOfJoint[j];
    const type = mechanism.type[j] === SLIDING ? 'prismatic' : mechanism.continuous[slot] ? 'continuous' : 'revolute';
    const [min, max] = [mechanism.lower[slot], mechanism.upper[slot]].map((v) => tidy(inUnit(mechanism, slot, v)));
    return {
      type,
      name: mechanism.names[j],
      ...(Number.isFinite(min) ? { min } : {}),
      ...(Number.isFinite(max) ? { max } : {}),
    };
  });

  // Standard: frame 0 on the first axis, frame i on axis i + 1, the last on the tool's Z. Modified: a base line before.
  const lines =
    convention === 'standard' ? [...joints, end] : [{ point: [0, 0, 0], direction: Z } as Line, ...joints, end];
  const first = lines[0];
  let z = first.direction;
  let x = perpendicularTo(z);
  let o = vec3.sub(first.point, vec3.scale(z, vec3.dot(first.point, z)));
  const rows: DhRow[] = [];
  if (convention === 'standard') {
    const base = frameOf(basis(x, z, o));
    for (let i = 1; i < lines.length; i++) {
      const n = normalOf(lines[i - 1], lines[i], o, x);
      const next = lines[i].direction;
      rows.push({
        ...heads[i - 1],
        thetaDeg: tidy(angleAbout(x, n.x, z)),
        dMm: tidy(vec3.dot(vec3.sub(n.onA, o), z) * MM_PER_M),
        aMm: tidy(vec3.dot(vec3.sub(n.onB, n.onA), n.x) * MM_PER_M),
        alphaDeg: tidy(angleAbout(z, next, n.x)),
      });
      [x, z, o] = [n.x, next, n.onB];
    }
    return { convention, rows, base, tool: frameOf(mul(inverse(basis(x, z, o)), toolInBase)) };
  }
  const enter = normalOf(lines[0], lines[1], o, x);
  [x, o] = [enter.x, enter.onA];
  const base = frameOf(basis(x, z, o));
  let into = enter;
  for (let i = 1; i < lines.length - 1; i++) {
    const next = lines[i].direction;
    const out = normalOf(lines[i], lines[i + 1], into.onB, into.x);
    rows.push({
      ...heads[i - 1],
      aMm: tidy(vec3.dot(vec3.sub(into.onB, into.onA), into.x) * MM_PER_M),
      alphaDeg: tidy(angleAbout(z, next, into.x)),
      thetaDeg: tidy(angleAbout(into.x, out.x, next)),
      dMm: tidy(vec3.dot(vec3.sub(out.onA, into.onB), next) * MM_PER_M),
    });
    z = next;
    into = out;
  }
  return { convention, rows, base, tool: frameOf(mul(inverse(basis(into.x, z, into.onA)), toolInBase)) };
}
