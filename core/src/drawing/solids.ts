/** Simple solids and bars as outlines on the page. */
import { apply, mul, vec3, type Vec3 } from '../linear';
import { frameToSi } from '../mechanism';
import type { Body } from '../rig';
import { toPage, type View } from './project';
import { circle, hull, path, polygon, taperD, type Shape } from './shapes';

const MM = 1000;
/** A slide thinner than this (mm) is drawn as a rod that moves; a thicker one as a carriage on a track. */
export const ROD_MM = 14;
const ROUND = Array.from({ length: 32 }, (_, k) => (k / 32) * 2 * Math.PI);
const LATITUDES = Array.from({ length: 15 }, (_, k) => Math.sin(((k - 7) / 8) * (Math.PI / 2)));

/** Points on a solid's surface whose hull is its outline from any side (m, world); `frame` is its link's. */
export function bodyPoints(frame: Float64Array, body: Body): Vec3[] {
  const own = mul(frame, frameToSi({ xyzMm: body.centreMm, rpyDeg: body.rpyDeg }));
  const [a, b, c] = body.sizeMm.map((v) => v / 2 / MM);
  const local: Vec3[] = [];
  switch (body.kind) {
    case 'box':
      for (const x of [-a, a]) for (const y of [-b, b]) for (const z of [-c, c]) local.push([x, y, z]);
      break;
    case 'ball':
      for (const t of ROUND)
        for (const lift of LATITUDES) {
          const r = Math.sqrt(1 - lift * lift);
          local.push([a * r * Math.cos(t), b * r * Math.sin(t), c * lift]);
        }
      local.push([0, 0, -c], [0, 0, c]);
      break;
    case 'cylinder':
      for (const t of ROUND) for (const z of [-c, c]) local.push([a * Math.cos(t), b * Math.sin(t), z]);
      break;
    case 'cone':
      for (const t of ROUND) local.push([a * Math.cos(t), b * Math.sin(t), -c]);
      local.push([0, 0, c]);
  }
  return local.map((p) => apply(own, p));
}

export function bodyShape(view: View, frame: Float64Array, body: Body): Shape {
  const cls = `link body ${body.tone}`;
  const [a, b, c] = body.sizeMm;
  if (body.kind === 'ball' && a === b && b === c) {
    const own = mul(frame, frameToSi({ xyzMm: body.centreMm, rpyDeg: body.rpyDeg }));
    return circle(cls, toPage(view, [own[9], own[10], own[11]]), (a / 2 / MM) * view.scale);
  }
  return polygon(cls, hull(bodyPoints(frame, body).map((p) => toPage(view, p))));
}

/** A bar with round ends between two points (m, world), radii in m. */
export const bar = (view: View, cls: string, a: Vec3, ra: number, b: Vec3, rb: number): Shape =>
  path(cls, taperD(toPage(view, a), ra * view.scale, toPage(view, b), rb * view.scale));

/** The hull of points of the world as a polygon. */
export const outline = (view: View, cls: string, points: readonly Vec3[]): Shape =>
  polygon(cls, hull(points.map((p) => toPage(view, p))));

export const middle = (points: readonly Vec3[]): Vec3 =>
  vec3.scale(
    points.reduce((sum, p) => vec3.add(sum, p), [0, 0, 0] as Vec3),
    1 / Math.max(1, points.length),
  );
