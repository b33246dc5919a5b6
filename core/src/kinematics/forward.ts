/**
 * Forward kinematics of the whole tree in one pass, and the geometric Jacobian at a tool (Lynch & Park, *Modern
 * Robotics*, ch. 4 and 5; here in world coordinates). Nothing is allocated per call of the `Into` functions.
 */
import { mulInto, positionOf, rotate, rotateBack, STRIDE, sincosAllInto, vec3, type Vec3 } from '../linear';
import { SLIDING, TURNING, type CompiledDelta, type CompiledTool, type Mechanism } from '../mechanism';
import { deltaJacobianInto, platformInto } from '../mechanism/delta';

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

/** Aligned world frames of every joint for slots q (SI), written to `space.frames`. Solvers use chain.ts, which is faster. */
export function framesInto(space: KinematicsSpace, mechanism: Mechanism, q: Float64Array): void {
  const { n, parent, local, type, base } = mechanism;
  const { all, frames, sc } = space;
  expandInto(all, mechanism, q);
  sincosAllInto(sc, all, n);
  for (let j = 0; j < n; j++) {
    const o = STRIDE * j;
    if (parent[j] < 0) mulInto(frames, o, base, 0, local, o);
    else mulInto(frames, o, frames, STRIDE * parent[j], local, o);
    if (type[j] === TURNING) {
      const s = sc[2 * j],
        c = sc[2 * j + 1];
      for (let row = o; row < o + 9; row += 3) {
        const x = frames[row],
          y = frames[row + 1];
        frames[row] = x * c + y * s;
        frames[row + 1] = y * c - x * s;
      }
    } else if (type[j] === SLIDING)
      for (let axis = 0; axis < 3; axis++) frames[o + 9 + axis] += frames[o + 3 * axis + 2] * all[j];
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
  const { type, m, delta } = mechanism;
  if (delta && tool.parent === delta.platform) {
    platformJacobianInto(out, mechanism, space, delta);
    return;
  }
  out.fill(0, 0, 6 * m);
  const tx = point[po + 9],
    ty = point[po + 10],
    tz = point[po + 11];
  for (let k = 0; k < joint.length; k++) {
    const o = STRIDE * joint[k];
    const f = factor[k];
    const c = 6 * slot[k];
    const ax = frames[o + 2] * f,
      ay = frames[o + 5] * f,
      az = frames[o + 8] * f;
    if (type[joint[k]] === TURNING) {
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

/** Where the platform of a delta is (m), in the base's frame, from frames already computed. */
export const platformCentre = ({ base }: Mechanism, { frames }: KinematicsSpace, { platform }: CompiledDelta): Vec3 =>
  rotateBack(base, vec3.sub(positionOf(frames, STRIDE * platform), positionOf(base)));

/** What hangs on a delta's platform only shifts, all of it alike: velocity per motor speed, world axes. */
export function platformJacobianInto(
  out: Float64Array,
  mechanism: Mechanism,
  space: KinematicsSpace,
  delta: CompiledDelta,
): void {
  deltaJacobianInto(out, delta, space.all, platformCentre(mechanism, space, delta));
  for (let i = 0; i < 3; i++) {
    const v = rotate(mechanism.base, [out[6 * i], out[6 * i + 1], out[6 * i + 2]]);
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
