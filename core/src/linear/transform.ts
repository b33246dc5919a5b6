/**
 * Rigid transforms as twelve numbers in a Float64Array: the rotation row by row (r00 r01 r02 r10 … r22), then the
 * position (x y z), metres. `T` maps points of the inner frame to the outer one: p_outer = R·p_inner + p.
 *
 * `Into` functions write to `out[o…o+11]`; `out` may be an input at the same offset unless a function says otherwise.
 * Conventions are those of docs/maths.md: right-handed, roll-pitch-yaw fixed-axis X then Y then Z (R = Rz·Ry·Rx),
 * quaternions [x, y, z, w] with w ≥ 0.
 */
import { sincosInto } from './sincos';
import type { Vec3 } from './vec3';

export const STRIDE = 12;
export type Quaternion = readonly [number, number, number, number];

export function identity(): Float64Array {
  return Float64Array.of(1, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0);
}

/** out = a · b. */
export function mulInto(
  out: Float64Array,
  o: number,
  a: Float64Array,
  ao: number,
  b: Float64Array,
  bo: number,
): void {
  const a0 = a[ao],
    a1 = a[ao + 1],
    a2 = a[ao + 2],
    a3 = a[ao + 3],
    a4 = a[ao + 4],
    a5 = a[ao + 5];
  const a6 = a[ao + 6],
    a7 = a[ao + 7],
    a8 = a[ao + 8];
  const ax = a[ao + 9],
    ay = a[ao + 10],
    az = a[ao + 11];
  const b0 = b[bo],
    b1 = b[bo + 1],
    b2 = b[bo + 2],
    b3 = b[bo + 3],
    b4 = b[bo + 4],
    b5 = b[bo + 5];
  const b6 = b[bo + 6],
    b7 = b[bo + 7],
    b8 = b[bo + 8];
  const bx = b[bo + 9],
    by = b[bo + 10],
    bz = b[bo + 11];
  out[o] = a0 * b0 + a1 * b3 + a2 * b6;
  out[o + 1] = a0 * b1 + a1 * b4 + a2 * b7;
  out[o + 2] = a0 * b2 + a1 * b5 + a2 * b8;
  out[o + 3] = a3 * b0 + a4 * b3 + a5 * b6;
  out[o + 4] = a3 * b1 + a4 * b4 + a5 * b7;
  out[o + 5] = a3 * b2 + a4 * b5 + a5 * b8;
  out[o + 6] = a6 * b0 + a7 * b3 + a8 * b6;
  out[o + 7] = a6 * b1 + a7 * b4 + a8 * b7;
  out[o + 8] = a6 * b2 + a7 * b5 + a8 * b8;
  out[o + 9] = a0 * bx + a1 * by + a2 * bz + ax;
  out[o + 10] = a3 * bx + a4 * by + a5 * bz + ay;
  out[o + 11] = a6 * bx + a7 * by + a8 * bz + az;
}

export function mul(a: Float64Array, b: Float64Array): Float64Array {
  const out = new Float64Array(STRIDE);
  mulInto(out, 0, a, 0, b, 0);
  return out;
}

/** The inverse of a rigid transform: [Rᵀ, −Rᵀp]. */
export function inverse(t: Float64Array, at = 0): Float64Array {
  const out = new Float64Array(STRIDE);
  for (let c = 0; c < 3; c++) {
    const [x, y, z] = [t[at + c], t[at + 3 + c], t[at + 6 + c]];
    out[3 * c] = x;
    out[3 * c + 1] = y;
    out[3 * c + 2] = z;
    out[9 + c] = -(x * t[at + 9] + y * t[at + 10] + z * t[at + 11]);
  }
  return out;
}

export const positionOf = (t: Float64Array, at = 0): Vec3 => [t[at + 9], t[at + 10], t[at + 11]];
/** Column `c` of the rotation: the direction of the inner frame's axis c seen from outside. */
export const axisOf = (t: Float64Array, c: 0 | 1 | 2, at = 0): Vec3 => [t[at + c], t[at + 3 + c], t[at + 6 + c]];

export function apply(t: Float64Array, p: Vec3, at = 0): Vec3 {
  const d = rotate(t, p, at);
  return [d[0] + t[at + 9], d[1] + t[at + 10], d[2] + t[at + 11]];
}

export function rotate(t: Float64Array, p: Vec3, at = 0): Vec3 {
  return [
    t[at] * p[0] + t[at + 1] * p[1] + t[at + 2] * p[2],
    t[at + 3] * p[0] + t[at + 4] * p[1] + t[at + 5] * p[2],
    t[at + 6] * p[0] + t[at + 7] * p[1] + t[at + 8] * p[2],
  ];
}

/** A direction of the outer frame seen in the inner one: Rᵀ·p. */
export function rotateBack(t: Float64Array, p: Vec3, at = 0): Vec3 {
  return [
    t[at] * p[0] + t[at + 3] * p[1] + t[at + 6] * p[2],
    t[at + 1] * p[0] + t[at + 4] * p[1] + t[at + 7] * p[2],
    t[at + 2] * p[0] + t[at + 5] * p[1] + t[at + 8] * p[2],
  ];
}

/** Rotation by `angle` (rad, right-hand rule) about the unit axis, Rodrigues' formula (Lynch & Park, eq. 3.51). */
export function axisAngle(axis: Vec3, angle: number, position: Vec3 = [0, 0, 0]): Float64Array {
  const sc = new Float64Array(2);
  sincosInto(sc, 0, angle);
  const [x, y, z] = axis;
  const s = sc[0],
    c = sc[1],
    v = 1 - c;
  return Float64Array.of(
    c + x * x * v,
    x * y * v - z * s,
    x * z * v + y * s,
    y * x * v + z * s,
    c + y * y * v,
    y * z * v - x * s,
    z * x * v - y * s,
    z * y * v + x * s,
    c + z * z * v,
    position[0],
    position[1],
    position[2],
  );
}

/** Transform from a position (m) and fixed-axis roll, pitch, yaw (rad). */
export function fromXyzRpy(xyz: Vec3, rpy: Vec3): Float64Array {
  const sc = new Float64Array(6);
  for (let i = 0; i < 3; i++) sincosInto(sc, 2 * i, rpy[i]);
  const [sr, cr, sp, cp, sy, cy] = sc;
  return Float64Array.of(
    cy * cp,
    cy * sp * sr - sy * cr,
    cy * sp * cr + sy * sr,
    sy * cp,
    sy * sp * sr + cy * cr,
    sy * sp * cr - cy * sr,
    -sp,
    cp * sr,
    cp * cr,
    xyz[0],
    xyz[1],
    xyz[2],
  );
}

/** Below this cosine of the pitch the roll is set to 0 and the whole turn about Z goes to the yaw. */
const GIMBAL_COS = 1e-9;

/** Fixed-axis roll, pitch, yaw (rad) of the rotation; roll is 0 where the pitch is ±90°. */
export function rpyOf(t: Float64Array, at = 0): Vec3 {
  const cp = Math.hypot(t[at], t[at + 3]);
  const pitch = Math.atan2(-t[at + 6], cp);
  if (cp < GIMBAL_COS) return [0, pitch, Math.atan2(-t[at + 1], t[at + 4])];
  return [Math.atan2(t[at + 7], t[at + 8]), pitch, Math.atan2(t[at + 3], t[at])];
}

/** Unit quaternion [x, y, z, w], w ≥ 0 (Shepperd 1978: the largest of the four is computed first). */
export function quaternionOf(t: Float64Array, at = 0): Quaternion {
  const m00 = t[at],
    m01 = t[at + 1],
    m02 = t[at + 2],
    m10 = t[at + 3],
    m11 = t[at + 4],
    m12 = t[at + 5];
  const m20 = t[at + 6],
    m21 = t[at + 7],
    m22 = t[at + 8];
  const trace = m00 + m11 + m22;
  let q: [number, number, number, number];
  if (trace >= m00 && trace >= m11 && trace >= m22) {
    const w = Math.sqrt(1 + trace) / 2;
    q = [(m21 - m12) / (4 * w), (m02 - m20) / (4 * w), (m10 - m01) / (4 * w), w];
  } else if (m00 >= m11 && m00 >= m22) {
    const x = Math.sqrt(1 + m00 - m11 - m22) / 2;
    q = [x, (m01 + m10) / (4 * x), (m02 + m20) / (4 * x), (m21 - m12) / (4 * x)];
  } else if (m11 >= m22) {
    const y = Math.sqrt(1 - m00 + m11 - m22) / 2;
    q = [(m01 + m10) / (4 * y), y, (m12 + m21) / (4 * y), (m02 - m20) / (4 * y)];
  } else {
    const z = Math.sqrt(1 - m00 - m11 + m22) / 2;
    q = [(m02 + m20) / (4 * z), (m12 + m21) / (4 * z), z, (m10 - m01) / (4 * z)];
  }
  const sign = q[3] < 0 ? -1 : 1;
  return [q[0] * sign, q[1] * sign, q[2] * sign, q[3] * sign];
}

/** Rotation of a quaternion (normalised here) with a position in m. */
export function fromQuaternion(q: Quaternion, position: Vec3 = [0, 0, 0]): Float64Array {
  const n = Math.hypot(q[0], q[1], q[2], q[3]);
  const x = q[0] / n,
    y = q[1] / n,
    z = q[2] / n,
    w = q[3] / n;
  return Float64Array.of(
    1 - 2 * (y * y + z * z),
    2 * (x * y - z * w),
    2 * (x * z + y * w),
    2 * (x * y + z * w),
    1 - 2 * (x * x + z * z),
    2 * (y * z - x * w),
    2 * (x * z - y * w),
    2 * (y * z + x * w),
    1 - 2 * (x * x + y * y),
    position[0],
    position[1],
    position[2],
  );
}

/** The shortest rotation that carries +Z onto the unit vector `axis`; half a turn about X for −Z. */
export function zOnto(axis: Vec3): Float64Array {
  const [x, y, z] = axis;
  if (z < -1 + 1e-15) return Float64Array.of(1, 0, 0, 0, -1, 0, 0, 0, -1, 0, 0, 0);
  const k = 1 / (1 + z);
  return Float64Array.of(1 - x * x * k, -x * y * k, x, -x * y * k, 1 - y * y * k, y, -x, -y, z, 0, 0, 0);
}

/**
 * Rotation vector (rad, outer frame) that carries the rotation of `a` onto that of `b`: log(R_b·R_aᵀ)
 * (Lynch & Park, sec. 3.2.3.3), also near half a turn.
 */
export function rotationBetween(a: Float64Array, b: Float64Array, ao = 0, bo = 0): Vec3 {
  const qa = quaternionOf(a, ao);
  const qb = quaternionOf(b, bo);
  // b · conj(a)
  let x = -qb[3] * qa[0] + qb[0] * qa[3] - qb[1] * qa[2] + qb[2] * qa[1];
  let y = -qb[3] * qa[1] + qb[0] * qa[2] + qb[1] * qa[3] - qb[2] * qa[0];
  let z = -qb[3] * qa[2] - qb[0] * qa[1] + qb[1] * qa[0] + qb[2] * qa[3];
  let w = qb[3] * qa[3] + qb[0] * qa[0] + qb[1] * qa[1] + qb[2] * qa[2];
  if (w < 0) [x, y, z, w] = [-x, -y, -z, -w];
  const s = Math.sqrt(x * x + y * y + z * z);
  const k = s < 1e-12 ? 2 : (2 * Math.atan2(s, w)) / s;
  return [x * k, y * k, z * k];
}
