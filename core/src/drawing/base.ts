/** The base: feet, plate and column, wheels, solids, the stand of a hanging delta. */
import { apply, axisOf, positionOf, rotate, vec3, type Vec3 } from '../linear';
import type { Mechanism } from '../mechanism';
import type { Hardware, TreeDoc } from '../rig';
import { MM } from './page';
import type { Layer } from './links';
import { depthOf, toPage, type View } from './project';
import { circle, hull, line, path, polygon, type Pt, type Shape } from './shapes';
import { bodyPoints, bodyShape, middle, outline } from './solids';

/** Radius (m) of the stand's ring round a hanging delta. */
export const standRadius = (delta: NonNullable<Mechanism['delta']>): number =>
  delta.radius + delta.platformRadius + delta.upperArm * 0.35;

export function drawBase(view: View, rig: Hardware, doc: TreeDoc, mechanism: Mechanism): Shape[] {
  const { feet, bodies = [], wheels = [] } = rig.mechanism.base;
  const shapes: Shape[] = [];
  const at = (x: number, y: number, z: number): Vec3 => apply(mechanism.base, [x, y, z]);
  const tilted = axisOf(mechanism.base, 2)[2] < 0.999;
  if (tilted && view.kind !== 'plan') shapes.push(...mountingFace(view, mechanism));
  if (mechanism.delta) shapes.push(...stand(view, mechanism));
  for (const { xyzMm, radiusMm, widthMm } of wheels) {
    const [x, y, z] = xyzMm.map((v) => v / MM);
    const r = radiusMm / MM;
    const w = widthMm / 2 / MM;
    if (view.kind === 'side') shapes.push(circle('link body dark', toPage(view, at(x, y, z)), r * view.scale));
    else
      shapes.push(
        outline(
          view,
          'link body dark',
          [-r, r].flatMap((a) => [-w, w].flatMap((b) => [-r, r].map((c) => at(x + a, y + b, z + c)))),
        ),
      );
  }
  const first = doc.joints.find((joint) => joint.parent === null);
  if (feet.length > 2) {
    const corners = feet.map(([x, y]) => at(x / MM, y / MM, 0));
    if (view.kind === 'plan') shapes.push(polygon('link base', hull(corners.map((p) => toPage(view, p)))));
    else if (bodies.length || first?.type === 'prismatic')
      shapes.push(outline(view, 'link base', [...corners, ...feet.map(([x, y]) => at(x / MM, y / MM, 0.012))]));
    else shapes.push(...pedestal(view, mechanism, corners, first ? first.origin.xyzMm[2] / MM : 0.05));
  } else if (!feet.length && !bodies.length && !wheels.length && !mechanism.delta && first && view.kind !== 'plan')
    shapes.push(...pedestal(view, mechanism, [at(-0.045, 0, 0), at(0.045, 0, 0)], first.origin.xyzMm[2] / MM));
  return shapes;
}

/** The base's own solids, to be stacked with the links by how far in front they are. */
export const baseLayers = (view: View, rig: Hardware, mechanism: Mechanism): Layer[] =>
  (rig.mechanism.base.bodies ?? []).map((body) => ({
    depth: depthOf(view, middle(bodyPoints(mechanism.base, body))),
    shapes: [bodyShape(view, mechanism.base, body)],
  }));

/** A splayed foot with a column up to the first joint, drawn across the base's own upright as seen on the page. */
function pedestal(view: View, mechanism: Mechanism, corners: readonly Vec3[], height: number): Shape[] {
  const foot = toPage(view, positionOf(mechanism.base));
  const top = toPage(view, apply(mechanism.base, [0, 0, height]));
  const h = Math.hypot(top[0] - foot[0], top[1] - foot[1]);
  if (h < 4) return [];
  const up: Pt = [(top[0] - foot[0]) / h, (top[1] - foot[1]) / h];
  const across: Pt = [-up[1], up[0]];
  const shares = corners.map((p) => {
    const [x, y] = toPage(view, p);
    return (x - foot[0]) * across[0] + (y - foot[1]) * across[1];
  });
  const [low, high] = [Math.min(...shares), Math.max(...shares)];
  const w = Math.min(Math.max(8, (high - low) * 0.26), 0.034 * view.scale);
  const p = (a: number, b: number): Pt => [foot[0] + across[0] * a + up[0] * b, foot[1] + across[1] * a + up[1] * b];
  return [
    polygon('link base', [
      p(low, 0),
      p(low, 0.16 * h),
      p(-w * 1.25, 0.3 * h),
      p(-w, h - 4),
      p(w, h - 4),
      p(w * 1.25, 0.3 * h),
      p(high, 0.16 * h),
      p(high, 0),
    ]),
    polygon('servo', [p(-w * 0.72, h * 0.42), p(-w * 0.72, h - 6), p(w * 0.72, h - 6), p(w * 0.72, h * 0.42)]),
  ];
}

/** What a wall or ceiling base is fixed to: a hatched line across the base's own plane. */
function mountingFace(view: View, mechanism: Mechanism): Shape[] {
  const c = toPage(view, positionOf(mechanism.base));
  const tip = toPage(view, apply(mechanism.base, [0, 0, 0.1]));
  const d = Math.hypot(tip[0] - c[0], tip[1] - c[1]);
  if (d < 2) return [];
  const up: Pt = [(tip[0] - c[0]) / d, (tip[1] - c[1]) / d];
  const half = 0.16 * view.scale;
  const at = (a: number, b: number): Pt => [c[0] - up[1] * a + up[0] * b, c[1] + up[0] * a + up[1] * b];
  let hatch = '';
  for (let a = -half; a < half; a += 12) {
    const [p, q] = [at(a, -9), at(a + 8, 0)];
    hatch += `M${p[0].toFixed(1)} ${p[1].toFixed(1)}L${q[0].toFixed(1)} ${q[1].toFixed(1)}`;
  }
  return [path('hatch', hatch), line('ground', at(-half, 0), at(half, 0))];
}

/** Three posts and a ring that carry a hanging delta's plate. */
function stand(view: View, { base, delta }: Mechanism): Shape[] {
  if (!delta) return [];
  const r = standRadius(delta);
  const ring = Array.from({ length: 3 }, (_, i): Vec3 => {
    // Posts stand between the arms.
    const [x, y] = [-delta.cos[i] * r, -delta.sin[i] * r];
    return apply(base, [x, y, 0]);
  });
  const low = (p: Vec3): Vec3 => [p[0], p[1], 0];
  const shapes: Shape[] = [];
  if (view.kind !== 'plan' && positionOf(base)[2] > 0.02)
    for (const p of ring)
      shapes.push(
        outline(
          view,
          'link post',
          [p, low(p)].flatMap((q) =>
            [-0.006, 0.006].flatMap((d) => [vec3.add(q, [d, 0, 0]), vec3.add(q, [0, d, 0])]),
          ),
        ),
      );
  const plate = ring.map((p) => vec3.add(p, rotate(base, [0, 0, 0.012])));
  const motors = Array.from({ length: 3 }, (_, i): Vec3 => {
    const out = delta.radius + delta.platformRadius;
    return apply(base, [delta.cos[i] * out, delta.sin[i] * out, 0.012]);
  });
  shapes.push(
    outline(view, 'link base', [
      ...plate,
      ...motors,
      ...[...plate, ...motors].map((p) => vec3.add(p, rotate(base, [0, 0, 0.01]))),
    ]),
  );
  return shapes;
}
