/**
 * Forward kinematics of the whole tree in one pass, and the geometric Jacobian at a tool (Lynch & Park, *Modern
 * Robotics*, ch. 4 and 5; here in world coordinates). Nothing is allocated per call of the `Into` functions.
 */
import { mulInto, STRIDE, sincosInto } from '../linear';
import { SLIDING, TURNING, type CompiledTool, type Mechanism } from '../mechanism';

/** Buffers for one mechanism, sized once. */
export interface KinematicsSpace {
  /** All joint values, followers included (n). */
  readonly all: Float64Array;
  /** Aligned world frames (n × 12). */
  readonly frames: Float64Array;
  readonly sc: Float64Array;
}

export const kinematicsSpace = (mechanism: Mechanism): KinematicsSpace => ({
  all: new Float64Array(mechanism.n),
  frames: new Float64Array(STRIDE * mechanism.n),
  sc: new Float64Array(2),
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

/** Aligned world frames of every joint for slots q (SI), written to `space.frames`. */
export function framesInto(space: KinematicsSpace, mechanism: Mechanism, q: Float64Array): void {
  const { n, parent, local, type, base } = mechanism;
  const { all, frames, sc } = space;
  expandInto(all, mechanism, q);
  for (let j = 0; j < n; j++) {
    const p = parent[j];
    const P = p < 0 ? base : frames;
    const po = p < 0 ? 0 : STRIDE * p;
    const o = STRIDE * j;
    const a0 = P[po],
      a1 = P[po + 1],
      a2 = P[po + 2],
      a3 = P[po + 3],
      a4 = P[po + 4],
      a5 = P[po + 5];
    const a6 = P[po + 6],
      a7 = P[po + 7],
      a8 = P[po + 8];
    const l0 = local[o],
      l1 = local[o + 1],
      l2 = local[o + 2],
      l3 = local[o + 3],
      l4 = local[o + 4],
      l5 = local[o + 5];
    const l6 = local[o + 6],
      l7 = local[o + 7],
      l8 = local[o + 8];
    const lx = local[o + 9],
      ly = local[o + 10],
      lz = local[o + 11];
    const x0 = a0 * l0 + a1 * l3 + a2 * l6,
      y0 = a3 * l0 + a4 * l3 + a5 * l6,
      z0 = a6 * l0 + a7 * l3 + a8 * l6;
    const x1 = a0 * l1 + a1 * l4 + a2 * l7,
      y1 = a3 * l1 + a4 * l4 + a5 * l7,
      z1 = a6 * l1 + a7 * l4 + a8 * l7;
    const x2 = a0 * l2 + a1 * l5 + a2 * l8,
      y2 = a3 * l2 + a4 * l5 + a5 * l8,
      z2 = a6 * l2 + a7 * l5 + a8 * l8;
    let px = a0 * lx + a1 * ly + a2 * lz + P[po + 9];
    let py = a3 * lx + a4 * ly + a5 * lz + P[po + 10];
    let pz = a6 * lx + a7 * ly + a8 * lz + P[po + 11];
    const kind = type[j];
    if (kind === TURNING) {
      sincosInto(sc, 0, all[j]);
      const s = sc[0],
        c = sc[1];
      frames[o] = x0 * c + x1 * s;
      frames[o + 1] = x1 * c - x0 * s;
      frames[o + 3] = y0 * c + y1 * s;
      frames[o + 4] = y1 * c - y0 * s;
      frames[o + 6] = z0 * c + z1 * s;
      frames[o + 7] = z1 * c - z0 * s;
    } else {
      frames[o] = x0;
      frames[o + 1] = x1;
      frames[o + 3] = y0;
      frames[o + 4] = y1;
      frames[o + 6] = z0;
      frames[o + 7] = z1;
      if (kind === SLIDING) {
        px += x2 * all[j];
        py += y2 * all[j];
        pz += z2 * all[j];
      }
    }
    frames[o + 2] = x2;
    frames[o + 5] = y2;
    frames[o + 8] = z2;
    frames[o + 9] = px;
    frames[o + 10] = py;
    frames[o + 11] = pz;
  }
}

/** World frame of a tool, from frames already computed. `out` must not be `space.frames`. */
export function toolInto(
  out: Float64Array,
  o: number,
  mechanism: Mechanism,
  space: KinematicsSpace,
  tool: CompiledTool,
): void {
  if (tool.parent < 0) mulInto(out, o, mechanism.base, 0, tool.local, 0);
  else mulInto(out, o, space.frames, STRIDE * tool.parent, tool.local, 0);
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
  const { joint, slot, factor } = tool;
  out.fill(0, 0, 6 * mechanism.m);
  const tx = point[po + 9],
    ty = point[po + 10],
    tz = point[po + 11];
  for (let k = 0; k < joint.length; k++) {
    const o = STRIDE * joint[k];
    const f = factor[k];
    const ax = frames[o + 2] * f,
      ay = frames[o + 5] * f,
      az = frames[o + 8] * f;
    const c = 6 * slot[k];
    if (mechanism.type[joint[k]] === TURNING) {
      const dx = tx - frames[o + 9],
        dy = ty - frames[o + 10],
        dz = tz - frames[o + 11];
      out[c] += ay * dz - az * dy;
      out[c + 1] += az * dx - ax * dz;
      out[c + 2] += ax * dy - ay * dx;
      out[c + 3] += ax;
      out[c + 4] += ay;
      out[c + 5] += az;
    } else {
      out[c] += ax;
      out[c + 1] += ay;
      out[c + 2] += az;
    }
  }
}

/** World frames of the document's joints (not the aligned ones) by id, and of its tools; the readable form. */
export function forward(
  mechanism: Mechanism,
  q: Float64Array,
): { joints: Map<string, Float64Array>; tools: Map<string, Float64Array>; all: Float64Array } {
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
  return { joints, tools, all: space.all };
}
