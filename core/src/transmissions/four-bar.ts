/**
 * A horn that moves a joint through a rod: crank, coupler, rocker and the line between their pivots. The rocker's angle
 * follows from the crank's by intersecting two circles (Freudenstein 1955; Norton, *Design of Machinery*, sec. 4.5 and 6.7).
 *
 * Plane of the linkage: the crank's pivot at the origin, the rocker's on +X at `ground`; angles from +X, anticlockwise.
 * Motor = crank angle − crankZero, joint = rocker angle − rockerZero. Of the two ways to assemble it, `branch` +1 has the
 * coupler's end on the left of the line from the crank's end to the rocker's pivot, −1 on its right.
 *
 * Where crank and coupler line up the joint stands still however the motor turns (dead point); where coupler and rocker
 * line up the joint would run away. The domain ends before either, by a margin on the transmission angle.
 */
import { DEG_PER_RAD, RAD_PER_DEG } from '../units/convert';
import { wrapped, type Coupling, type CouplingResult } from './coupling';

export interface FourBar {
  readonly crankMm: number;
  readonly couplerMm: number;
  readonly rockerMm: number;
  readonly groundMm: number;
  readonly crankZeroDeg: number;
  readonly rockerZeroDeg: number;
  readonly branch: 1 | -1;
  /** Least angle (°) between coupler and rocker, and between crank and coupler, away from being in line. */
  readonly marginDeg: number;
}

/** Step (°) at which the ends of the domain are looked for, before they are narrowed down. */
const STEP = 0.5;
const NARROW = 40;

interface Solved {
  /** Angles (rad) of crank, coupler and rocker from +X. */
  readonly crank: number;
  readonly coupler: number;
  readonly rocker: number;
}

/** The linkage at a crank angle (rad), or null where it cannot close. */
export function fourBarAt({ crankMm, couplerMm, rockerMm, groundMm, branch }: FourBar, crank: number): Solved | null {
  const ax = crankMm * Math.cos(crank);
  const ay = crankMm * Math.sin(crank);
  const dx = groundMm - ax;
  const dy = -ay;
  const f = Math.hypot(dx, dy);
  if (f > couplerMm + rockerMm || f < Math.abs(couplerMm - rockerMm) || f === 0) return null;
  const along = (couplerMm ** 2 - rockerMm ** 2 + f * f) / (2 * f);
  const off = branch * Math.sqrt(Math.max(0, couplerMm ** 2 - along * along));
  const bx = ax + (along * dx - off * dy) / f;
  const by = ay + (along * dy + off * dx) / f;
  return { crank, coupler: Math.atan2(by - ay, bx - ax), rocker: Math.atan2(by, bx - groundMm) };
}

/** Sines of the angles between coupler and rocker and between crank and coupler, with their signs. */
const sines = ({ crank, coupler, rocker }: Solved): { transmission: number; dead: number } => ({
  transmission: Math.sin(coupler - rocker),
  dead: Math.sin(coupler - crank),
});

/** d rocker / d crank at a pose of the linkage, and its derivative with respect to the crank (per rad). */
export function fourBarRates(bar: FourBar, pose: Solved): { first: number; second: number } {
  const { crank, coupler, rocker } = pose;
  const first = (bar.crankMm * Math.sin(coupler - crank)) / (bar.rockerMm * Math.sin(coupler - rocker));
  // The coupler's own rate, from the same loop.
  const turn = (bar.crankMm * Math.sin(rocker - crank)) / (bar.couplerMm * Math.sin(coupler - rocker));
  const top = Math.sin(coupler - crank);
  const bottom = Math.sin(coupler - rocker);
  const second =
    ((bar.crankMm / bar.rockerMm) *
      (Math.cos(coupler - crank) * (turn - 1) * bottom - top * Math.cos(coupler - rocker) * (turn - first))) /
    (bottom * bottom);
  return { first, second };
}

export function fourBarCoupling(bar: FourBar): CouplingResult {
  const zero = bar.crankZeroDeg * RAD_PER_DEG;
  const least = Math.sin(bar.marginDeg * RAD_PER_DEG);
  const start = fourBarAt(bar, zero);
  const open = (): CouplingResult => ({
    ok: false,
    fault: { code: 'four-bar-open', data: { marginDeg: bar.marginDeg } },
  });
  if (!start) return open();
  const signs = sines(start);
  const works = (motor: number): boolean => {
    const pose = fourBarAt(bar, zero + motor * RAD_PER_DEG);
    if (!pose) return false;
    const now = sines(pose);
    return now.transmission * Math.sign(signs.transmission) >= least && now.dead * Math.sign(signs.dead) >= least;
  };
  if (!works(0)) return open();
  const domain: readonly [number, number] = [edge(works, -1), edge(works, 1)];
  const jointAt = (motor: number): number => {
    const pose = fourBarAt(bar, zero + motor * RAD_PER_DEG)!;
    return wrapped(pose.rocker - bar.rockerZeroDeg * RAD_PER_DEG) * DEG_PER_RAD;
  };
  const poseFor = (joint: number): Solved | null => {
    // The crank's end from the rocker's: two places, of which the working branch holds one.
    const rocker = (joint + bar.rockerZeroDeg) * RAD_PER_DEG;
    const bx = bar.groundMm + bar.rockerMm * Math.cos(rocker);
    const by = bar.rockerMm * Math.sin(rocker);
    const e = Math.hypot(bx, by);
    const cosine = (bar.crankMm ** 2 + e * e - bar.couplerMm ** 2) / (2 * bar.crankMm * e);
    if (!(Math.abs(cosine) <= 1)) return null;
    for (const side of [1, -1]) {
      const crank = Math.atan2(by, bx) + side * Math.acos(cosine);
      const pose = fourBarAt(bar, crank);
      if (!pose || Math.abs(wrapped(pose.rocker - rocker)) > 1e-7) continue;
      if (sines(pose).dead * signs.dead > 0) return pose;
    }
    return null;
  };
  const motorOf = (pose: Solved): number => {
    const motor = wrapped(pose.crank - zero) * DEG_PER_RAD;
    // The domain may reach past half a turn to either side.
    if (motor < domain[0] - 1e-9 && motor + 360 <= domain[1] + 1e-9) return motor + 360;
    return motor > domain[1] + 1e-9 && motor - 360 >= domain[0] - 1e-9 ? motor - 360 : motor;
  };
  const inside = (motor: number): boolean => motor >= domain[0] - 1e-6 && motor <= domain[1] + 1e-6;
  const coupling: Coupling = {
    domain,
    toDrives([joint]) {
      const pose = poseFor(joint);
      const motor = pose && motorOf(pose);
      return motor !== null && inside(motor) ? [motor] : null;
    },
    toJoints: ([motor]) => (inside(motor) ? [jointAt(motor)] : null),
    rates([joint]) {
      const pose = poseFor(joint);
      return pose && inside(motorOf(pose)) ? [[fourBarRates(bar, pose).first]] : null;
    },
    bend([joint]) {
      const pose = poseFor(joint);
      return pose ? fourBarRates(bar, pose).second * RAD_PER_DEG : 0;
    },
  };
  return { ok: true, coupling };
}

/** The last motor angle (°) on one side of 0 that still works. */
function edge(works: (motor: number) => boolean, side: 1 | -1): number {
  let inside = 0;
  while (Math.abs(inside) < 360 && works(inside + side * STEP)) inside += side * STEP;
  let outside = inside + side * STEP;
  for (let i = 0; i < NARROW; i++) {
    const middle = (inside + outside) / 2;
    if (works(middle)) inside = middle;
    else outside = middle;
  }
  return inside;
}
