/** Orthographic views of the world as a drawing: side elevation in the arm's plane, and plan from above. */
import type { Vec3 } from '../../linear';
import { vec3 } from '../../linear';
import type { Pt } from './shapes';

export interface View {
  readonly kind: 'side' | 'plan';
  /** Unit vectors (world) that run to the right and up the page. */
  readonly right: Vec3;
  readonly up: Vec3;
  /** Point that the drawing's plane goes through (m). */
  readonly origin: Vec3;
  /** Pixels per metre, and where world (0, 0) of the plane lies on the page. */
  readonly scale: number;
  readonly cx: number;
  readonly cy: number;
  readonly width: number;
  readonly height: number;
}

export const toPage = (view: View, p: Vec3): Pt => {
  const d = vec3.sub(p, view.origin);
  return [view.cx + vec3.dot(d, view.right) * view.scale, view.cy - vec3.dot(d, view.up) * view.scale];
};

/** The world point in the drawing's plane under a point of the page; `depth` shifts it along the line of sight (m). */
export const toWorld = (view: View, [x, y]: Pt, depth = 0): Vec3 => {
  const across = vec3.scale(view.right, (x - view.cx) / view.scale);
  const up = vec3.scale(view.up, (view.cy - y) / view.scale);
  return vec3.add(vec3.add(vec3.add(view.origin, across), up), vec3.scale(vec3.cross(view.right, view.up), depth));
};
