/** The page of a drawing: its view of the world, grid and ground. */
import { forward, recogniseTurnAndPlanar, type PlanarArm } from '../../kinematics';
import { positionOf, vec3, type Vec3 } from '../../linear';
import type { Mechanism } from '../../mechanism';
import type { Rig } from '../../rig';
import { formatNumber } from '../../units/quantity';
import type { DrawingInput } from './input';
import { toPage, type View } from './project';
import { group, line, path, text, type Shape } from './shapes';

export const MM = 1000;

/** Whether a point lies in the drawn plane, within `slack` m; everything does in plan. */
export const isInPlane = (view: View, p: Vec3, slack: number): boolean =>
  view.kind === 'plan' || Math.abs(vec3.dot(vec3.sub(p, view.origin), vec3.cross(view.right, view.up))) <= slack;

export const mm = (v: readonly number[]): Vec3 => [v[0] / MM, v[1] / MM, v[2] / MM];

/** Everything that ought to be on the page, as distances from the base: how far out, how high, how far behind. */
function extent(rig: Rig, mechanism: Mechanism): { out: number; up: number; around: number } {
  let reach = 0;
  for (const tool of mechanism.tools) {
    let sum = Math.hypot(tool.local[9], tool.local[10], tool.local[11]);
    for (let j = tool.parent; j >= 0; j = mechanism.parent[j])
      if (mechanism.parent[j] >= 0) sum += Math.hypot(...[9, 10, 11].map((k) => mechanism.local[12 * j + k]));
    reach = Math.max(reach, sum);
  }
  if (!mechanism.tools.length)
    for (let j = 0; j < mechanism.n; j++) reach += Math.hypot(...[9, 10, 11].map((k) => mechanism.local[12 * j + k]));
  reach = Math.max(reach, 0.1);
  const low = mechanism.n ? positionOf(forward(mechanism, mechanism.home).joints.get(mechanism.ids[0])!)[2] : 0;
  const far = Math.max(
    0,
    ...rig.obstacles.map((o) => Math.hypot(o.xyzMm[0], o.xyzMm[1]) / MM + 0.05),
    ...rig.spots.map((s) => Math.hypot(s.xyzMm[0], s.xyzMm[1]) / MM),
  );
  return { out: Math.max(reach, far), up: Math.max(0.15, low + reach), around: Math.max(reach, far) };
}

/** The tools' paths that are a base turn with a planar chain; found once a drawing. */
export const planarArms = (mechanism: Mechanism): PlanarArm[] =>
  mechanism.tools.flatMap((tool) => recogniseTurnAndPlanar(mechanism, tool) ?? []);
/** Whether the base turns about the vertical. */
export const isUpright = (arm: PlanarArm): boolean => Math.abs(arm.a0[2]) >= 0.999;

export function viewOf(
  { rig, mechanism, q, kind, width, height }: DrawingInput,
  planars: readonly PlanarArm[],
): View {
  const { out, up, around } = extent(rig, mechanism);
  const base = positionOf(mechanism.base);
  if (kind === 'plan') {
    // Half the circle behind the arm is seldom used: show a little of it.
    const back = around * 0.55;
    const scale = Math.min((width - 60) / (around + back), (height - 70) / (2 * around));
    const x0 = (width - (around + back) * scale) / 2 + back * scale;
    return { kind, right: [1, 0, 0], up: [0, 1, 0], origin: base, scale, cx: x0, cy: height / 2 + 8, width, height };
  }
  const across = planeAzimuth(planars, q);
  const back = Math.max(0.13, out * 0.34);
  const below = Math.min(0.12, up * 0.16);
  const scale = Math.min((width - 50) / (out + back), (height - 78) / (up + below));
  return {
    kind,
    right: [Math.cos(across), Math.sin(across), 0],
    up: [0, 0, 1],
    origin: base,
    scale,
    cx: 26 + back * scale + Math.max(0, (width - 52 - (out + back) * scale) / 2),
    cy: height - 22 - below * scale - Math.max(0, (height - 78 - (up + below) * scale) / 3),
    width,
    height,
  };
}

/** Azimuth (rad) of the arm's plane: where the base turn faces, or forward for other kinds of arm. */
function planeAzimuth(planars: readonly PlanarArm[], q: Float64Array): number {
  const planar = planars.find(isUpright);
  return planar ? Math.atan2(planar.e1[1], planar.e1[0]) + q[planar.slots[0]] * Math.sign(planar.a0[2]) : 0;
}

export function grid(view: View, bare = false): Shape[] {
  const step = [0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1].find((s) => s * view.scale >= 56) ?? 1;
  const shapes: Shape[] = [];
  const left = -Math.floor(view.cx / (step * view.scale));
  for (let k = left; view.cx + k * step * view.scale <= view.width; k++) {
    const x = view.cx + k * step * view.scale;
    shapes.push(line(k === 0 ? 'grid axis' : 'grid', [x, 0], [x, view.height]));
    if (!bare && x > 14 && x < view.width - 40)
      shapes.push(text('grid-label', [x + 3, view.height - 6], formatNumber(k * step * MM, 0)));
  }
  const bottom = -Math.floor((view.height - view.cy) / (step * view.scale));
  for (let k = bottom; view.cy - k * step * view.scale >= 0; k++) {
    const y = view.cy - k * step * view.scale;
    shapes.push(line(k === 0 ? 'grid axis' : 'grid', [0, y], [view.width, y]));
    if (!bare && k !== 0 && y < view.height - 24 && y > 24)
      shapes.push(text('grid-label', [4, y - 3], formatNumber(k * step * MM, 0)));
  }
  const words: Shape[] = bare
    ? []
    : view.kind === 'side'
      ? [
          text('axis-word', [12, 22], 'up ↑ mm'),
          text('axis-word', [view.width - 12, view.height - 22], 'outward →', { 'text-anchor': 'end' }),
        ]
      : [
          text('axis-word', [12, 22], 'left ↑ mm'),
          text('axis-word', [view.width - 12, view.height - 22], 'forward →', { 'text-anchor': 'end' }),
        ];
  return [group('grid-lines', shapes, { 'aria-hidden': 'true' }), ...words];
}

export function ground(view: View, bare = false): Shape[] {
  const y = toPage(view, [0, 0, 0])[1];
  let hatch = '';
  for (let x = 4; x < view.width; x += 14) hatch += `M${x} ${y + 9}l8 -9`;
  return [
    path('hatch', hatch),
    line('ground', [0, y], [view.width, y]),
    ...(bare ? [] : [text('axis-word', [12, y + 22], 'bench top')]),
  ];
}
