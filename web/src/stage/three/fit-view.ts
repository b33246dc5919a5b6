/** Where a camera stands that looks in a given direction, as near as shows all of some points. */
import { Vector3 } from 'three';

export interface Lens {
  /** Half of what is seen across and up, as tangents: of the angles from the middle to the edges. */
  readonly across: number;
  readonly up: number;
}
export interface Standpoint {
  readonly camera: Vector3;
  /** In the middle of the picture, as deep in it as the points are. */
  readonly target: Vector3;
}

/**
 * `towards`: unit vector from what is looked at to the eye, not straight up. Along each side of the picture the point that would be cut
 * first tells how near the camera may be: it is as near as the wider of both sides lets it, with equal room on either side.
 */
export function fitView(points: readonly Vector3[], towards: Vector3, { across, up }: Lens): Standpoint | null {
  if (!points.length) return null;
  const right = new Vector3(0, 0, 1).cross(towards).normalize();
  const above = towards.clone().cross(right);
  /** In the picture's axes: how near it may be, and the two bounds that leave room for its middle. */
  const side = (axis: Vector3, tangent: number): { near: number; low: number; high: number } => {
    let [high, low] = [-Infinity, Infinity];
    for (const p of points) {
      const [x, z] = [p.dot(axis), p.dot(towards)];
      high = Math.max(high, x + z * tangent);
      low = Math.min(low, x - z * tangent);
    }
    return { near: (high - low) / (2 * tangent), low, high };
  };
  const [x, y] = [side(right, across), side(above, up)];
  const nearest = Math.max(...points.map((p) => p.dot(towards)));
  const away = Math.max(x.near, y.near, nearest + 0.05);
  const depth = points.reduce((sum, p) => sum + p.dot(towards), 0) / points.length;
  const at = (distance: number): Vector3 =>
    new Vector3()
      .addScaledVector(right, (x.low + x.high) / 2)
      .addScaledVector(above, (y.low + y.high) / 2)
      .addScaledVector(towards, distance);
  return { camera: at(away), target: at(Math.min(depth, away - 0.05)) };
}
