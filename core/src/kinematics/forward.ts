/**
 * Forward kinematics of the whole tree in one pass, and the geometric Jacobian at a tool (Lynch & Park, *Modern
 * Robotics*, ch. 4 and 5; here in world coordinates). Nothing is allocated per call of the `Into` functions.
 */
import { mulInto, rotate, STRIDE, sincosAllInto, type Vec3 } from '../linear';
import {
  ABOUT_X,
  ANY_TURN,
  NO_TURN,
  QUARTER_ABOUT_X,
  SLIDING,
  TURNING,
  type CompiledDelta,
  type CompiledTool,
  type Mechanism,
} from '../mechanism';
import { deltaJacobianInto, platformInto } from './delta';

/** Buffers for one mechanism, sized once. */
export interface KinematicsSpace {
  /** All joint values, followers included (n). */
  readonly all: Float64Array;
  /** Aligned world frames (n × 12). */
  readonly frames: Float64Array;
  /** Sine and cosine of every joint's value (2n). */
  readonly sc: Float64Array;
  /** By how much (m) a delta's forearms are too short to meet at this pose; 0 where they do, and for trees. */
  gap: number;
}

export const kinematicsSpace = (mechanism: Mechanism): KinematicsSpace => ({
  all: new Float64Array(mechanism.n),
  frames: new Float64Array(STRIDE * mechanism.n),
  sc: new Float64Array(2 * mechanism.n),
  gap: 0,
});

/** all[j] of every joint from the slots q (SI): followers by their sums, fixed joints 0. */
export function expandInto(all: Float64Array, mechanism: Mechanism, q: Float64Array): void {
  const { n, slotOfJoint, offset, followStart, followSlot, followFactor } = mechanism;
  for (let j = 0; j < n; j++) {
    const slot = slotOfJoint[j];
    if (slot >= 0) {
      all[j] = q[slot];
      continue;
    }
    let value = offset[j];
    for (let k = followStart[j]; k < followStart[j + 1]; k++) value += followFactor[k] * q[followSlot[k]];
    all[j] = value;
  }
}

/**
 * Aligned world frames of every joint for slots q (SI), written to `space.frames`.
 *
 * The frame of the joint before stays in locals, since most joints hang on the one before them, and the constant turn
 * between two joints is skipped or done as a turn about X where it is no more than that (see `Mechanism.shape`).
 */
export function framesInto(space: KinematicsSpace, mechanism: Mechanism, q: Float64Array): void {
  const { n, parent, local, type, shape, base } = mechanism;
  const { all, frames, sc } = space;
  expandInto(all, mechanism, q);
  sincosAllInto(sc, all, n);
  // Frame of joint `at`: axes x, y, z by columns, origin p.
  let at = -2;
  let xx = 0,
    xy = 0,
    xz = 0,
    yx = 0,
    yy = 0,
    yz = 0,
    zx = 0,
    zy = 0,
    zz = 0,
    px = 0,
    py = 0,
    pz = 0;
  for (let j = 0; j < n; j++) {
    const p = parent[j];
    if (p !== at) {
      const from = p < 0 ? base : frames;
      const o = p < 0 ? 0 : STRIDE * p;
      xx = from[o];
      yx = from[o + 1];
      zx = from[o + 2];
      xy = from[o + 3];
      yy = from[o + 4];
      zy = from[o + 5];
      xz = from[o + 6];
      yz = from[o + 7];
      zz = from[o + 8];
      px = from[o + 9];
      py = from[o + 10];
      pz = from[o + 11];
    }
    at = j;
    const o = STRIDE * j;
    const lx = local[o + 9],
      ly = local[o + 10],
      lz = local[o + 11];
    px += xx * lx + yx * ly + zx * lz;
    py += xy * lx + yy * ly + zy * lz;
    pz += xz * lx + yz * ly + zz * lz;
    const turn = shape[j];
    if (turn === QUARTER_ABOUT_X) {
      const s = local[o + 7];
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
      const c = local[o + 4],
        s = local[o + 7];
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
      const l0 = local[o],
        l1 = local[o + 1],
        l2 = local[o + 2],
        l3 = local[o + 3],
        l4 = local[o + 4],
        l5 = local[o + 5],
        l6 = local[o + 6],
        l7 = local[o + 7],
        l8 = local[o + 8];
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
    const kind = type[j];
    if (kind === TURNING) {
      const s = sc[2 * j],
        c = sc[2 * j + 1];
      const ax = xx,
        ay = xy,
        az = xz;
      xx = ax * c + yx * s;
      xy = ay * c + yy * s;
      xz = az * c + yz * s;
      yx = yx * c - ax * s;
      yy = yy * c - ay * s;
      yz = yz * c - az * s;
    } else if (kind === SLIDING) {
      const d = all[j];
      px += zx * d;
      py += zy * d;
      pz += zz * d;
    }
    frames[o] = xx;
    frames[o + 1] = yx;
    frames[o + 2] = zx;
    frames[o + 3] = xy;
    frames[o + 4] = yy;
    frames[o + 5] = zy;
    frames[o + 6] = xz;
    frames[o + 7] = yz;
    frames[o + 8] = zz;
    frames[o + 9] = px;
    frames[o + 10] = py;
    frames[o + 11] = pz;
  }
  if (mechanism.delta) space.gap = platformInto(frames, base, mechanism.delta, all);
}

/** World frame of a tool, from frames already computed. `out` must not be `space.frames`. */
export function toolInto(
  out: Float64Array,
  o: number,
  mechanism: Mechanism,
  space: KinematicsSpace,
  tool: CompiledTool,
): void {
  const { local } = tool;
  const from = tool.parent < 0 ? mechanism.base : space.frames;
  const f = tool.parent < 0 ? 0 : STRIDE * tool.parent;
  if (tool.shape !== NO_TURN) {
    mulInto(out, o, from, f, local, 0);
    return;
  }
  const lx = local[9],
    ly = local[10],
    lz = local[11];
  for (let row = 0; row < 3; row++) {
    const x = from[f + 3 * row],
      y = from[f + 3 * row + 1],
      z = from[f + 3 * row + 2];
    out[o + 3 * row] = x;
    out[o + 3 * row + 1] = y;
    out[o + 3 * row + 2] = z;
    out[o + 9 + row] = x * lx + y * ly + z * lz + from[f + 9 + row];
  }
}

/**
 * Geometric Jacobian of a tool: 6 × m, column by column (out[6·slot + row]); rows 0–2 the tool point's velocity
 * (m/s), rows 3–5 its angular velocity (rad/s), world axes, per unit speed of the slot. Followers come in through the
 * chain rule. `point` holds the tool's world frame at `po`.
 */
export function jacobianInto(
  out: Float64Array,
  mechanism: Mechanism,
  space: KinematicsSpace,
  tool: CompiledTool,
  point: Float64Array,
  po = 0,
): void {
  const { frames } = space;
  const { joint, slot, factor, single } = tool;
  const { type, m, delta } = mechanism;
  if (delta && tool.parent === delta.platform) {
    platformJacobianInto(out, mechanism, space, delta);
    return;
  }
  if (!single || slot.length < m) out.fill(0, 0, 6 * m);
  const tx = point[po + 9],
    ty = point[po + 10],
    tz = point[po + 11];
  for (let k = 0; k < joint.length; k++) {
    const j = joint[k];
    const o = STRIDE * j;
    const c = 6 * slot[k];
    const ax = frames[o + 2],
      ay = frames[o + 5],
      az = frames[o + 8];
    if (single) {
      if (type[j] === TURNING) {
        const dx = tx - frames[o + 9],
          dy = ty - frames[o + 10],
          dz = tz - frames[o + 11];
        out[c] = ay * dz - az * dy;
        out[c + 1] = az * dx - ax * dz;
        out[c + 2] = ax * dy - ay * dx;
        out[c + 3] = ax;
        out[c + 4] = ay;
        out[c + 5] = az;
      } else {
        out[c] = ax;
        out[c + 1] = ay;
        out[c + 2] = az;
        out[c + 3] = out[c + 4] = out[c + 5] = 0;
      }
      continue;
    }
    const f = factor[k];
    if (type[j] === TURNING) {
      const dx = tx - frames[o + 9],
        dy = ty - frames[o + 10],
        dz = tz - frames[o + 11];
      out[c] += f * (ay * dz - az * dy);
      out[c + 1] += f * (az * dx - ax * dz);
      out[c + 2] += f * (ax * dy - ay * dx);
      out[c + 3] += f * ax;
      out[c + 4] += f * ay;
      out[c + 5] += f * az;
    } else {
      out[c] += f * ax;
      out[c + 1] += f * ay;
      out[c + 2] += f * az;
    }
  }
}

/** What hangs on a delta's platform only shifts, all of it alike. */
function platformJacobianInto(
  out: Float64Array,
  { base }: Mechanism,
  { frames, all }: KinematicsSpace,
  delta: CompiledDelta,
): void {
  const o = STRIDE * delta.platform;
  const d: Vec3 = [frames[o + 9] - base[9], frames[o + 10] - base[10], frames[o + 11] - base[11]];
  const inBase: Vec3 = [0, 1, 2].map((c) => base[c] * d[0] + base[3 + c] * d[1] + base[6 + c] * d[2]) as never;
  deltaJacobianInto(out, delta, all, inBase);
  for (let i = 0; i < 3; i++) {
    const v = rotate(base, [out[6 * i], out[6 * i + 1], out[6 * i + 2]]);
    for (let row = 0; row < 3; row++) out[6 * i + row] = v[row];
  }
}

/** World frames by id, all joint values, and the gap of a delta that does not close. */
export interface Frames {
  readonly joints: Map<string, Float64Array>;
  readonly tools: Map<string, Float64Array>;
  readonly all: Float64Array;
  readonly gap: number;
}

/** World frames of the document's joints (not the aligned ones) by id, and of its tools; the readable form. */
export function forward(mechanism: Mechanism, q: Float64Array): Frames {
  const space = kinematicsSpace(mechanism);
  framesInto(space, mechanism, q);
  const joints = new Map<string, Float64Array>();
  for (let j = 0; j < mechanism.n; j++) {
    const frame = new Float64Array(STRIDE);
    mulInto(frame, 0, space.frames, STRIDE * j, mechanism.unalign, STRIDE * j);
    joints.set(mechanism.ids[j], frame);
  }
  const tools = new Map<string, Float64Array>();
  for (const tool of mechanism.tools) {
    const frame = new Float64Array(STRIDE);
    toolInto(frame, 0, mechanism, space, tool);
    tools.set(tool.id, frame);
  }
  return { joints, tools, all: space.all, gap: space.gap };
}
