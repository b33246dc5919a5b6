/**
 * Rest-to-rest motion along a scalar path of length h in the least time under limits on speed, acceleration and jerk:
 * the seven-segment S-curve with all its short-move cases (Biagiotti & Melchiorri, *Trajectory Planning for Automatic
 * Machines and Robots*, sec. 3.4).
 */

export interface SCurve {
  readonly length: number;
  /** Duration of each jerk phase, of the whole acceleration, and of the cruise (s). */
  readonly tj: number;
  readonly ta: number;
  readonly tv: number;
  readonly jerk: number;
  readonly duration: number;
}

/** All arguments positive; `length` may be 0, which takes no time. */
export function sCurve(length: number, speed: number, accel: number, jerk: number): SCurve {
  if (!(length > 0)) return { length: 0, tj: 0, ta: 0, tv: 0, jerk: 0, duration: 0 };
  // Long enough to reach full speed?
  let tj = accel / jerk;
  let ta = tj + speed / accel;
  if (speed * jerk < accel * accel) {
    tj = Math.sqrt(speed / jerk);
    ta = 2 * tj;
  }
  let tv = length / speed - ta;
  if (tv < 0) {
    // Full speed is not reached: full acceleration is, or not even that.
    tv = 0;
    tj = accel / jerk;
    ta = (tj + Math.sqrt(tj * tj + (4 * length) / accel)) / 2;
    if (ta < 2 * tj) {
      tj = Math.cbrt(length / (2 * jerk));
      ta = 2 * tj;
    }
  }
  // The jerk that meets the length exactly with these times (equal to `jerk` but for rounding).
  const exact = length / (tj * (ta - tj) * (ta + tv));
  return { length, tj, ta, tv, jerk: exact, duration: 2 * ta + tv };
}

/** Writes position, speed, acceleration and jerk at time t (s, clamped into the motion) to out[0…3]. */
export function evaluateInto(out: Float64Array, curve: SCurve, t: number): void {
  const { length, tj, ta, tv, jerk, duration } = curve;
  if (t <= 0 || t >= duration) {
    out[0] = t <= 0 ? 0 : length;
    out[1] = out[2] = out[3] = 0;
    return;
  }
  // The motion is symmetric: the second half is the first one backwards.
  const late = t > duration / 2;
  const u = late ? duration - t : t;
  const top = jerk * tj;
  const cruise = top * (ta - tj);
  let s: number;
  let v: number;
  let a: number;
  let j: number;
  if (u < tj) {
    j = jerk;
    a = jerk * u;
    v = (jerk * u * u) / 2;
    s = (jerk * u * u * u) / 6;
  } else if (u < ta - tj) {
    j = 0;
    a = top;
    v = top * (u - tj / 2);
    s = (top * (3 * u * u - 3 * u * tj + tj * tj)) / 6;
  } else if (u < ta) {
    const w = ta - u;
    j = -jerk;
    a = jerk * w;
    v = cruise - (jerk * w * w) / 2;
    s = (cruise * ta) / 2 - cruise * w + (jerk * w * w * w) / 6;
  } else {
    j = 0;
    a = 0;
    v = cruise;
    s = (cruise * ta) / 2 + cruise * (u - ta);
  }
  if (tv === 0 && u > ta) s = Math.min(s, length / 2);
  out[0] = late ? length - s : s;
  out[1] = v;
  out[2] = late ? -a : a;
  out[3] = j;
}

/** Peak speed, acceleration and jerk of the curve. */
export const peaks = (curve: SCurve): { speed: number; accel: number; jerk: number } => ({
  speed: curve.jerk * curve.tj * (curve.ta - curve.tj),
  accel: curve.jerk * curve.tj,
  jerk: curve.jerk,
});
