import type { Vec3 } from '../../linear';

/** The places of a list of x, y, z after one another. */
export const placesOf = (points: Float64Array): Vec3[] =>
  Array.from({ length: Math.floor(points.length / 3) }, (_, k): Vec3 => [
    points[3 * k],
    points[3 * k + 1],
    points[3 * k + 2],
  ]);
