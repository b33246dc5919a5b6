/**
 * A plate that two push rods tilt: each rod joins the end of a servo horn to a point of the plate. Solved from the rods'
 * lengths both ways, since no constant matrix is right (Merlet, *Parallel Robots*, ch. 3).
 *
 * Frame at the plate's pivot. The two joints are the plate's turns about X, then about its own Y: R = Rx(first)·Ry(second). Each
 * horn turns about `axis` through `at`; at motor angle 0 it points along `along` (both unit vectors, square to each other).
 */
import { DEG_PER_RAD, RAD_PER_DEG } from '../units/convert';
import { axisAngle, mul, rotate, vec3, type Vec3 } from '../linear';
import { wrapped, type Coupling, type CouplingResult } from './coupling';
import { invert } from './matrix';

export interface PushRod {
  /** Pivot of the horn (mm), its axis, and where it points at 0. */
  readonly atMm: Vec3;
  readonly axis: Vec3;
  readonly along: Vec3;
  readonly hornMm: number;
  readonly rodMm: number;
  /** Where the rod holds the plate (mm, plate level). */
  readonly plateMm: Vec3;
}
export interface TiltPlate {
  readonly rods: readonly [PushRod, PushRod];
}

const ROUNDS = 30;

/** Where a point of the plate is for its two tilts (rad). */
const placed = (p: Vec3, first: number, second: number): Vec3 =>
  rotate(mul(axisAngle([1, 0, 0], first), axisAngle([0, 1, 0], second)), p);

/** Horn angle (rad) that holds the rod's end at w, the one nearer to 0; null where the rod is too short or too long. */
function hornFor(rod: PushRod, w: Vec3): number | null {
  const side = vec3.cross(rod.axis, rod.along);
  const d = vec3.sub(w, rod.atMm);
  // |d|² − 2 h (d·along cos + d·side sin) + h² = rod²
  const a = vec3.dot(d, rod.along);
  const b = vec3.dot(d, side);
  const c = (vec3.dot(d, d) + rod.hornMm ** 2 - rod.rodMm ** 2) / (2 * rod.hornMm);
  const r = Math.hypot(a, b);
  if (!(Math.abs(c) <= r)) return null;
  const middle = Math.atan2(b, a);
  const lean = Math.acos(c / r);
  const [p, q] = [wrapped(middle - lean), wrapped(middle + lean)];
  return Math.abs(p) <= Math.abs(q) ? p : q;
}

/** Rod from horn end to plate at a pose, and the plate point: what the rates come from. */
function rodAt(rod: PushRod, w: Vec3, horn: number): { rod: Vec3; pull: number } {
  const side = vec3.cross(rod.axis, rod.along);
  const h = vec3.add(vec3.scale(rod.along, Math.cos(horn)), vec3.scale(side, Math.sin(horn)));
  const end = vec3.add(rod.atMm, vec3.scale(h, rod.hornMm));
  const along = vec3.sub(w, end);
  // How the horn's end moves along the rod per rad.
  const pull = vec3.dot(along, vec3.scale(vec3.cross(rod.axis, h), rod.hornMm));
  return { rod: along, pull };
}

export function tiltPlateCoupling(plate: TiltPlate): CouplingResult {
  const rods = plate.rods.map((rod): PushRod => {
    const axis = vec3.unit(rod.axis) ?? [0, 1, 0];
    const flat = vec3.sub(rod.along, vec3.scale(axis, vec3.dot(axis, rod.along)));
    return { ...rod, axis, along: vec3.unit(flat) ?? vec3.perpendicular(axis) };
  });
  const horns = (first: number, second: number): number[] | null => {
    const list = rods.map((rod) => hornFor(rod, placed(rod.plateMm, first, second)));
    return list.some((v) => v === null) ? null : (list as number[]);
  };
  /** ∂horn/∂tilt (2 × 2, rad per rad). */
  const slopes = (first: number, second: number): number[][] | null => {
    const at = horns(first, second);
    if (!at) return null;
    const secondAxis = rotate(axisAngle([1, 0, 0], first), [0, 1, 0]);
    return rods.map((rod, k) => {
      const w = placed(rod.plateMm, first, second);
      const { rod: along, pull } = rodAt(rod, w, at[k]);
      return [vec3.cross([1, 0, 0], w), vec3.cross(secondAxis, w)].map((v) => vec3.dot(along, v) / pull);
    });
  };
  const start = slopes(0, 0);
  if (!start || start.flat().some((v) => !Number.isFinite(v)) || !invert(start))
    return { ok: false, fault: { code: 'plate-open', data: {} } };
  const coupling: Coupling = {
    domain: null,
    toDrives([first, second]) {
      const at = horns(first * RAD_PER_DEG, second * RAD_PER_DEG);
      return at && at.map((v) => v * DEG_PER_RAD);
    },
    toJoints(drives) {
      // Newton from level; the map is smooth and one to one as far as the rods reach.
      const wish = drives.map((v) => v * RAD_PER_DEG);
      let [first, second] = [0, 0];
      for (let i = 0; i < ROUNDS; i++) {
        const at = horns(first, second);
        const slope = slopes(first, second);
        const back = slope && invert(slope);
        if (!at || !back) return null;
        const off = at.map((v, k) => wish[k] - v);
        const [a, b] = back.map((row) => row[0] * off[0] + row[1] * off[1]);
        const most = Math.max(Math.abs(a), Math.abs(b));
        let share = most > 0.3 ? 0.3 / most : 1;
        // A step past where the rods reach is taken shorter.
        while (share > 1e-3 && !horns(first + share * a, second + share * b)) share /= 2;
        first += share * a;
        second += share * b;
        if (most < 1e-13) break;
      }
      const end = horns(first, second);
      if (!end || end.some((v, k) => Math.abs(v - wish[k]) > 1e-9)) return null;
      return [first * DEG_PER_RAD, second * DEG_PER_RAD];
    },
    rates([first, second]) {
      const slope = slopes(first * RAD_PER_DEG, second * RAD_PER_DEG);
      return slope && invert(slope);
    },
    bend: () => 0,
  };
  return { ok: true, coupling };
}
