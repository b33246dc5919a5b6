/** Whether a base stays on its feet: the zero-moment point against what they span (Vukobratović & Borovac 2004). */
import { positionOf, rotateBack, vec3 } from '../linear';
import type { Wrench } from './dynamics';

export type Point = readonly [x: number, y: number];

/** Corners of what points span, counter-clockwise (monotone chain: Andrew 1979); fewer than three where they span no area. */
export function spanned(points: readonly Point[]): Point[] {
  const sorted = [...points].sort(([ax, ay], [bx, by]) => ax - bx || ay - by);
  const half = (list: readonly Point[]): Point[] => {
    const chain: Point[] = [];
    for (const point of list) {
      while (chain.length > 1 && turns(chain[chain.length - 2], chain[chain.length - 1], point) <= 0) chain.pop();
      chain.push(point);
    }
    return chain.slice(0, -1);
  };
  return [...half(sorted), ...half([...sorted].reverse())];
}
/** Twice the area of a triangle, positive where it is walked counter-clockwise. */
const turns = (a: Point, b: Point, c: Point): number => (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]);

/**
 * Where the ground presses on the base (m, base frame, in the plane of its feet), for what it has to give (world); null where the base is
 * pulled off it. `base`: the world frame of the base.
 */
export function pressedAt(base: Float64Array, { force, moment }: Wrench): Point | null {
  const f = rotateBack(base, force);
  const m = rotateBack(base, vec3.sub(moment, vec3.cross(positionOf(base), force)));
  return f[2] > 1e-9 ? [-m[1] / f[2], m[0] / f[2]] : null;
}

/**
 * How far (m) the ground presses inside what the feet span: the least distance from an edge; negative outside. Null without three feet that
 * span an area, and −Infinity where the base is pulled off the ground.
 */
export function tipMargin(feet: readonly Point[], base: Float64Array, wrench: Wrench): number | null {
  const corners = spanned(feet);
  if (corners.length < 3) return null;
  const at = pressedAt(base, wrench);
  if (!at) return -Infinity;
  return Math.min(
    ...corners.map((a, k) => {
      const b = corners[(k + 1) % corners.length];
      return turns(a, b, at) / Math.hypot(b[0] - a[0], b[1] - a[1]);
    }),
  );
}
