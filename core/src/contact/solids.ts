/**
 * Solids by their signed distance: how far (m) a point lies from the surface, negative inside. Every function here changes
 * by at most the way the point moves (Lipschitz constant 1), which is all that the searches in distance.ts need; outside
 * it is exact or too small, never too large (Hart 1996, "Sphere tracing").
 */
import { vec3, type Vec3 } from '../linear';

/** Distance (m) of a point from the surface; it may be asked of a point that is another one by the next call, and keeps none. */
export type Field = (p: Vec3) => number;

/** A part of an arm or its surroundings, in the frame it moves with. */
export type Solid =
  | { readonly kind: 'capsule'; readonly a: Vec3; readonly b: Vec3; readonly radius: number }
  /** Everything with a centre and half sizes that a field fills: the box bounds it. */
  | { readonly kind: 'filled'; readonly centre: Vec3; readonly half: Vec3; readonly field: Field }
  /** All below z = 0. */
  | { readonly kind: 'below' };

/** Not `Math.hypot`: it guards against overflow, which no arm comes near, at ten times the time. */
const length2 = (x: number, y: number): number => Math.sqrt(x * x + y * y);
const length3 = (x: number, y: number, z: number): number => Math.sqrt(x * x + y * y + z * z);

export const boxField =
  (half: Vec3): Field =>
  ([x, y, z]) => {
    const [dx, dy, dz] = [Math.abs(x) - half[0], Math.abs(y) - half[1], Math.abs(z) - half[2]];
    return length3(Math.max(dx, 0), Math.max(dy, 0), Math.max(dz, 0)) + Math.min(0, Math.max(dx, dy, dz));
  };

/** A rectangle (r from r0 to r1, z from z0 to z1) turned about Z. */
export const ringField =
  (r0: number, r1: number, z0: number, z1: number): Field =>
  ([x, y, z]) => {
    const dr = Math.abs(length2(x, y) - (r0 + r1) / 2) - (r1 - r0) / 2;
    const dz = Math.abs(z - (z0 + z1) / 2) - (z1 - z0) / 2;
    return length2(Math.max(dr, 0), Math.max(dz, 0)) + Math.min(0, Math.max(dr, dz));
  };
/** A full cylinder about Z. */
export const cylinderField =
  (radius: number, z0: number, z1: number): Field =>
  ([x, y, z]) => {
    const dr = length2(x, y) - radius;
    const dz = Math.abs(z - (z0 + z1) / 2) - (z1 - z0) / 2;
    return length2(Math.max(dr, 0), Math.max(dz, 0)) + Math.min(0, Math.max(dr, dz));
  };
export const ballField =
  (radius: number): Field =>
  (p) =>
    vec3.norm(p) - radius;
/** The cone of a base radius, pointing along +Z, as the slab under its slope. */
export const coneField =
  (radius: number, z0: number, z1: number): Field =>
  ([x, y, z]) => {
    const height = z1 - z0;
    const slope = length2(radius, height);
    const side = (height * length2(x, y) + radius * (z - z1)) / slope;
    return Math.max(side, z0 - z, z - z1);
  };
export const joined =
  (...fields: readonly Field[]): Field =>
  (p) => {
    let least = Infinity;
    for (const field of fields) least = Math.min(least, field(p));
    return least;
  };
export const shifted =
  (field: Field, by: Vec3): Field =>
  (p) =>
    field([p[0] - by[0], p[1] - by[1], p[2] - by[2]]);

/** A field asked in another frame: `into` takes points from there to the field's own. One point goes to every call, kept by none. */
export function seenFrom(into: Float64Array, field: Field): Field {
  const p: [number, number, number] = [0, 0, 0];
  return ([x, y, z]) => {
    p[0] = into[0] * x + into[1] * y + into[2] * z + into[9];
    p[1] = into[3] * x + into[4] * y + into[5] * z + into[10];
    p[2] = into[6] * x + into[7] * y + into[8] * z + into[11];
    return field(p);
  };
}

/** Distance of a point from a segment. */
export function fromSegment(p: Vec3, a: Vec3, b: Vec3): number {
  const [ux, uy, uz] = [b[0] - a[0], b[1] - a[1], b[2] - a[2]];
  const [wx, wy, wz] = [p[0] - a[0], p[1] - a[1], p[2] - a[2]];
  const length = ux * ux + uy * uy + uz * uz;
  const t = length > 0 ? Math.min(1, Math.max(0, (wx * ux + wy * uy + wz * uz) / length)) : 0;
  return length3(wx - t * ux, wy - t * uy, wz - t * uz);
}

/** A ball round a solid, in its frame; none round what has no end. */
export function ballRound(solid: Solid): { readonly centre: Vec3; readonly radius: number } | null {
  switch (solid.kind) {
    case 'capsule':
      return {
        centre: vec3.scale(vec3.add(solid.a, solid.b), 0.5),
        radius: vec3.distance(solid.a, solid.b) / 2 + solid.radius,
      };
    case 'filled':
      return { centre: solid.centre, radius: vec3.norm(solid.half) };
    default:
      return null;
  }
}

export function fieldOf(solid: Solid): Field {
  switch (solid.kind) {
    case 'capsule':
      return (p) => fromSegment(p, solid.a, solid.b) - solid.radius;
    case 'filled':
      return solid.field;
    default:
      return (p) => p[2];
  }
}
