/** Plain three-vectors as readonly tuples; every function returns a new one. */

export type Vec3 = readonly [number, number, number];

export const add = (a: Vec3, b: Vec3): Vec3 => [a[0] + b[0], a[1] + b[1], a[2] + b[2]];
export const sub = (a: Vec3, b: Vec3): Vec3 => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
export const scale = (a: Vec3, s: number): Vec3 => [a[0] * s, a[1] * s, a[2] * s];
export const dot = (a: Vec3, b: Vec3): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
export const cross = (a: Vec3, b: Vec3): Vec3 => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
export const norm = (a: Vec3): number => Math.sqrt(dot(a, a));
export const distance = (a: Vec3, b: Vec3): number => norm(sub(a, b));

/** The unit vector along `a`, or null where `a` is shorter than 1e-12 (no direction to speak of). */
export function unit(a: Vec3): Vec3 | null {
  const length = norm(a);
  return length > 1e-12 ? scale(a, 1 / length) : null;
}

/** Some unit vector perpendicular to the unit vector `a`, the same one every time. */
export function perpendicular(a: Vec3): Vec3 {
  const other: Vec3 = Math.abs(a[0]) < 0.6 ? [1, 0, 0] : [0, 1, 0];
  return unit(cross(a, other))!;
}

/** Angle between two unit vectors in rad, 0..π; accurate at both ends. */
export function angleBetween(a: Vec3, b: Vec3): number {
  return Math.atan2(norm(cross(a, b)), dot(a, b));
}
