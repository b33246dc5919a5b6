/**
 * The path from the world to one tool as a bare chain of moving joints: fixed joints are folded into the constant
 * transforms between them, everything off the path is left out. This is what solvers evaluate thousands of times; the
 * whole tree is in forward.ts. Lynch & Park, *Modern Robotics*, ch. 4 and 5.
 */
import { identity, mul, STRIDE, sincosInto } from '../linear';
import { FIXED, TURNING, type CompiledTool, type Mechanism } from '../mechanism';

/** Shape of a constant turn between two joints: none, ±90° or another angle about X alone, any other. */
const NO_TURN = 0;
const QUARTER_ABOUT_X = 1;
const ABOUT_X = 2;
const ANY_TURN = 3;

/** Rotation entries this close to 0 or ±1 are rounding of right angles. */
const RIGHT_ANGLE_ROUNDING = 1e-15;

/** Puts rotation entries that are 0 or ±1 but for rounding exactly there. */
function snap(frame: Float64Array): void {
  for (let i = 0; i < 9; i++) {
    const whole = Math.round(frame[i]);
    if (Math.abs(frame[i] - whole) < RIGHT_ANGLE_ROUNDING) frame[i] = whole;
  }
}

function shapeOf(frame: Float64Array): number {
  if (frame[0] !== 1 || [1, 2, 3, 6].some((k) => frame[k] !== 0)) return ANY_TURN;
  return frame[4] === 1 ? NO_TURN : frame[4] === 0 ? QUARTER_ABOUT_X : ABOUT_X;
}

/** Numbers kept per joint in `axes`: its axis (unit, world), then its pivot (m, world). */
export const AXIS_STRIDE = 6;

export interface Chain {
  /** Moving joints on the path, followers included. */
  readonly count: number;
  /** Slots of the mechanism. */
  readonly m: number;
  /** Whether each joint is a slot of its own, every slot at most once. */
  readonly direct: boolean;
  readonly slot: Int32Array;
  readonly turning: Uint8Array;
  /** Constant transform before each joint (count × 12) and its rotation's shape; the first one contains the base. */
  readonly before: Float64Array;
  readonly shape: Uint8Array;
  /** Constant transform from the last joint to the tool. */
  readonly tail: Float64Array;
  readonly tailShape: number;
  /** Value of joint i = offset[i] + Σ factor·q over terms termStart[i] … termStart[i+1]−1. */
  readonly offset: Float64Array;
  readonly termStart: Int32Array;
  readonly termSlot: Int32Array;
  readonly termFactor: Float64Array;
}

/** Buffers of one evaluation, sized once. */
export interface ChainSpace {
  readonly axes: Float64Array;
  /** World frame of the tool (12). */
  readonly tool: Float64Array;
  readonly sc: Float64Array;
}

export const chainSpace = (chain: Chain): ChainSpace => ({
  axes: new Float64Array(AXIS_STRIDE * Math.max(1, chain.count)),
  tool: new Float64Array(STRIDE),
  sc: new Float64Array(2),
});

/** The chain of a tool; a tool on the base itself has a chain of no joints. */
export function chainOf(mechanism: Mechanism, tool: CompiledTool): Chain {
  const path: number[] = [];
  for (let j = tool.parent; j >= 0; j = mechanism.parent[j]) path.unshift(j);
  const moving: number[] = [];
  const before: number[] = [];
  const shape: number[] = [];
  let constant: Float64Array = mechanism.base.slice();
  for (const j of path) {
    constant = mul(constant, mechanism.local.slice(STRIDE * j, STRIDE * j + STRIDE));
    if (mechanism.type[j] === FIXED) continue;
    snap(constant);
    moving.push(j);
    before.push(...constant);
    shape.push(shapeOf(constant));
    constant = identity();
  }
  const tail = mul(constant, tool.local);
  snap(tail);
  const terms = moving.map((j): [number, number][] => {
    const own = mechanism.slotOfJoint[j];
    if (own >= 0) return [[own, 1]];
    const list: [number, number][] = [];
    for (let k = mechanism.followStart[j]; k < mechanism.followStart[j + 1]; k++)
      list.push([mechanism.followSlot[k], mechanism.followFactor[k]]);
    return list;
  });
  let start = 0;
  const slots = moving.map((j) => mechanism.slotOfJoint[j]);
  return {
    count: moving.length,
    m: mechanism.m,
    direct: slots.every((s) => s >= 0),
    slot: Int32Array.from(slots),
    turning: Uint8Array.from(moving, (j) => Number(mechanism.type[j] === TURNING)),
    before: Float64Array.from(before),
    shape: Uint8Array.from(shape),
    tail,
    tailShape: shapeOf(tail),
    offset: Float64Array.from(moving, (j) => (mechanism.slotOfJoint[j] >= 0 ? 0 : mechanism.offset[j])),
    termStart: Int32Array.from([0, ...terms.map((list) => (start += list.length))]),
    termSlot: Int32Array.from(terms.flat(), ([s]) => s),
    termFactor: Float64Array.from(terms.flat(), ([, f]) => f),
  };
}

/** Axes and pivots of every joint of the chain, and the tool's frame, for slots q (SI). No allocation. */
export function chainInto(space: ChainSpace, chain: Chain, q: Float64Array): void {
  const { axes, tool, sc } = space;
  const { count, direct, slot, turning, before, shape, offset, termStart, termSlot, termFactor } = chain;
  let xx = 1,
    xy = 0,
    xz = 0,
    yx = 0,
    yy = 1,
    yz = 0,
    zx = 0,
    zy = 0,
    zz = 1,
    px = 0,
    py = 0,
    pz = 0;
  for (let i = 0; i <= count; i++) {
    // The constant transform before joint i; after the last joint, to the tool.
    const from = i < count ? before : chain.tail;
    const o = i < count ? STRIDE * i : 0;
    const turn = i < count ? shape[i] : chain.tailShape;
    const lx = from[o + 9],
      ly = from[o + 10],
      lz = from[o + 11];
    px += xx * lx + yx * ly + zx * lz;
    py += xy * lx + yy * ly + zy * lz;
    pz += xz * lx + yz * ly + zz * lz;
    if (turn === NO_TURN) {
      // As it is.
    } else if (turn === QUARTER_ABOUT_X) {
      const s = from[o + 7];
      const ax = yx,
        ay = yy,
        az = yz;
      yx = s * zx;
      yy = s * zy;
      yz = s * zz;
      zx = -s * ax;
      zy = -s * ay;
      zz = -s * az;
    } else if (turn === ABOUT_X) {
      const c = from[o + 4],
        s = from[o + 7];
      const ax = yx,
        ay = yy,
        az = yz;
      yx = ax * c + zx * s;
      yy = ay * c + zy * s;
      yz = az * c + zz * s;
      zx = zx * c - ax * s;
      zy = zy * c - ay * s;
      zz = zz * c - az * s;
    } else if (turn === ANY_TURN) {
      const l0 = from[o],
        l1 = from[o + 1],
        l2 = from[o + 2],
        l3 = from[o + 3],
        l4 = from[o + 4],
        l5 = from[o + 5],
        l6 = from[o + 6],
        l7 = from[o + 7],
        l8 = from[o + 8];
      const ax = xx,
        ay = xy,
        az = xz,
        bx = yx,
        by = yy,
        bz = yz;
      xx = ax * l0 + bx * l3 + zx * l6;
      xy = ay * l0 + by * l3 + zy * l6;
      xz = az * l0 + bz * l3 + zz * l6;
      yx = ax * l1 + bx * l4 + zx * l7;
      yy = ay * l1 + by * l4 + zy * l7;
      yz = az * l1 + bz * l4 + zz * l7;
      zx = ax * l2 + bx * l5 + zx * l8;
      zy = ay * l2 + by * l5 + zy * l8;
      zz = az * l2 + bz * l5 + zz * l8;
    }
    if (i === count) break;

    let value: number;
    if (direct) value = q[slot[i]];
    else {
      value = offset[i];
      for (let k = termStart[i]; k < termStart[i + 1]; k++) value += termFactor[k] * q[termSlot[k]];
    }
    const a = AXIS_STRIDE * i;
    axes[a] = zx;
    axes[a + 1] = zy;
    axes[a + 2] = zz;
    if (turning[i] === 1) {
      sincosInto(sc, 0, value);
      const s = sc[0],
        c = sc[1];
      const ax = xx,
        ay = xy,
        az = xz;
      xx = ax * c + yx * s;
      xy = ay * c + yy * s;
      xz = az * c + yz * s;
      yx = yx * c - ax * s;
      yy = yy * c - ay * s;
      yz = yz * c - az * s;
    } else {
      px += zx * value;
      py += zy * value;
      pz += zz * value;
    }
    axes[a + 3] = px;
    axes[a + 4] = py;
    axes[a + 5] = pz;
  }
  tool[0] = xx;
  tool[1] = yx;
  tool[2] = zx;
  tool[3] = xy;
  tool[4] = yy;
  tool[5] = zy;
  tool[6] = xz;
  tool[7] = yz;
  tool[8] = zz;
  tool[9] = px;
  tool[10] = py;
  tool[11] = pz;
}

/**
 * Geometric Jacobian at the tool from axes already computed: 6 × m, column by column, rows 0–2 the tool point's velocity
 * (m/s), 3–5 its angular velocity (rad/s), world axes, per unit speed of the slot. No allocation.
 */
export function chainJacobianInto(out: Float64Array, space: ChainSpace, chain: Chain): void {
  const { axes, tool } = space;
  const { count, m, direct, slot, turning, termStart, termSlot, termFactor } = chain;
  if (!direct || count < m) out.fill(0, 0, 6 * m);
  const tx = tool[9],
    ty = tool[10],
    tz = tool[11];
  for (let i = 0; i < count; i++) {
    const a = AXIS_STRIDE * i;
    const zx = axes[a],
      zy = axes[a + 1],
      zz = axes[a + 2];
    let vx = zx,
      vy = zy,
      vz = zz,
      w = 0;
    if (turning[i] === 1) {
      const dx = tx - axes[a + 3],
        dy = ty - axes[a + 4],
        dz = tz - axes[a + 5];
      vx = zy * dz - zz * dy;
      vy = zz * dx - zx * dz;
      vz = zx * dy - zy * dx;
      w = 1;
    }
    if (direct) {
      const c = 6 * slot[i];
      out[c] = vx;
      out[c + 1] = vy;
      out[c + 2] = vz;
      out[c + 3] = w * zx;
      out[c + 4] = w * zy;
      out[c + 5] = w * zz;
      continue;
    }
    for (let k = termStart[i]; k < termStart[i + 1]; k++) {
      const c = 6 * termSlot[k];
      const f = termFactor[k];
      out[c] += f * vx;
      out[c + 1] += f * vy;
      out[c + 2] += f * vz;
      out[c + 3] += f * w * zx;
      out[c + 4] += f * w * zy;
      out[c + 5] += f * w * zz;
    }
  }
}
