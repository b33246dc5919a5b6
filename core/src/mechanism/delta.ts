/**
 * Rotary delta: three turned upper arms, three parallelogram forearms, a platform that only shifts. All in the base's
 * frame (m, rad); shifting every arm inward by the platform's radius makes the forearms meet in one point.
 *
 * Forward: the platform's centre is where three spheres round the elbows meet, lower root (Clavel 1991; Merlet, *Parallel
 * Robots*, sec. 4.9). Inverse: per arm a circle and a sphere, the knee outward.
 */
import { apply, rotate, STRIDE, vec3, type Vec3 } from '../linear';
import type { CompiledDelta } from './mechanism';

const TWO_PI = 2 * Math.PI;
/** Elbow triangles of less area than this (m²) hold the platform along a line only. */
const FLAT = 1e-10;

/** The elbow of arm i, moved inward by the platform's radius. */
export function elbowOf(delta: CompiledDelta, i: number, angle: number): Vec3 {
  const out = delta.radius + delta.upperArm * Math.cos(angle);
  return [out * delta.cos[i], out * delta.sin[i], -delta.upperArm * Math.sin(angle)];
}

export interface DeltaForward {
  readonly centre: Vec3;
  /** By how much (m) the forearms are too short to meet; 0 where they do. Then `centre` is the middle of the elbows. */
  readonly gap: number;
  /** The elbows lie on one line, which leaves the platform a circle to be on; then `gap` is a forearm. */
  readonly flat: boolean;
}

/** Centre of the platform's pivots for three motor angles (rad), the lower one of the two places. */
export function deltaForward(delta: CompiledDelta, angles: ArrayLike<number>): DeltaForward {
  const [a, b, c] = [0, 1, 2].map((i) => elbowOf(delta, i, angles[i]));
  const ab = vec3.sub(b, a);
  const ac = vec3.sub(c, a);
  const normal = vec3.cross(ab, ac);
  const square = vec3.dot(normal, normal);
  if (square < FLAT * FLAT) return { centre: a, gap: delta.forearm, flat: true };
  // Centre of the circle through the elbows, then along its axis (Weisstein's formula for the circumcentre).
  const toCentre = vec3.scale(
    vec3.add(
      vec3.scale(vec3.cross(normal, ab), vec3.dot(ac, ac)),
      vec3.scale(vec3.cross(ac, normal), vec3.dot(ab, ab)),
    ),
    1 / (2 * square),
  );
  const middle = vec3.add(a, toCentre);
  const height = delta.forearm * delta.forearm - vec3.dot(toCentre, toCentre);
  if (height < 0) return { centre: middle, gap: vec3.norm(toCentre) - delta.forearm, flat: false };
  const down = Math.sqrt(height / square) * (normal[2] > 0 ? -1 : 1);
  return { centre: vec3.add(middle, vec3.scale(normal, down)), gap: 0, flat: false };
}

export type DeltaArm =
  | { readonly ok: true; readonly angle: number }
  /** The forearm is `by` m too short, or (negative) too long, for the place. */
  | { readonly ok: false; readonly by: number };

/** Motor angle (rad, −π < angle ≤ π) of arm i that puts the platform's centre at `p`, knee outward. */
export function deltaArm(delta: CompiledDelta, i: number, p: Vec3): DeltaArm {
  const out = p[0] * delta.cos[i] + p[1] * delta.sin[i] - delta.radius;
  const side = p[1] * delta.cos[i] - p[0] * delta.sin[i];
  const rho = Math.hypot(out, p[2]);
  const u = delta.upperArm;
  const far = Math.hypot(rho - u, side) - delta.forearm;
  if (far > 0) return { ok: false, by: far };
  const near = delta.forearm - Math.hypot(rho + u, side);
  if (near > 0) return { ok: false, by: -near };
  // out·cos θ − z·sin θ = k
  const k = (rho * rho + u * u + side * side - delta.forearm * delta.forearm) / (2 * u);
  const towards = Math.atan2(-p[2], out);
  const lean = rho > 0 ? Math.acos(Math.min(1, Math.max(-1, k / rho))) : 0;
  const [first, second] = [towards - lean, towards + lean];
  const angle = Math.cos(first) >= Math.cos(second) ? first : second;
  return { ok: true, angle: angle > Math.PI ? angle - TWO_PI : angle <= -Math.PI ? angle + TWO_PI : angle };
}

/**
 * Velocity of the platform per motor speed, 3 × 3 column by column in the base's frame (m per rad), written to
 * out[6·i + row] so that columns stand as in a geometric Jacobian; from differentiating each forearm's length.
 * Where the forearms leave a direction free (a singular pose) the columns are 0.
 */
export function deltaJacobianInto(out: Float64Array, delta: CompiledDelta, angles: ArrayLike<number>, p: Vec3): void {
  const rods = [0, 1, 2].map((i) => vec3.sub(p, elbowOf(delta, i, angles[i])));
  const det = vec3.dot(rods[0], vec3.cross(rods[1], rods[2]));
  const scale = delta.forearm ** 3;
  for (let i = 0; i < 3; i++) {
    const turn = delta.upperArm;
    const [s, c] = [Math.sin(angles[i]), Math.cos(angles[i])];
    const elbow: Vec3 = [-turn * s * delta.cos[i], -turn * s * delta.sin[i], -turn * c];
    const pull = vec3.dot(rods[i], elbow);
    const across = vec3.cross(rods[(i + 1) % 3], rods[(i + 2) % 3]);
    const f = Math.abs(det) > 1e-9 * scale ? pull / det : 0;
    for (let row = 0; row < 3; row++) out[6 * i + row] = across[row] * f;
    for (let row = 3; row < 6; row++) out[6 * i + row] = 0;
  }
}

/**
 * Acceleration (m/s²) of the platform's centre in the base's frame, for speeds and accelerations of the motors, at a place `p` and velocity
 * `v` of it; from differentiating each forearm's length twice. Null where the forearms leave a direction free.
 */
export function deltaAccel(
  delta: CompiledDelta,
  angles: ArrayLike<number>,
  speeds: ArrayLike<number>,
  accels: ArrayLike<number>,
  p: Vec3,
  v: Vec3,
): Vec3 | null {
  const u = delta.upperArm;
  const rods: Vec3[] = [];
  const sides: number[] = [];
  for (let i = 0; i < 3; i++) {
    const [s, c] = [Math.sin(angles[i]), Math.cos(angles[i])];
    const rod = vec3.sub(p, elbowOf(delta, i, angles[i]));
    const along: Vec3 = [-u * s * delta.cos[i], -u * s * delta.sin[i], -u * c];
    const inward: Vec3 = [-u * c * delta.cos[i], -u * c * delta.sin[i], u * s];
    const past = vec3.sub(v, vec3.scale(along, speeds[i]));
    const elbow = vec3.add(vec3.scale(inward, speeds[i] ** 2), vec3.scale(along, accels[i]));
    rods.push(rod);
    sides.push(vec3.dot(rod, elbow) - vec3.dot(past, past));
  }
  const det = vec3.dot(rods[0], vec3.cross(rods[1], rods[2]));
  if (Math.abs(det) <= 1e-9 * delta.forearm ** 3) return null;
  // Cramer's rule: rows are the rods.
  return vec3.scale(
    [0, 1, 2]
      .map((i) => vec3.scale(vec3.cross(rods[(i + 1) % 3], rods[(i + 2) % 3]), sides[i]))
      .reduce((sum, each) => vec3.add(sum, each)),
    1 / det,
  );
}

/** World frame of the platform at `at` in `frames`, for the motors' values; returns the gap of {@link deltaForward}. */
export function platformInto(
  frames: Float64Array,
  base: Float64Array,
  delta: CompiledDelta,
  angles: ArrayLike<number>,
): number {
  const { centre, gap } = deltaForward(delta, angles);
  const o = STRIDE * delta.platform;
  for (let i = 0; i < 9; i++) frames[o + i] = base[i];
  for (let row = 0; row < 3; row++)
    frames[o + 9 + row] =
      base[3 * row] * centre[0] + base[3 * row + 1] * centre[1] + base[3 * row + 2] * centre[2] + base[9 + row];
  return gap;
}

/** Where a delta's rods end (m, world): both upper and both lower joints of each forearm, and their middles. */
export interface DeltaRods {
  readonly knee: Vec3;
  readonly foot: Vec3;
  readonly rods: readonly (readonly [Vec3, Vec3])[];
}

/** The three forearms for world frames of the motors' joints and of the platform. */
export function deltaRods(
  delta: CompiledDelta,
  motors: readonly Float64Array[],
  platform: Float64Array,
): readonly DeltaRods[] {
  return motors.map((motor, i) => {
    const knee = apply(motor, [delta.upperArm, 0, 0]);
    const foot = apply(platform, [delta.platformRadius * delta.cos[i], delta.platformRadius * delta.sin[i], 0]);
    const aside = rotate(platform, [-delta.sin[i] * (delta.rodGap / 2), delta.cos[i] * (delta.rodGap / 2), 0]);
    return {
      knee,
      foot,
      rods: [vec3.scale(aside, -1), aside].map((a) => [vec3.add(knee, a), vec3.add(foot, a)] as const),
    };
  });
}
