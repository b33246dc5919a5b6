/**
 * Closed-form inverse kinematics of six turning joints whose last three axes meet in one point (Pieper 1968): the first
 * three, a turn and two parallel joints, bring that point to its place; the wrist then makes the rotation. Up to eight
 * branches: facing or reaching over, elbow up or down, wrist plain or flipped.
 *
 * The wrist's two first angles come from Paden and Kahan's second subproblem, the last from their first (Murray, Li &
 * Sastry, *A Mathematical Introduction to Robotic Manipulation*, sec. 3.3.2), so its axes need not be perpendicular.
 * The solver works in the axes (e1, n, a0) of the turned plane, where base turn and bend turn about Z and Y, and
 * allocates nothing.
 */
import { axisOf, positionOf, sincosInto, vec3, type Vec3 } from '../../linear';
import type { CompiledTool, Mechanism } from '../../mechanism';
import { isPlainTurning, reachOf, recognisePlanar, type Miss, type PlanarArm, type ZeroPose } from './planar-arm';

/** How far apart (m) the wrist's axes may pass each other and still count as meeting. */
const MEETING = 1e-9;
/** Sine below which two wrist axes are one and the wrist is none. */
const PARALLEL = 1e-6;
/** Rounding allowed before a direction counts as out of the wrist's reach. */
const SLACK = 1e-9;
const TWO_PI = 2 * Math.PI;

/** Bits of a branch's flags. */
export const OVER = 1;
export const ELBOW_DOWN = 2;
export const FLIPPED = 4;
export const SINGULAR = 8;
export const MOST_BRANCHES = 8;

/** Words for a branch's flags, singular or not. */
export const POSTURES: readonly string[] = Array.from({ length: 8 }, (_, flags) =>
  [
    flags & ELBOW_DOWN ? 'elbow down' : 'elbow up',
    ...(flags & OVER ? ['reaching over'] : []),
    ...(flags & FLIPPED ? ['wrist flipped'] : []),
  ].join(', '),
);

export interface SphericalArm {
  /** The first three joints, which carry the wrist's point. */
  readonly arm: PlanarArm;
  readonly slots: readonly number[];
  /** Of the wrist, world, zero pose. */
  readonly axes: readonly [Vec3, Vec3, Vec3];
  /** The wrist's point in the tool's frame. */
  readonly centre: Vec3;
  readonly tool0: Float64Array;
}

/** The solver of an arm in this form, or null where the joints of the zero pose are something else. */
export function recogniseSpherical(mechanism: Mechanism, tool: CompiledTool, pose: ZeroPose): SphericalSolver | null {
  const { joints, axes, origins } = pose;
  if (joints.length !== 6 || !isPlainTurning(mechanism, tool, joints)) return null;
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
  // The first three joints as an arm of their own that carries the wrist's point.
  const { tool0 } = pose;
  const carrier = tool0.slice();
  point.forEach((v, k) => (carrier[9 + k] = v));
  const arm = recognisePlanar(mechanism, tool, {
    joints: joints.slice(0, 3),
    axes: axes.slice(0, 3),
    origins: origins.slice(0, 3),
    tool0: carrier,
  });
  if (!arm || arm.lead.kind !== 'turn' || arm.roll || arm.linkage.slots.length !== 2) return null;
  const inTool = vec3.sub(point, positionOf(tool0));
  const slots = joints.map((j) => mechanism.slotOfJoint[j]);
  return new SphericalSolver(mechanism, {
    arm,
    slots,
    axes: [a4, a5, a6],
    centre: [0, 1, 2].map((c) => vec3.dot(axisOf(tool0, c as 0 | 1 | 2), inTool)) as unknown as Vec3,
    tool0,
  });
}

export class SphericalSolver {
  readonly slots: readonly number[];
  /** Six values (rad) per branch of the last solve, in the order of `slots`; and the branch's flags. */
  readonly values = new Float64Array(6 * MOST_BRANCHES);
  readonly flags = new Uint8Array(MOST_BRANCHES);
  /** Where the last solve found nothing: how far out of reach the wrist's point is. */
  miss: Miss | null = null;
  /** Whether the last target had the wrist's point on the turn's axis, where any turn will do. */
  axial = false;
  /** How far (m) the tool's point can be from the turn's foot at most. */
  readonly reach: number;
  /** A point of the turn's axis (m, world). */
  readonly foot: Vec3;

  private count = 0;
  private readonly low: Float64Array;
  private readonly high: Float64Array;
  private readonly sc = new Float64Array(2);
  /** In the axes (e1, n, a0): the wrist's axes, and a direction across the last; both also in the tool's frame. */
  private readonly a4: Float64Array;
  private readonly a5: Float64Array;
  private readonly a6: Float64Array;
  private readonly side: Float64Array;
  private readonly cross: Float64Array;
  private readonly a6InTool: Vec3;
  private readonly sideInTool: Vec3;
  private readonly d: number;
  private readonly up: number;
  private readonly crossSquare: number;
  /** The wrist angles' candidates: c of Paden and Kahan's second subproblem. */
  private readonly c = new Float64Array(3);

  constructor(
    mechanism: Mechanism,
    readonly form: SphericalArm,
  ) {
    const { arm, axes, tool0 } = form;
    this.reach = reachOf(arm) + vec3.norm(form.centre);
    this.foot = arm.c;
    this.slots = form.slots;
    this.low = Float64Array.from(form.slots, (s) => mechanism.lower[s]);
    this.high = Float64Array.from(form.slots, (s) => mechanism.upper[s]);
    const inPlane = (v: Vec3): Float64Array =>
      Float64Array.of(vec3.dot(v, arm.e1), vec3.dot(v, arm.n), vec3.dot(v, arm.a0));
    const [a4, a5, a6] = axes;
    const side = vec3.perpendicular(a6);
    this.a4 = inPlane(a4);
    this.a5 = inPlane(a5);
    this.a6 = inPlane(a6);
    this.side = inPlane(side);
    this.cross = inPlane(vec3.cross(a4, a5));
    const inTool = (v: Vec3): Vec3 => [
      vec3.dot(axisOf(tool0, 0), v),
      vec3.dot(axisOf(tool0, 1), v),
      vec3.dot(axisOf(tool0, 2), v),
    ];
    this.a6InTool = inTool(a6);
    this.sideInTool = inTool(side);
    this.d = vec3.dot(a4, a5);
    this.up = vec3.dot(a5, a6);
    this.crossSquare = 1 - this.d * this.d;
  }

  /**
   * Every branch of a full pose, to `values` and `flags`; returns their number. With `limits` only those inside the joint
   * limits, each on the turn nearest to `near` (full slots). `rotation` is a transform, row by row; position in m, world.
   * With the wrist's point on the turn's axis the turn stands at `turnedTo`, where `near` has it unless said otherwise.
   */
  solve(
    px: number,
    py: number,
    pz: number,
    rotation: Float64Array,
    near: Float64Array,
    limits: boolean,
    turnedTo = near[this.slots[0]],
  ): number {
    const { arm, centre } = this.form;
    const { c, a0, e1, n, lateral, linkage } = arm;
    this.count = 0;
    this.miss = null;
    const r = rotation;
    const kx = centre[0],
      ky = centre[1],
      kz = centre[2];
    const x0 = px + r[0] * kx + r[1] * ky + r[2] * kz - c[0],
      y0 = py + r[3] * kx + r[4] * ky + r[5] * kz - c[1],
      z0 = pz + r[6] * kx + r[7] * ky + r[8] * kz - c[2];
    const x = x0 * e1[0] + y0 * e1[1] + z0 * e1[2];
    const y = x0 * n[0] + y0 * n[1] + z0 * n[2];
    const height = x0 * a0[0] + y0 * a0[1] + z0 * a0[2];
    const radius = Math.sqrt(x * x + y * y);
    const axial = radius < 1e-9 && Math.abs(lateral) < 1e-9;
    this.axial = axial;
    if (!axial && Math.abs(lateral) > radius * (1 + SLACK)) {
      this.miss = { kind: 'near', by: Math.abs(lateral) - radius };
      return 0;
    }
    // The last axis and the one across it, as the target holds them, in the plane's axes before the base turns.
    const ux = this.a6InTool[0],
      uy = this.a6InTool[1],
      uz = this.a6InTool[2];
    const sx = this.sideInTool[0],
      sy = this.sideInTool[1],
      sz = this.sideInTool[2];
    const ax = r[0] * ux + r[1] * uy + r[2] * uz,
      ay = r[3] * ux + r[4] * uy + r[5] * uz,
      az = r[6] * ux + r[7] * uy + r[8] * uz;
    const bx = r[0] * sx + r[1] * sy + r[2] * sz,
      by = r[3] * sx + r[4] * sy + r[5] * sz,
      bz = r[6] * sx + r[7] * sy + r[8] * sz;
    const vx = ax * e1[0] + ay * e1[1] + az * e1[2],
      vy = ax * n[0] + ay * n[1] + az * n[2],
      vz = ax * a0[0] + ay * a0[1] + az * a0[2];
    const wx = bx * e1[0] + by * e1[1] + bz * e1[2],
      wy = bx * n[0] + by * n[1] + bz * n[2],
      wz = bx * a0[0] + by * a0[1] + bz * a0[2];
    const azimuth = axial ? turnedTo : Math.atan2(y, x);
    const lean = axial || lateral === 0 ? 0 : Math.asin(Math.min(1, Math.max(-1, lateral / radius)));
    const reach = axial ? 0 : Math.sqrt(Math.max(0, radius * radius - lateral * lateral));
    for (let over = 0; over <= (axial ? 0 : 1); over++) {
      const q0 = over ? azimuth - Math.PI + lean : azimuth - lean;
      const dx = height - linkage.shoulder[0] - linkage.fixed[0];
      const dy = (over ? -reach : reach) - linkage.shoulder[1] - linkage.fixed[1];
      const { l1, l2, phi1, phi2, inverse } = linkage;
      const span = dx * dx + dy * dy;
      const cosine = (span - l1 * l1 - l2 * l2) / (2 * l1 * l2);
      if (cosine > 1 + SLACK || cosine < -1 - SLACK) {
        const distance = Math.sqrt(span);
        const miss: Miss =
          cosine > 0 ? { kind: 'far', by: distance - l1 - l2 } : { kind: 'near', by: Math.abs(l1 - l2) - distance };
        if (!this.miss || miss.by < (this.miss as { by: number }).by) this.miss = miss;
        continue;
      }
      const cosBend = Math.min(1, Math.max(-1, cosine));
      const sinBend = Math.sqrt(Math.max(0, 1 - cosBend * cosBend));
      const bend = Math.atan2(sinBend, cosBend);
      const folded = span < 1e-18;
      const towards = folded ? 0 : Math.atan2(dy, dx);
      const lead = Math.atan2(l2 * sinBend, l1 + l2 * cosBend);
      const turn = this.place(0, q0, near, limits);
      if (Number.isNaN(turn)) continue;
      sincosInto(this.sc, 0, q0);
      const s0 = this.sc[0],
        c0 = this.sc[1];
      // Undo the base turn (about Z of the plane's axes).
      const v1x = c0 * vx + s0 * vy,
        v1y = c0 * vy - s0 * vx,
        w1x = c0 * wx + s0 * wy,
        w1y = c0 * wy - s0 * wx;
      const bends = sinBend < 1e-9 ? 1 : 2;
      for (let k = 0; k < bends; k++) {
        const gamma = k ? -bend : bend;
        const first = folded ? phi1 + arm.signs![0] * near[arm.linkage.slots[0]] : towards - (k ? -lead : lead);
        const alpha = first - phi1;
        const psi = first + gamma - phi2;
        const ex = l1 * Math.cos(first),
          ey = l1 * Math.sin(first);
        const up = Math.abs(dy) > 1e-9 ? (ex * dy - ey * dx) * Math.sign(dy) >= 0 : ey >= 0;
        sincosInto(this.sc, 0, psi);
        const s = this.sc[0],
          co = this.sc[1];
        // Undo the bend (about Y): what is left is the wrist's.
        const base = (over ? OVER : 0) | (up ? 0 : ELBOW_DOWN) | (folded || axial ? SINGULAR : 0);
        const shoulder = this.place(1, inverse[0][0] * alpha + inverse[0][1] * psi, near, limits);
        const elbow = this.place(2, inverse[1][0] * alpha + inverse[1][1] * psi, near, limits);
        if (Number.isNaN(shoulder) || Number.isNaN(elbow)) continue;
        this.wrist(
          turn,
          shoulder,
          elbow,
          co * v1x - s * vz,
          v1y,
          s * v1x + co * vz,
          co * w1x - s * wz,
          w1y,
          s * w1x + co * wz,
          base,
          near,
          limits,
        );
      }
    }
    return this.count;
  }

  /** Both wrist settings that carry the last axis onto v and the one across it onto w; one where they fall together. */
  private wrist(
    q1: number,
    q2: number,
    q3: number,
    vx: number,
    vy: number,
    vz: number,
    wx: number,
    wy: number,
    wz: number,
    base: number,
    near: Float64Array,
    limits: boolean,
  ): void {
    const { a4, a5, a6, side, cross, d, up, crossSquare, c, values } = this;
    const vp = a4[0] * vx + a4[1] * vy + a4[2] * vz;
    const alpha = (up * d - vp) / (d * d - 1);
    const beta = (d * vp - up) / (d * d - 1);
    const square = (1 - alpha * alpha - beta * beta - 2 * alpha * beta * d) / crossSquare;
    if (square < -SLACK) return;
    const gamma = Math.sqrt(Math.max(0, square));
    // With the last axis along the first one, only the sum of their angles counts: the first stays where it was.
    const tx = a4[1] * vz - a4[2] * vy,
      ty = a4[2] * vx - a4[0] * vz,
      tz = a4[0] * vy - a4[1] * vx;
    const singular = tx * tx + ty * ty + tz * tz < 1e-18;
    for (let k = 0; k < (gamma < 1e-9 ? 1 : 2); k++) {
      const g = k ? -gamma : gamma;
      for (let i = 0; i < 3; i++) c[i] = alpha * a4[i] + beta * a5[i] + g * cross[i];
      const q5 = angle(a5, a6[0], a6[1], a6[2], c[0], c[1], c[2]);
      const p5 = this.place(4, q5, near, limits);
      if (Number.isNaN(p5)) continue;
      const q4 = singular ? near[this.slots[3]] : angle(a4, c[0], c[1], c[2], vx, vy, vz);
      const p4 = this.place(3, q4, near, limits);
      if (Number.isNaN(p4)) continue;
      // w turned back by q4 about a4 and q5 about a5 shows what the last joint has to do.
      sincosInto(this.sc, 0, -q4);
      turnInto(c, a4, this.sc, wx, wy, wz);
      sincosInto(this.sc, 0, -q5);
      turnInto(c, a5, this.sc, c[0], c[1], c[2]);
      const q6 = angle(a6, side[0], side[1], side[2], c[0], c[1], c[2]);
      const p6 = this.place(5, q6, near, limits);
      if (Number.isNaN(p6)) continue;
      const at = 6 * this.count;
      values[at] = q1;
      values[at + 1] = q2;
      values[at + 2] = q3;
      values[at + 3] = p4;
      values[at + 4] = p5;
      values[at + 5] = p6;
      this.flags[this.count++] = base | (k ? FLIPPED : 0) | (singular ? SINGULAR : 0);
    }
  }

  /**
   * The turn of value `v` of joint i that is nearest to where the joint is; where that is past a limit, the nearest that is
   * not. NaN where none is inside and only those are wanted.
   */
  private place(i: number, v: number, near: Float64Array, limits: boolean): number {
    const low = this.low[i],
      high = this.high[i],
      at = near[this.slots[i]];
    if (v >= low && v <= high && v - at <= Math.PI && at - v <= Math.PI) return v;
    const wished = v + TWO_PI * Math.round((at - v) / TWO_PI);
    let placed = wished;
    if (wished > high) placed = wished - TWO_PI * Math.ceil((wished - high) / TWO_PI - 1e-12);
    else if (wished < low) placed = wished + TWO_PI * Math.ceil((low - wished) / TWO_PI - 1e-12);
    if (placed >= low - SLACK && placed <= high + SLACK) return Math.min(high, Math.max(low, placed));
    return limits ? NaN : wished;
  }
}

/** The turn about `axis` (unit) that brings u onto v, both as far from the axis. */
function angle(axis: Float64Array, ux: number, uy: number, uz: number, vx: number, vy: number, vz: number): number {
  const au = axis[0] * ux + axis[1] * uy + axis[2] * uz;
  const av = axis[0] * vx + axis[1] * vy + axis[2] * vz;
  const triple = axis[0] * (uy * vz - uz * vy) + axis[1] * (uz * vx - ux * vz) + axis[2] * (ux * vy - uy * vx);
  return Math.atan2(triple, ux * vx + uy * vy + uz * vz - au * av);
}

/** (x, y, z) turned about a unit axis by the angle whose sine and cosine are in `sc` (Rodrigues). */
function turnInto(out: Float64Array, axis: Float64Array, sc: Float64Array, x: number, y: number, z: number): void {
  const s = sc[0],
    co = sc[1];
  const along = (axis[0] * x + axis[1] * y + axis[2] * z) * (1 - co);
  out[0] = co * x + s * (axis[1] * z - axis[2] * y) + axis[0] * along;
  out[1] = co * y + s * (axis[2] * x - axis[0] * z) + axis[1] * along;
  out[2] = co * z + s * (axis[0] * y - axis[1] * x) + axis[2] * along;
}
