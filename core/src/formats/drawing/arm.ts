/**
 * Side elevation and plan of a rig in a pose, like a dimensioned drawing. The side view looks square onto the arm's
 * own plane (it turns with the base), so that lengths in it are true; the plan looks down with forward to the right.
 */
import { forward, recogniseTurnAndPlanar } from '../../kinematics';
import { apply, axisOf, fromXyzRpy, positionOf, vec3, type Vec3 } from '../../linear';
import { isMoving, type MechanismDoc, type Obstacle, type Payload, type Rig, type Tool } from '../../rig';
import type { Mechanism } from '../../mechanism';
import { formatNumber } from '../../units/quantity';
import { mark } from './marks';
import { toPage, type View } from './project';
import type { ReachRegion } from './reach-outline';
import {
  arcD,
  circle,
  group,
  hull,
  line,
  markup,
  path,
  polygon,
  polyline,
  polyD,
  taperD,
  text,
  type Pt,
  type Shape,
} from './shapes';

export interface DrawingInput {
  readonly rig: Rig;
  readonly mechanism: Mechanism;
  /** The pose, slots in SI. */
  readonly q: Float64Array;
  readonly kind: 'side' | 'plan';
  readonly width: number;
  readonly height: number;
  readonly dimensions?: boolean;
  readonly selected?: string | null;
  /** A second pose in outline. */
  readonly ghost?: Float64Array | null;
  readonly target?: Vec3 | null;
  /** Words beside the target, e.g. "38 mm short". */
  readonly targetNote?: string;
  readonly region?: ReachRegion | null;
  readonly regionLabel?: string;
  /** Path of the tool point (world, m), x y z after one another. */
  readonly trace?: Float64Array | null;
  /** World frame of the tool that each payload stands in, by payload id (see routine/payloads). */
  readonly payloads?: ReadonlyMap<string, Float64Array>;
  readonly spots?: boolean;
  /** Without grid numbers, marks and names: for a thumbnail. */
  readonly bare?: boolean;
}

export interface Drawing {
  readonly width: number;
  readonly height: number;
  readonly view: View;
  readonly shapes: readonly Shape[];
  readonly title: string;
}

const MM = 1000;

export function drawRig(input: DrawingInput): Drawing {
  const view = viewOf(input);
  const shapes: Shape[] = [];
  shapes.push(...grid(view, input.bare));
  if (input.region && view.kind === 'side') shapes.push(...region(view, input.region, input));
  if (view.kind === 'plan') shapes.push(...planReach(view, input));
  shapes.push(...input.rig.obstacles.flatMap((obstacle) => drawObstacle(view, obstacle, input.bare)));
  if (view.kind === 'side') shapes.push(...ground(view, input.bare));
  if (input.trace) shapes.push(trace(view, input.trace));
  if (input.ghost) shapes.push(group('ghost', arm(view, { ...input, q: input.ghost, dimensions: false }, true)));
  if (input.spots !== false)
    shapes.push(
      ...input.rig.spots.map((spot) =>
        spotMark(toPage(view, mm(spot.xyzMm)), isInPlane(view, mm(spot.xyzMm), 0.03) ? spot.name : ''),
      ),
    );
  shapes.push(group('arm', arm(view, input, false)));
  if (input.target) shapes.push(targetMark(toPage(view, input.target), input.targetNote));
  return {
    width: input.width,
    height: input.height,
    view,
    shapes,
    title: `${input.rig.name}, ${view.kind === 'side' ? 'side elevation' : 'plan'}`,
  };
}

/** Whether a point lies in the drawn plane, within `slack` m; everything does in plan. */
const isInPlane = (view: View, p: Vec3, slack: number): boolean =>
  view.kind === 'plan' || Math.abs(vec3.dot(vec3.sub(p, view.origin), vec3.cross(view.right, view.up))) <= slack;

const mm = (v: readonly number[]): Vec3 => [v[0] / MM, v[1] / MM, v[2] / MM];

// ── The page ──────────────────────────────────────────────────────────────────────────────────────────────────────

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

function viewOf({ rig, mechanism, q, kind, width, height }: DrawingInput): View {
  const { out, up, around } = extent(rig, mechanism);
  const base = positionOf(mechanism.base);
  if (kind === 'plan') {
    // Half the circle behind the arm is seldom used: show a little of it.
    const back = around * 0.55;
    const scale = Math.min((width - 60) / (around + back), (height - 70) / (2 * around));
    const x0 = (width - (around + back) * scale) / 2 + back * scale;
    return { kind, right: [1, 0, 0], up: [0, 1, 0], origin: base, scale, cx: x0, cy: height / 2 + 8, width, height };
  }
  const across = planeAzimuth(mechanism, q);
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
export function planeAzimuth(mechanism: Mechanism, q: Float64Array): number {
  for (const tool of mechanism.tools) {
    const planar = recogniseTurnAndPlanar(mechanism, tool);
    if (!planar || Math.abs(planar.a0[2]) < 0.999) continue;
    return Math.atan2(planar.e1[1], planar.e1[0]) + q[planar.slots[0]] * Math.sign(planar.a0[2]);
  }
  return 0;
}

function grid(view: View, bare = false): Shape[] {
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

function ground(view: View, bare = false): Shape[] {
  const y = toPage(view, [0, 0, 0])[1];
  let hatch = '';
  for (let x = 4; x < view.width; x += 14) hatch += `M${x} ${y + 9}l8 -9`;
  return [
    path('hatch', hatch),
    line('ground', [0, y], [view.width, y]),
    ...(bare ? [] : [text('axis-word', [12, y + 22], 'bench top')]),
  ];
}

// ── The arm ───────────────────────────────────────────────────────────────────────────────────────────────────────

/** Drawn radius (m) of a joint's body: as given, or thinner from joint to joint. */
export function bodyRadius(doc: MechanismDoc, id: string, depth: number): number {
  const joint = doc.joints.find((j) => j.id === id);
  const given = joint?.link?.radiusMm ?? 0;
  return (given > 0 ? given : Math.max(8, 19 - 2.4 * depth)) / MM;
}

function arm(view: View, input: DrawingInput, ghost: boolean): Shape[] {
  const { rig, mechanism, q } = input;
  const { joints, tools } = forward(mechanism, q);
  const doc = rig.mechanism;
  const at = (id: string): Vec3 => positionOf(joints.get(id)!);
  const page = (p: Vec3): Pt => toPage(view, p);
  const depth = new Map<string, number>();
  for (const id of mechanism.ids) {
    const parent = doc.joints.find((j) => j.id === id)!.parent;
    depth.set(id, parent === null ? 0 : depth.get(parent)! + 1);
  }
  const radius = (id: string): number => bodyRadius(doc, id, depth.get(id)!) * view.scale;
  const isJaw = (id: string): boolean => doc.joints.some((j) => j.id === id && isMoving(j) && j.role === 'jaw');
  const shapes: Shape[] = [];

  // Base from the feet up to the first joints.
  if (!ghost)
    shapes.push(
      ...base(
        view,
        rig,
        mechanism,
        doc.joints.filter((j) => j.parent === null).map((j) => at(j.id)),
      ),
    );

  // Links, the far end first so that nearer bodies lie over it.
  for (const id of [...mechanism.ids].reverse()) {
    const joint = doc.joints.find((j) => j.id === id)!;
    if (joint.parent === null || isJaw(id)) continue;
    const a = page(at(joint.parent));
    const b = page(at(id));
    if (Math.hypot(b[0] - a[0], b[1] - a[1]) < 2) continue;
    shapes.push(path('link', taperD(a, radius(joint.parent), b, radius(id) * 0.86)));
  }
  for (const tool of doc.tools)
    if (tool.mounted)
      shapes.push(
        ...drawTool(
          view,
          tools.get(tool.id)!,
          tool.parent ? at(tool.parent) : positionOf(mechanism.base),
          jawOpening(mechanism, tool, q),
          tool.parent ? radius(tool.parent) : 12,
        ),
      );
  for (const [payloadId, frame] of ghost ? [] : (input.payloads ?? [])) {
    const payload = rig.payloads.find((p) => p.id === payloadId);
    if (payload)
      shapes.push(polygon('payload', hull(boxCorners(payload).map((corner) => page(apply(frame, corner))))));
  }
  if (ghost || input.bare) return shapes;

  // Limits and marks of the joints.
  doc.joints.forEach((joint) => {
    const slot = mechanism.slotOf.get(joint.id);
    if (slot === undefined || isJaw(joint.id)) return;
    const selected = input.selected === joint.id;
    if (selected)
      shapes.push(...limitArc(view, mechanism, joint.id, slot, q, joints.get(joint.id)!, radius(joint.id)));
  });
  if (input.dimensions !== false) shapes.push(...dimensionLines(view, doc, mechanism, at, tools, isJaw));
  shapes.push(...jointMarks(view, mechanism, at, isJaw, input.selected ?? null));
  return shapes;
}

function base(view: View, rig: Rig, mechanism: Mechanism, roots: readonly Vec3[]): Shape[] {
  const { feet } = rig.mechanism.base;
  const corners = feet.map(([x, y]) => toPage(view, apply(mechanism.base, [x / MM, y / MM, 0])));
  if (view.kind === 'plan') return corners.length > 2 ? [polygon('link base', hull(corners))] : [];
  const foot = toPage(view, positionOf(mechanism.base));
  const xs = corners.length ? corners.map((c) => c[0]) : [foot[0] - 0.05 * view.scale, foot[0] + 0.05 * view.scale];
  const [left, right] = [Math.min(...xs), Math.max(...xs)];
  const top = roots.length ? toPage(view, roots[0]) : ([foot[0], foot[1] - 0.05 * view.scale] as Pt);
  const w = Math.min((right - left) * 0.26, 0.034 * view.scale);
  const h = foot[1] - top[1];
  if (h < 4) return [];
  return [
    polygon('link base', [
      [left, foot[1]],
      [left, foot[1] - 0.16 * h],
      [foot[0] - w * 1.25, foot[1] - 0.3 * h],
      [foot[0] - w, top[1] - 4],
      [foot[0] + w, top[1] - 4],
      [foot[0] + w * 1.25, foot[1] - 0.3 * h],
      [right, foot[1] - 0.16 * h],
      [right, foot[1]],
    ]),
    {
      tag: 'rect',
      cls: 'servo',
      attrs: {
        x: Math.round(foot[0] - w * 0.72),
        y: Math.round(top[1] + 3),
        width: Math.round(w * 1.44),
        height: Math.round(Math.max(6, h * 0.55)),
        rx: 2,
      },
    },
  ];
}

/** Opening of a tool's jaw (m) at the pose: from its table, else a guess in proportion for drawing alone. */
export function jawOpening(mechanism: Mechanism, tool: Tool, q: Float64Array): number | null {
  if (!tool.grip || !('joint' in tool.grip)) return null;
  const { joint, open, closed, openingMm } = tool.grip;
  const slot = mechanism.slotOf.get(joint);
  if (slot === undefined) return null;
  const value = q[slot] / mechanism.siPerUnit[slot];
  if (openingMm && openingMm.length > 1) {
    const table = [...openingMm].sort((a, b) => a.at - b.at);
    const i = Math.min(table.length - 2, Math.max(0, table.findIndex((row) => row.at >= value) - 1));
    const [a, b] = [table[i], table[i + 1]];
    return Math.max(0, a.mm + ((value - a.at) / (b.at - a.at)) * (b.mm - a.mm)) / MM;
  }
  return open === closed ? 0 : Math.max(0, 0.004 + (0.036 * (value - closed)) / (open - closed));
}

function drawTool(view: View, frame: Float64Array, root: Vec3, opening: number | null, radius: number): Shape[] {
  const page = (p: Vec3): Pt => toPage(view, p);
  const tip = positionOf(frame);
  const z = axisOf(frame, 2);
  const length = vec3.distance(tip, root);
  if (length < 1e-4) return [];
  if (opening === null)
    return [path('link', taperD(page(root), radius * 0.86, page(tip), Math.max(2, radius * 0.3)))];
  const palm = vec3.sub(tip, vec3.scale(z, Math.min(0.052, length * 0.6)));
  const x = axisOf(frame, 0);
  const side = (p: Vec3, shift: number): Vec3 => vec3.add(p, vec3.scale(x, shift));
  const finger = (sign: number): Pt[] => [
    page(side(palm, sign * 0.008)),
    page(side(vec3.add(palm, vec3.scale(z, 0.008)), sign * (0.012 + opening / 2))),
    page(side(tip, sign * (opening / 2))),
    page(side(tip, sign * (opening / 2 + 0.003))),
    page(side(vec3.add(palm, vec3.scale(z, 0.006)), sign * (0.018 + opening / 2))),
    page(side(palm, sign * 0.015)),
  ];
  return [
    path('link', taperD(page(root), radius * 0.86, page(palm), Math.max(4, 0.011 * view.scale))),
    polygon('link finger', hullOrLine(finger(1))),
    polygon('link finger', hullOrLine(finger(-1))),
  ];
}

const hullOrLine = (points: Pt[]): Pt[] => {
  const xs = points.map((p) => p[0]);
  return Math.max(...xs) - Math.min(...xs) < 1.5 && points.length > 2 ? hull(points) : points;
};

const boxCorners = (payload: Payload): Vec3[] =>
  [-1, 1].flatMap((i) =>
    [-1, 1].flatMap((j) =>
      [-1, 1].map((k): Vec3 => {
        const [x, y, z] = payload.comMm;
        const [a, b, c] = payload.sizeMm;
        return mm([x + (i * a) / 2, y + (j * b) / 2, z + (k * c) / 2]);
      }),
    ),
  );

function limitArc(
  view: View,
  mechanism: Mechanism,
  id: string,
  slot: number,
  q: Float64Array,
  frame: Float64Array,
  radius: number,
): Shape[] {
  const [low, high] = [mechanism.lower[slot], mechanism.upper[slot]];
  const j = mechanism.index.get(id)!;
  if (mechanism.units[j] === 'mm' || !Number.isFinite(high - low)) return [];
  // Only a joint seen along its axis turns in the page.
  const axis = documentAxis(mechanism, id, frame);
  const sight = vec3.cross(view.right, view.up);
  const along = vec3.dot(axis, sight);
  if (Math.abs(along) < 0.9) return [];
  const c = toPage(view, positionOf(frame));
  const direction = childDirection(view, mechanism, id, q);
  if (direction === null) return [];
  // A positive turn about an axis towards the viewer runs anticlockwise on the page, where angles run clockwise.
  const sense = along > 0 ? -1 : 1;
  const r = radius + 16;
  const [a, b] = [direction + sense * (low - q[slot]), direction + sense * (high - q[slot])];
  const end = (angle: number): Shape =>
    line(
      'limit-end',
      [c[0] + (r - 5) * Math.cos(angle), c[1] + (r - 5) * Math.sin(angle)],
      [c[0] + (r + 5) * Math.cos(angle), c[1] + (r + 5) * Math.sin(angle)],
    );
  const label = (angle: number, value: number): Shape =>
    text(
      'limit-label',
      [c[0] + (r + 15) * Math.cos(angle), c[1] + (r + 15) * Math.sin(angle)],
      `${formatNumber(value / mechanism.siPerUnit[slot], 0)}°`,
      { 'text-anchor': 'middle', dy: '0.35em' },
    );
  return [
    path('limit-arc', arcD(c, r, a, b)),
    end(a),
    end(b),
    label(a, low),
    label(b, high),
    line(
      'limit-now',
      [c[0] + radius * Math.cos(direction), c[1] + radius * Math.sin(direction)],
      [c[0] + (r + 7) * Math.cos(direction), c[1] + (r + 7) * Math.sin(direction)],
    ),
  ];
}

function documentAxis(mechanism: Mechanism, id: string, frame: Float64Array): Vec3 {
  // The joint's axis in its own frame is the inverse alignment's third column.
  const o = 12 * mechanism.index.get(id)!;
  const u = mechanism.unalign;
  const own: Vec3 = [u[o + 6], u[o + 7], u[o + 8]];
  const d = apply(Float64Array.of(...frame.slice(0, 9), 0, 0, 0), own);
  return vec3.unit(d) ?? [0, 0, 1];
}

/** Page angle (rad) from a joint towards what it carries, or null where that is straight along the line of sight. */
function childDirection(view: View, mechanism: Mechanism, id: string, q: Float64Array): number | null {
  const { joints, tools } = forward(mechanism, q);
  const j = mechanism.index.get(id)!;
  const here = toPage(view, positionOf(joints.get(id)!));
  const ahead = [
    ...mechanism.ids.filter((_, k) => mechanism.parent[k] === j).map((child) => joints.get(child)!),
    ...mechanism.tools.filter((tool) => tool.parent === j).map((tool) => tools.get(tool.id)!),
  ];
  let best: { d: number; angle: number } | null = null;
  for (const frame of ahead) {
    const there = toPage(view, positionOf(frame));
    const d = Math.hypot(there[0] - here[0], there[1] - here[1]);
    if (d > 4 && (!best || d > best.d)) best = { d, angle: Math.atan2(there[1] - here[1], there[0] - here[0]) };
  }
  return best?.angle ?? null;
}

function dimensionLines(
  view: View,
  doc: MechanismDoc,
  mechanism: Mechanism,
  at: (id: string) => Vec3,
  tools: Map<string, Float64Array>,
  isJaw: (id: string) => boolean,
): Shape[] {
  if (view.kind !== 'side') return [];
  const spans: [Vec3, Vec3][] = [];
  for (const joint of doc.joints)
    if (joint.parent !== null && !isJaw(joint.id) && joint.type !== 'fixed')
      spans.push([at(joint.parent), at(joint.id)]);
  for (const tool of doc.tools)
    if (tool.mounted && tool.parent !== null) spans.push([at(tool.parent), positionOf(tools.get(tool.id)!)]);
  const centre: Pt = [view.cx, view.cy - 0.12 * view.scale];
  const shapes = spans.flatMap(([a, b]) =>
    dimension(toPage(view, a), toPage(view, b), vec3.distance(a, b) * MM, centre),
  );
  // Height of the first pivot that is not on the turn axis: from the bench to the shoulder.
  const first = doc.joints.find((joint) => joint.parent !== null && isMoving(joint) && !isJaw(joint.id));
  if (first) {
    const p = at(first.id);
    const x = toPage(view, p)[0] - 0.1 * view.scale;
    const foot = toPage(view, positionOf(mechanism.base))[1];
    const y = toPage(view, p)[1];
    if (foot - y > 24)
      shapes.push(
        ...arrowLine([x, foot], [x, y]),
        line('extension', [x - 4, y], [toPage(view, p)[0] - 20, y]),
        text('dimension-text', [x - 6, (foot + y) / 2], formatNumber(p[2] * MM, 1), {
          'text-anchor': 'end',
          dy: '0.35em',
        }),
      );
  }
  return shapes;
}

/** One dimension parallel to a–b, on the side away from `inside`. */
function dimension(a: Pt, b: Pt, value: number, inside: Pt): Shape[] {
  const dx = b[0] - a[0];
  const dy = b[1] - a[1];
  const d = Math.hypot(dx, dy);
  if (d < 40) return [];
  let nx = -dy / d;
  let ny = dx / d;
  const mid: Pt = [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2];
  if ((mid[0] - inside[0]) * nx + (mid[1] - inside[1]) * ny < 0) [nx, ny] = [-nx, -ny];
  if (ny > 0.2 && Math.abs(dx) > Math.abs(dy)) [nx, ny] = [-nx, -ny];
  const off = 34;
  const shift = (p: Pt, by: number): Pt => [p[0] + nx * by, p[1] + ny * by];
  const [p, r] = [shift(a, off), shift(b, off)];
  let angle = (Math.atan2(dy, dx) * 180) / Math.PI;
  if (angle > 90 || angle <= -90) angle += 180;
  const at = shift(mid, off + 4);
  const up = (angle * Math.PI) / 180 - Math.PI / 2;
  const above = Math.cos(up) * nx + Math.sin(up) * ny >= 0;
  const words = text('dimension-text', at, formatNumber(value, 1), {
    'text-anchor': 'middle',
    dy: above ? '-0.15em' : '0.85em',
    transform: `rotate(${angle.toFixed(2)} ${at[0].toFixed(2)} ${at[1].toFixed(2)})`,
  });
  return [
    line('extension', shift(a, 20), shift(a, off + 5)),
    line('extension', shift(b, 20), shift(b, off + 5)),
    ...arrowLine(p, r),
    words,
  ];
}

function arrowLine(a: Pt, b: Pt): Shape[] {
  const angle = Math.atan2(b[1] - a[1], b[0] - a[0]);
  const head = (p: Pt, turn: number): Shape => {
    const leg = (lean: number): Pt => [p[0] + 7 * Math.cos(turn + lean), p[1] + 7 * Math.sin(turn + lean)];
    return polygon('arrow', [p, leg(0.24), leg(-0.24)]);
  };
  return [line('dimension', a, b), head(a, angle), head(b, angle + Math.PI)];
}

function jointMarks(
  view: View,
  mechanism: Mechanism,
  at: (id: string) => Vec3,
  isJaw: (id: string) => boolean,
  selected: string | null,
): Shape[] {
  const taken: Pt[] = [];
  return mechanism.slotIds.flatMap((id, index) => {
    if (isJaw(id)) return [];
    let p = toPage(view, at(id));
    // A turntable under its shoulder, or joints in line with the eye: step aside so that each mark can be read.
    for (let tries = 0; tries < 8 && taken.some((t) => Math.hypot(t[0] - p[0], t[1] - p[1]) < 24); tries++)
      p = view.kind === 'side' ? [p[0], p[1] + 26] : [p[0] + 26, p[1]];
    taken.push(p);
    return [mark(index, p, 11, selected === id ? 'selected' : '')];
  });
}

// ── Around the arm ────────────────────────────────────────────────────────────────────────────────────────────────

function region(view: View, { quads }: ReachRegion, input: DrawingInput): Shape[] {
  const origin = turnAxisFoot(input);
  let d = '';
  for (let i = 0; i < quads.length; i += 8) {
    const corner = (k: number): Pt =>
      toPage(view, vec3.add(origin, vec3.add(vec3.scale(view.right, quads[i + k]), [0, 0, quads[i + k + 1]])));
    d += `${polyD([corner(0), corner(2), corner(4), corner(6)])}Z`;
  }
  return d ? [path('reach-edge', d), path('reach-fill', d)] : [];
}

/** Point on the turn axis that the reach region is measured from. */
function turnAxisFoot({ mechanism }: DrawingInput): Vec3 {
  for (const tool of mechanism.tools) {
    const planar = recogniseTurnAndPlanar(mechanism, tool);
    if (planar) return planar.c;
  }
  return positionOf(mechanism.base);
}

/** Outer reach over the turn's range, from above. */
function planReach(view: View, { mechanism, region: side }: DrawingInput): Shape[] {
  for (const tool of mechanism.tools) {
    const planar = recogniseTurnAndPlanar(mechanism, tool);
    if (!planar || !side || Math.abs(planar.a0[2]) < 0.999) continue;
    let out = 0;
    for (let i = 0; i < side.quads.length; i += 2) out = Math.max(out, side.quads[i]);
    const zero = Math.atan2(planar.e1[1], planar.e1[0]);
    const [low, high] = [mechanism.lower[planar.slots[0]], mechanism.upper[planar.slots[0]]];
    const c = toPage(view, planar.c);
    const r = out * view.scale;
    if (!Number.isFinite(high - low) || high - low >= 2 * Math.PI)
      return [circle('reach-edge', c, r), circle('reach-fill', c, r)];
    const [a, b] = [-(zero + low), -(zero + high)];
    const d = `${arcD(c, r, a, b)}L${c[0].toFixed(1)} ${c[1].toFixed(1)}Z`;
    return [path('reach-edge', d), path('reach-fill', d)];
  }
  return [];
}

function drawObstacle(view: View, obstacle: Obstacle, bare = false): Shape[] {
  const frame = fromXyzRpy(mm(obstacle.xyzMm), obstacle.rpyDeg.map((v) => (v * Math.PI) / 180) as unknown as Vec3);
  const page = (x: number, y: number, z: number): Pt => toPage(view, apply(frame, mm([x, y, z])));
  const outline = (a: number, b: number, h: number, low = 0): Pt[] =>
    hull([-a / 2, a / 2].flatMap((x) => [-b / 2, b / 2].flatMap((y) => [low, h].map((z) => page(x, y, z)))));
  // A solid beside the drawn plane is behind it: drawn fainter.
  const half =
    (obstacle.kind === 'box' || obstacle.kind === 'rack'
      ? Math.hypot(obstacle.sizeMm[0], obstacle.sizeMm[1]) / 2
      : obstacle.kind === 'jar'
        ? obstacle.innerRadiusMm
        : obstacle.radiusMm) / MM;
  const inPlane = isInPlane(view, mm(obstacle.xyzMm), half);
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

function trace(view: View, points: Float64Array): Shape {
  const list: Pt[] = [];
  for (let i = 0; i < points.length; i += 3) list.push(toPage(view, [points[i], points[i + 1], points[i + 2]]));
  return polyline('trace', list);
}

const spotMark = ([x, y]: Pt, name: string): Shape =>
  group('spot', [
    path('spot-cross', `M${x - 5} ${y}H${x + 5}M${x} ${y - 5}V${y + 5}`),
    text('spot-label', [x + 8, y - 6], name),
  ]);

const targetMark = ([x, y]: Pt, note?: string): Shape =>
  group('target', [
    circle('target-ring', [x, y], 11),
    path('target-cross', `M${x - 17} ${y}H${x + 17}M${x} ${y - 17}V${y + 17}`),
    ...(note ? [text('target-note', [x, y - 24], note, { 'text-anchor': 'middle' })] : []),
  ]);

/** A drawing as a file of its own, in ink on white. */
export function toSvg(drawing: Drawing): string {
  const style =
    'text{font:11px sans-serif;fill:#1f2a2a}.grid{stroke:#e6dcc8}.axis{stroke:#cfc2a8}.grid-label{font-size:8px;fill:#5f6763}.link,.servo{fill:#f3ecdd;stroke:#1f2a2a;stroke-width:1.6}' +
    '.ground{stroke:#1f2a2a;stroke-width:1.6}.hatch,.extension{stroke:#4e5a57;stroke-width:.7}.dimension{stroke:#4e5a57}.arrow{fill:#4e5a57}.obstacle{fill:none;stroke:#4e5a57}.glaze{fill:#c3cfc8}' +
    '.reach-edge{stroke:#7d9c92;stroke-width:3;fill:none}.reach-fill{fill:#e6ece3}.ghost *{fill:none;stroke-dasharray:4 3}.trace{fill:none;stroke:#8f4c16}.payload{fill:#f0dcc4;stroke:#8f4c16}' +
    '.mark-shape{fill:#fff;stroke:#1f2a2a;stroke-width:1.5}.target path,.target circle{fill:none;stroke:#a3260f;stroke-width:1.5}.spot path{stroke:#8f4c16}.limit-arc,.limit-end,.limit-now{fill:none;stroke:#8f4c16}';
  return (
    `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${drawing.width} ${drawing.height}" width="${drawing.width}" height="${drawing.height}">` +
    `<style>${style}</style>${markup([{ tag: 'text', cls: 'title', attrs: { x: drawing.width / 2, y: 16, 'text-anchor': 'middle' }, text: drawing.title }, ...drawing.shapes])}</svg>`
  );
}
