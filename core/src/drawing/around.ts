/** What stands around the arm: obstacles and spots. */
import { apply, positionOf } from '../linear';
import type { Mechanism } from '../mechanism';
import type { Obstacle } from '../rig';
import { isInPlane, MM, mm, obstacleFrame } from './page';
import { toPage, type View } from './project';
import { circle, group, hull, path, polygon, polyline, text, type Pt, type Shape } from './shapes';

export function drawObstacle(view: View, mechanism: Mechanism, obstacle: Obstacle, bare = false): Shape[] {
  const frame = obstacleFrame(mechanism, obstacle);
  const page = (x: number, y: number, z: number): Pt => toPage(view, apply(frame, mm([x, y, z])));
  if (obstacle.kind === 'plane') return drawPlane(page, obstacle, bare);
  const outline = (a: number, b: number, h: number, low = 0): Pt[] =>
    hull([-a / 2, a / 2].flatMap((x) => [-b / 2, b / 2].flatMap((y) => [low, h].map((z) => page(x, y, z)))));
  // A solid beside the drawn plane is behind it: drawn fainter.
  const half =
    (obstacle.kind === 'box' || obstacle.kind === 'rack'
      ? Math.hypot(obstacle.sizeMm[0], obstacle.sizeMm[1]) / 2
      : obstacle.kind === 'jar'
        ? obstacle.innerRadiusMm
        : obstacle.radiusMm) / MM;
  const inPlane = isInPlane(view, positionOf(frame), half);
  const cls = inPlane ? 'obstacle' : 'obstacle behind';
  const label = (p: Pt): Shape =>
    text('obstacle-label', p, inPlane && !bare ? obstacle.name : '', { 'text-anchor': 'middle' });
  if (obstacle.kind === 'box') {
    const points = outline(obstacle.sizeMm[0], obstacle.sizeMm[1], obstacle.sizeMm[2]);
    return [polygon(cls, points), label([page(0, 0, 0)[0], Math.max(...points.map((p) => p[1])) + 15])];
  }
  if (obstacle.kind === 'rack') {
    const [a, b, h] = obstacle.sizeMm;
    const points = outline(a, b, h * 0.3);
    const pitch = a / (obstacle.slots + 1);
    const walls = Array.from({ length: obstacle.slots + 1 }, (_, k) => {
      const x = -a / 2 + pitch * (k + 0.5);
      return polygon(
        cls,
        hull([x - 1.5, x + 1.5].flatMap((u) => [-b / 2, b / 2].flatMap((v) => [0, h].map((z) => page(u, v, z))))),
      );
    });
    return [...walls, polygon(cls, points), label([page(0, 0, 0)[0], Math.max(...points.map((p) => p[1])) + 15])];
  }
  const c = page(0, 0, 0);
  const radius = obstacle.kind === 'jar' ? obstacle.innerRadiusMm + obstacle.wallMm : obstacle.radiusMm;
  const r = (radius / MM) * view.scale;
  if (view.kind === 'plan') {
    const rings = [circle(cls, c, r)];
    if (obstacle.kind === 'jar') rings.push(circle(`${cls} glaze`, c, (obstacle.innerRadiusMm / MM) * view.scale));
    return [...rings, label([c[0], c[1] + r + 14])];
  }
  const h = (obstacle.heightMm / MM) * view.scale;
  if (obstacle.kind === 'cylinder')
    return [
      polygon(cls, [
        [c[0] - r, c[1]],
        [c[0] - r, c[1] - h],
        [c[0] + r, c[1] - h],
        [c[0] + r, c[1]],
      ]),
      label([c[0], c[1] + 15]),
    ];
  const wall = Math.max(1.5, (obstacle.wallMm / MM) * view.scale);
  const fill = (obstacle.fillMm / MM) * view.scale;
  const inner = r - wall;
  return [
    polygon(`${cls} glaze`, [
      [c[0] - inner, c[1] - wall],
      [c[0] - inner, c[1] - fill],
      [c[0] + inner, c[1] - fill],
      [c[0] + inner, c[1] - wall],
    ]),
    polygon(cls, [
      [c[0] - r, c[1]],
      [c[0] - r, c[1] - h],
      [c[0] - inner, c[1] - h],
      [c[0] - inner, c[1] - wall],
      [c[0] + inner, c[1] - wall],
      [c[0] + inner, c[1] - h],
      [c[0] + r, c[1] - h],
      [c[0] + r, c[1]],
    ]),
    label([c[0], c[1] + 15]),
  ];
}

/** A keep-out plane: a line with hatching on the side kept out; from above its outline where it has one. */
function drawPlane(
  page: (x: number, y: number, z: number) => Pt,
  obstacle: Extract<Obstacle, { kind: 'plane' }>,
  bare: boolean,
): Shape[] {
  const [a, b] = obstacle.sizeMm ?? [4000, 4000];
  const corners = [-1, 1].flatMap((i) => [-1, 1].map((j) => page((i * a) / 2, (j * b) / 2, 0)));
  const edge = hull(corners);
  const spread = (k: 0 | 1): number => Math.max(...edge.map((p) => p[k])) - Math.min(...edge.map((p) => p[k]));
  const label = text('obstacle-label', page(0, 0, 0), bare ? '' : obstacle.name, {
    'text-anchor': 'middle',
    dy: '-0.5em',
  });
  if (Math.min(spread(0), spread(1)) > 3)
    return obstacle.sizeMm ? [polygon('obstacle behind', edge), label] : [label];
  const [from, to] = [page(-a / 2, -b / 2, 0), page(a / 2, b / 2, 0)];
  const below = page(0, 0, -1);
  const at = page(0, 0, 0);
  const down: Pt = [below[0] - at[0], below[1] - at[1]];
  const k = 9 / Math.max(1e-9, Math.hypot(...down));
  const n = Math.min(400, Math.floor(Math.hypot(to[0] - from[0], to[1] - from[1]) / 12));
  let d = '';
  for (let i = 0; i < n; i++) {
    const [x, y] = [from[0] + ((to[0] - from[0]) * i) / n, from[1] + ((to[1] - from[1]) * i) / n];
    d += `M${x.toFixed(1)} ${y.toFixed(1)}l${(down[0] * k - 5).toFixed(1)} ${(down[1] * k).toFixed(1)}`;
  }
  return [path('hatch', d), polyline('ground', [from, to]), label];
}

export const spotMark = ([x, y]: Pt, name: string): Shape =>
  group('spot', [
    path('spot-cross', `M${x - 5} ${y}H${x + 5}M${x} ${y - 5}V${y + 5}`),
    text('spot-label', [x + 8, y - 6], name),
  ]);
