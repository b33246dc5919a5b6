/** Orthographic views of the world as a drawing: side elevation in the arm's plane, front elevation, plan from above. */
import type { Vec3 } from '../linear';
import { vec3 } from '../linear';
import type { Pt } from './shapes';

export type ViewKind = 'side' | 'front' | 'plan';
export const viewNames: Record<ViewKind, string> = { side: 'side elevation', front: 'front elevation', plan: 'plan' };

export interface View {
  readonly kind: ViewKind;
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

export const toPage = (view: Pick<View, 'right' | 'up' | 'origin' | 'scale' | 'cx' | 'cy'>, p: Vec3): Pt => {
  const d = vec3.sub(p, view.origin);
  return [view.cx + vec3.dot(d, view.right) * view.scale, view.cy - vec3.dot(d, view.up) * view.scale];
};

/** Unit vector from the page towards the eye (world). */
export const sightOf = (view: Pick<View, 'right' | 'up'>): Vec3 => vec3.cross(view.right, view.up);
/** Distance of a point in front of the drawing's plane (m). */
export const depthOf = (view: View, p: Vec3): number => vec3.dot(vec3.sub(p, view.origin), sightOf(view));

/** The world point in the drawing's plane under a point of the page; `depth` shifts it along the line of sight (m). */
export const toWorld = (view: View, [x, y]: Pt, depth = 0): Vec3 => {
  const across = vec3.scale(view.right, (x - view.cx) / view.scale);
  const up = vec3.scale(view.up, (view.cy - y) / view.scale);
  return vec3.add(vec3.add(vec3.add(view.origin, across), up), vec3.scale(sightOf(view), depth));
};
