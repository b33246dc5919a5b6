/** The page of a drawing: its view of the world, grid and ground. */
import {
  forward,
  framesInto,
  kinematicsSpace,
  recogniseTurnAndPlanar,
  toolInto,
  type PlanarArm,
} from '../kinematics';
import { apply, axisOf, mul, positionOf, rotate, STRIDE, vec3, type Vec3 } from '../linear';
import { frameToSi, TURNING, type Mechanism } from '../mechanism';
import type { Obstacle, Hardware } from '../rig';
import { formatNumber } from '../units/quantity';
import type { DrawingInput } from './input';
import { depthOf, toPage, type View, type ViewKind } from './project';
import { isMapIn, mapCorners } from './reach-map';
import { group, line, path, text, type Shape } from './shapes';
import { bodyPoints, ROD_MM } from './solids';

export const MM = 1000;

/** Whether a point lies in the drawn plane, within `slack` m; everything does in plan. */
export const isInPlane = (view: View, p: Vec3, slack: number): boolean =>
  view.kind === 'plan' || Math.abs(depthOf(view, p)) <= slack;

export const mm = (v: readonly number[]): Vec3 => [v[0] / MM, v[1] / MM, v[2] / MM];

/** World frame of what stands around: on the world, or carried by the base. */
export const obstacleFrame = (mechanism: Mechanism, obstacle: Obstacle): Float64Array =>
  obstacle.fixedTo === 'base' ? mul(mechanism.base, frameToSi(obstacle)) : frameToSi(obstacle);

/** The tools' paths that are a base turn with a planar chain; found once a drawing. */
export const planarArms = (mechanism: Mechanism): PlanarArm[] =>
  mechanism.tools.flatMap((tool) => recogniseTurnAndPlanar(mechanism, tool) ?? []);
/** Whether the base turns about the vertical. */
export const isUpright = (arm: PlanarArm): boolean => Math.abs(arm.a0[2]) >= 0.999;

/** How many poses are looked at to see what room an arm needs. */
const POSES = 40;
const GOLDEN = 0.618033988749895;

export interface Plane {
  readonly right: Vec3;
  readonly origin: Vec3;
  /** The slot that turns the plane with it; −1 where nothing does. */
  readonly slot: number;
}
const directions: Record<ViewKind, { right: Vec3; up: Vec3 }> = {
  side: { right: [1, 0, 0], up: [0, 0, 1] },
  // Seen from in front: what is on the arm's left is on the page's right.
  front: { right: [0, 1, 0], up: [0, 0, 1] },
  plan: { right: [1, 0, 0], up: [0, 1, 0] },
};

const FORWARD: Plane = { right: [1, 0, 0], origin: [0, 0, 0], slot: -1 };

/**
 * The vertical plane that a side elevation is drawn in: the arm's own, which turns with its base, where every tool hangs
 * on the same upright turn followed by a level axis; else straight along forward.
 */
export function planeOf({ kind, mechanism, q, limb }: DrawingInput): Plane {
  if (kind !== 'side') return { ...FORWARD, right: directions[kind].right };
  const tools = mechanism.tools.filter((tool) => tool.joint.length && (!limb || tool.id === limb));
  if (!tools.length || mechanism.delta) return FORWARD;
  const space = kinematicsSpace(mechanism);
  framesInto(space, mechanism, q);
  const axis = (j: number): Vec3 => axisOf(space.frames, 2, STRIDE * j);
  const first = tools[0].joint.findIndex((j) => mechanism.type[j] === TURNING);
  const turn = tools[0].joint[first];
  if (first < 0 || Math.abs(axis(turn)[2]) < 0.999) return FORWARD;
  if (tools.some((tool) => !tool.joint.includes(turn))) return FORWARD;
  const next = tools[0].joint[first + 1];
  if (next === undefined || mechanism.type[next] !== TURNING || Math.abs(axis(next)[2]) > 0.01) return FORWARD;
  const flat = vec3.unit(vec3.cross(axis(next), [0, 0, 1]));
  if (!flat) return FORWARD;
  // Facing the way the turntable faces.
  const slot = mechanism.slotOfJoint[turn];
  const angle = slot < 0 ? 0 : q[slot] * Math.sign(axis(turn)[2]);
  const ahead = flat[0] * Math.cos(angle) + flat[1] * Math.sin(angle);
  const pivot = positionOf(space.frames, STRIDE * turn);
  return { right: ahead < 0 ? vec3.scale(flat, -1) : flat, origin: [pivot[0], pivot[1], 0], slot };
}

/** A pose with the turn of the plane as it is elsewhere: the page turns with it and stays still. */
function turnedInto({ slot }: Plane, q: Float64Array, as: Float64Array): Float64Array {
  if (slot < 0) return q;
  const turned = q.slice();
  turned[slot] = as[slot];
  return turned;
}
/** Whether all pivots and tips of a pose are on the page. */
export function isOnPage(view: View, mechanism: Mechanism, q: Float64Array): boolean {
  const space = kinematicsSpace(mechanism);
  const tool = new Float64Array(STRIDE);
  framesInto(space, mechanism, q);
  if (space.gap > 0) return true;
  const has = (p: Vec3): boolean => {
    const [x, y] = toPage(view, p);
    return x >= 0 && x <= view.width && y >= 0 && y <= view.height;
  };
  for (let j = 0; j < mechanism.n; j++) if (!has(positionOf(space.frames, STRIDE * j))) return false;
  return mechanism.tools.every((t) => {
    toolInto(tool, 0, mechanism, space, t);
    return has(positionOf(tool));
  });
}

/** Points (m, world) that ought to be on the page. */
function roomOf(input: DrawingInput, plane: Plane): Vec3[] {
  const { rig, mechanism, q } = input;
  const list: Vec3[] = [];
  const space = kinematicsSpace(mechanism);
  const tool = new Float64Array(STRIDE);
  const pose = (values: Float64Array): void => {
    framesInto(space, mechanism, values);
    if (space.gap > 0) return;
    for (let j = 0; j < mechanism.n; j++) list.push(positionOf(space.frames, STRIDE * j));
    for (const t of mechanism.tools) {
      toolInto(tool, 0, mechanism, space, t);
      list.push(positionOf(tool));
    }
    if (mechanism.delta)
      for (let i = 0; i < 3; i++) list.push(apply(space.frames, [mechanism.delta.upperArm, 0, 0], STRIDE * i));
  };
  pose(input.fit === 'pose' ? q : mechanism.home);
  if (input.fit === 'work') for (const worked of input.poses ?? []) pose(turnedInto(plane, worked, mechanism.home));
  else if (input.fit !== 'pose') {
    const trial = q.slice();
    for (let k = 1; k <= POSES; k++) {
      for (let s = 0; s < mechanism.m; s++) {
        // The plane turns with its own slot, so that the page stays still.
        if (s === plane.slot) continue;
        const [low, high] = [mechanism.lower[s], mechanism.upper[s]];
        const share = (k * GOLDEN * (s + 1) + 0.37 * s) % 1;
        trial[s] = Number.isFinite(high - low) ? low + share * (high - low) : mechanism.home[s];
      }
      pose(trial);
    }
  }
  const { base } = rig.mechanism;
  for (const [x, y] of base.feet) list.push(apply(mechanism.base, [x / MM, y / MM, 0]));
  for (const body of base.bodies ?? []) list.push(...bodyPoints(mechanism.base, body));
  const { joints } = forward(mechanism, input.fit === 'pose' ? q : mechanism.home);
  for (const joint of rig.mechanism.joints) {
    const frame = joints.get(joint.id)!;
    for (const body of joint.link?.bodies ?? []) list.push(...bodyPoints(frame, body));
    const slot = mechanism.slotOf.get(joint.id);
    if (joint.type !== 'prismatic' || slot === undefined || (joint.link?.radiusMm || 20) >= ROD_MM) continue;
    const travel = mechanism.upper[slot] - mechanism.lower[slot] + 0.03;
    const axis = vec3.unit(rotate(frame, joint.axis))!;
    if (Number.isFinite(travel)) list.push(vec3.sub(positionOf(frame), vec3.scale(axis, travel)));
  }
  const foot = positionOf(mechanism.base);
  list.push([foot[0], foot[1], 0]);
  // A hanging delta's plate is over its motors' axes.
  if (mechanism.delta) list.push(apply(mechanism.base, [0, 0, 0.024]));
  if (input.fit !== 'pose' || !input.bare) {
    for (const obstacle of rig.obstacles) {
      if (obstacle.kind === 'plane') continue;
      const c = obstacleFrame(mechanism, obstacle);
      const r =
        (obstacle.kind === 'box' || obstacle.kind === 'rack' ? obstacle.sizeMm[0] / 2 : radiusOf(obstacle)) / MM;
      // In the turning plane it may come round to either side.
      list.push(
        [c[9] + r, c[10], c[11]],
        [c[9] - r, c[10], c[11]],
        [c[9], c[10] + r, c[11]],
        [c[9], c[10] - r, c[11]],
      );
    }
    for (const spot of rig.spots) list.push(mm(spot.xyzMm));
  }
  return list;
}
const radiusOf = (obstacle: Extract<Obstacle, { kind: 'cylinder' | 'jar' }>): number =>
  obstacle.kind === 'jar' ? obstacle.innerRadiusMm + obstacle.wallMm : obstacle.radiusMm;

/** Room (px) that a drawing has between its margins at the least. */
const LEAST_ROOM = 16;
/** How much below the ground is shown at most (m). */
const BELOW = 0.02;

/** The view that has all of the arm's room on the page, and a reach map that lies in it. */
export function viewOf(input: DrawingInput, plane: Plane): View {
  const { mechanism, kind, width, height } = input;
  const { up } = directions[kind];
  const { right } = plane;
  const map = input.layers?.map?.map;
  const corners = map && isMapIn(input, map) ? mapCorners(right, map) : [];
  const flat = { right, up, origin: plane.origin, scale: 1, cx: 0, cy: 0 };
  let [x0, x1, y0, y1] = [Infinity, -Infinity, Infinity, -Infinity];
  for (const p of [...roomOf(input, plane), ...corners]) {
    const [x, y] = toPage(flat, p);
    // Things beside a turning plane come round to it: count their distance from its axis.
    const out = kind === 'side' && plane.slot >= 0 ? Math.hypot(p[0] - plane.origin[0], p[1] - plane.origin[1]) : x;
    x0 = Math.min(x0, x);
    x1 = Math.max(x1, out, x);
    y0 = Math.min(y0, -y);
    y1 = Math.max(y1, -y);
  }
  // Poses that would go through the ground are no reason to show what is below it.
  const ground = kind === 'plan' ? -Infinity : Math.min(0, positionOf(mechanism.base)[2]) - BELOW;
  y0 = Math.max(y0, ground);
  const [room, tall] = [x1 - x0, y1 - y0];
  const [fromX, toX, fromY, toY] = [x0 - room, x1 + room, Math.max(ground, y0 - tall), y1 + tall];
  for (const p of input.also ?? []) {
    const [x, y] = toPage(flat, p);
    x0 = Math.min(x0, Math.max(x, fromX));
    x1 = Math.max(x1, Math.min(x, toX));
    y0 = Math.min(y0, Math.max(-y, fromY));
    y1 = Math.max(y1, Math.min(-y, toY));
  }
  if (input.whole) for (const p of corners) y0 = Math.min(y0, -toPage(flat, p)[1]);
  if (!Number.isFinite(x1 - x0)) [x0, x1, y0, y1] = [-0.1, 0.1, 0, 0.2];
  const least = 0.08;
  const [w, h] = [Math.max(least, x1 - x0), Math.max(least, y1 - y0)];
  // Room for bodies, dimensions, the words along the edges.
  const pad = input.bare ? 22 : 58;
  const foot = input.bare ? 16 : kind === 'plan' ? 40 : 46;
  const head = input.bare ? 24 : 64;
  // A page that is smaller than its margins has a scale all the same.
  const [wide, high] = [Math.max(LEAST_ROOM, width - 2 * pad), Math.max(LEAST_ROOM, height - head - foot)];
  const scale = Math.min(wide / w, high / h);
  const slackY = high - h * scale;
  return {
    kind,
    right,
    up,
    origin: plane.origin,
    scale,
    cx: width / 2 - ((x0 + x1) / 2) * scale,
    cy: kind === 'plan' ? head + slackY / 2 + y1 * scale : height - foot - slackY * 0.4 + y0 * scale,
    width,
    height,
  };
}

const words: Record<ViewKind, readonly [string, string]> = {
  side: ['up ↑ mm', 'outward →'],
  front: ['up ↑ mm', 'left of the arm →'],
  plan: ['left ↑ mm', 'forward →'],
};

export function grid(view: View, bare = false): Shape[] {
  const step = [0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1].find((s) => s * view.scale >= 56) ?? 2;
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
    if (!bare && k !== 0 && y < view.height - 24 && y > 40)
      shapes.push(text('grid-label', [4, y - 3], formatNumber(k * step * MM, 0)));
  }
  const [up, right] = words[view.kind];
  return [
    group('grid-lines', shapes, { 'aria-hidden': 'true' }),
    ...(bare
      ? []
      : [
          text('axis-word', [12, 22], up),
          text('axis-word', [view.width - 12, view.height - 22], right, { 'text-anchor': 'end' }),
        ]),
  ];
}

/** The ground (z = 0), hatched below. */
export function ground(view: View, rig: Hardware, bare = false): Shape[] {
  const y = toPage(view, [0, 0, 0])[1];
  if (y > view.height) return [];
  let hatch = '';
  for (let x = 4; x < view.width; x += 14) hatch += `M${x} ${(y + 9).toFixed(1)}l8 -9`;
  return [
    path('hatch', hatch),
    line('ground', [0, y], [view.width, y]),
    ...(bare ? [] : [text('axis-word', [12, y + 22], rig.mechanism.base.feet.length ? 'bench top' : 'ground')]),
  ];
}
