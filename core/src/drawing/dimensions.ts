/** Dimension lines between pivots and the arc of a joint's limits. */
import { inUnit, deltaRods } from '../mechanism';
import { type Frames } from '../kinematics';
import { apply, positionOf, vec3, type Vec3 } from '../linear';
import type { Mechanism } from '../mechanism';
import { isJaw, isMoving } from '../rig';
import { formatNumber } from '../units/quantity';
import type { LetterSpan } from './input';
import type { Scene } from './links';
import { MM } from './page';
import { sightOf, toPage, type View } from './project';
import { arcD, circle, line, path, polygon, text, type Pt, type Shape } from './shapes';

export function limitArc(
  view: View,
  mechanism: Mechanism,
  id: string,
  slot: number,
  q: Float64Array,
  frames: Frames,
  radius: number,
): Shape[] {
  const [low, high] = [mechanism.lower[slot], mechanism.upper[slot]];
  const j = mechanism.index.get(id)!;
  if (mechanism.units[j] === 'mm' || !Number.isFinite(high - low)) return [];
  // Only a joint seen along its axis turns in the page.
  const frame = frames.joints.get(id)!;
  const axis = documentAxis(mechanism, id, frame);
  const along = vec3.dot(axis, sightOf(view));
  if (Math.abs(along) < 0.9) return [];
  const c = toPage(view, positionOf(frame));
  const direction = childDirection(view, mechanism, id, frames);
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
      `${formatNumber(inUnit(mechanism, slot, value), 0)}°`,
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
function childDirection(view: View, mechanism: Mechanism, id: string, { joints, tools }: Frames): number | null {
  const j = mechanism.index.get(id)!;
  const here = toPage(view, positionOf(joints.get(id)!));
  if (mechanism.delta) {
    const knee = toPage(view, apply(joints.get(id)!, [mechanism.delta.upperArm, 0, 0]));
    const d = Math.hypot(knee[0] - here[0], knee[1] - here[1]);
    return d > 4 ? Math.atan2(knee[1] - here[1], knee[0] - here[0]) : null;
  }
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

/** Spans whose length shows at least this share of itself in the page are dimensioned; others would read untrue. */
const TRUE_LENGTH = 0.9995;
/** With more spans than this, only those at the selected joint are dimensioned. */
const MANY_SPANS = 9;

export function dimensionLines(scene: Scene, selected: string | null): Shape[] {
  const { view, doc, mechanism, frames, shown } = scene;
  const at = (id: string): Vec3 => positionOf(frames.joints.get(id)!);
  let spans: { from: Vec3; to: Vec3; of: string[] }[] = [];
  for (const joint of doc.joints) {
    if (joint.parent === null || isJaw(joint) || !isMoving(joint) || !shown(joint.id)) continue;
    spans.push({ from: at(joint.parent), to: at(joint.id), of: [joint.parent, joint.id] });
  }
  for (const tool of doc.tools)
    if (tool.mounted && tool.parent !== null && shown(tool.parent))
      spans.push({ from: at(tool.parent), to: positionOf(frames.tools.get(tool.id)!), of: [tool.parent] });
  if (mechanism.delta) spans.push(...deltaSpans(scene));
  spans = spans.filter(({ from, to }) => {
    const [p, r] = [toPage(view, from), toPage(view, to)];
    return Math.hypot(r[0] - p[0], r[1] - p[1]) >= TRUE_LENGTH * vec3.distance(from, to) * view.scale;
  });
  // Mirrored limbs one behind the other show the same span once.
  const seen = new Set<string>();
  spans = spans.filter(({ from, to }) => {
    const key = [...toPage(view, from), ...toPage(view, to)].map((v) => Math.round(v / 3)).join();
    return !seen.has(key) && !!seen.add(key);
  });
  if (spans.length > MANY_SPANS) spans = spans.filter(({ of }) => selected !== null && of.includes(selected));
  const centre: Pt = [view.cx, view.cy - 0.12 * view.scale];
  const shapes = spans.flatMap(({ from, to }) =>
    dimension(toPage(view, from), toPage(view, to), formatNumber(vec3.distance(from, to) * MM, 1), centre),
  );
  return view.kind === 'plan' ? shapes : [...shapes, ...heightLine(scene)];
}

/** Height above the ground of the first pivot that is not on the turn axis: the shoulder. */
function heightLine({ view, doc, frames, shown, mechanism }: Scene): Shape[] {
  const first = mechanism.delta
    ? doc.joints[0]
    : (doc.joints.find((joint) => joint.parent !== null && isMoving(joint) && !isJaw(joint) && shown(joint.id)) ??
      doc.joints.find((joint) => isMoving(joint) && shown(joint.id)));
  if (!first) return [];
  const p = positionOf(frames.joints.get(first.id)!);
  const [px, y] = toPage(view, p);
  const x = px - 0.1 * view.scale;
  const foot = toPage(view, [0, 0, 0])[1];
  if (foot - y <= 24) return [];
  return [
    ...arrowLine([x, foot], [x, y]),
    line('extension', [x - 4, y], [px - 20, y]),
    text('dimension-text', [x - 6, (foot + y) / 2], formatNumber(p[2] * MM, 1), {
      'text-anchor': 'end',
      dy: '0.35em',
    }),
  ];
}

function deltaSpans({ mechanism, frames }: Scene): { from: Vec3; to: Vec3; of: string[] }[] {
  const delta = mechanism.delta!;
  const platform = frames.joints.get(mechanism.ids[delta.platform])!;
  const motors = [0, 1, 2].map((s) => frames.joints.get(mechanism.slotIds[s])!);
  return deltaRods(delta, motors, platform).flatMap(({ knee, foot }, i) => [
    { from: positionOf(motors[i]), to: knee, of: [mechanism.slotIds[i]] },
    { from: knee, to: foot, of: [mechanism.slotIds[i]] },
    { from: foot, to: positionOf(platform), of: [mechanism.slotIds[i]] },
  ]);
}

/** Dimension lines that carry letters: level ones below or above, upright ones beside, straight ones along their span. */
export function letterLines(view: View, spans: readonly LetterSpan[]): Shape[] {
  const ends = spans.flatMap(({ from, to }) => [toPage(view, from), toPage(view, to)]);
  const centre: Pt = [
    ends.reduce((sum, [x]) => sum + x, 0) / Math.max(1, ends.length),
    ends.reduce((sum, [, y]) => sum + y, 0) / Math.max(1, ends.length),
  ];
  const stack = { upright: 0, level: 0 };
  const taken: Pt[] = [];
  /** A letter on its line, slid along it where another letter is near its middle. */
  const letterOn = (a: Pt, b: Pt, letter: string): Shape[] => {
    const at = (t: number): Pt => [a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t];
    const p =
      [0.5, 0.3, 0.7, 0.16, 0.84]
        .map(at)
        .find((q) => taken.every((o) => Math.hypot(o[0] - q[0], o[1] - q[1]) > 20)) ?? at(0.5);
    taken.push(p);
    return [circle('letter-disc', p, 9.5), text('letter', p, letter, { 'text-anchor': 'middle', dy: '0.34em' })];
  };
  return spans.flatMap(({ letter, from, to, along }) => {
    const [a, b] = [toPage(view, from), toPage(view, to)];
    if (along === 'straight') {
      const { p, r, extensions } = offsetLine(a, b, centre);
      return [...extensions, ...arrowLine(p, r), ...letterOn(p, r, letter)];
    }
    const k = stack[along]++;
    if (along === 'upright') {
      // Beside the figure, each further one further out, and on the side where its ends are.
      const left = (a[0] + b[0]) / 2 <= centre[0] + 1;
      const edge = left ? Math.min(...ends.map(([x]) => x)) : Math.max(...ends.map(([x]) => x));
      const x = edge + (left ? -1 : 1) * (26 + 22 * (k % 3));
      return [
        line('extension', [a[0], a[1]], [x + (left ? -4 : 4), a[1]]),
        line('extension', [b[0], b[1]], [x + (left ? -4 : 4), b[1]]),
        ...arrowLine([x, a[1]], [x, b[1]]),
        ...letterOn([x, a[1]], [x, b[1]], letter),
      ];
    }
    const below = (a[1] + b[1]) / 2 > centre[1];
    const y = (below ? Math.max(a[1], b[1]) : Math.min(a[1], b[1])) + (below ? 1 : -1) * (24 + 20 * (k % 2));
    const tail = below ? 4 : -4;
    return [
      line('extension', a, [a[0], y + tail]),
      line('extension', b, [b[0], y + tail]),
      ...arrowLine([a[0], y], [b[0], y]),
      ...letterOn([a[0], y], [b[0], y], letter),
    ];
  });
}

/** The line of a dimension parallel to a–b, on the side away from `inside`, with its extension lines. */
function offsetLine(a: Pt, b: Pt, inside: Pt): { p: Pt; r: Pt; off: Pt; extensions: Shape[] } {
  const dx = b[0] - a[0];
  const dy = b[1] - a[1];
  const d = Math.max(1e-6, Math.hypot(dx, dy));
  let nx = -dy / d;
  let ny = dx / d;
  const mid: Pt = [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2];
  if ((mid[0] - inside[0]) * nx + (mid[1] - inside[1]) * ny < 0) [nx, ny] = [-nx, -ny];
  if (ny > 0.2 && Math.abs(dx) > Math.abs(dy)) [nx, ny] = [-nx, -ny];
  const shift = (q: Pt, by: number): Pt => [q[0] + nx * by, q[1] + ny * by];
  return {
    p: shift(a, OFFSET),
    r: shift(b, OFFSET),
    off: [nx, ny],
    extensions: [
      line('extension', shift(a, 20), shift(a, OFFSET + 5)),
      line('extension', shift(b, 20), shift(b, OFFSET + 5)),
    ],
  };
}
/** How far from its span a dimension line stands (px). */
const OFFSET = 34;

/** One dimension with its value, turned to be read from below or from the right. */
function dimension(a: Pt, b: Pt, value: string, inside: Pt): Shape[] {
  if (Math.hypot(b[0] - a[0], b[1] - a[1]) < 40) return [];
  const { p, r, off, extensions } = offsetLine(a, b, inside);
  let angle = (Math.atan2(b[1] - a[1], b[0] - a[0]) * 180) / Math.PI;
  if (angle > 90 || angle <= -90) angle += 180;
  const at: Pt = [(p[0] + r[0]) / 2 + off[0] * 4, (p[1] + r[1]) / 2 + off[1] * 4];
  const up = (angle * Math.PI) / 180 - Math.PI / 2;
  const above = Math.cos(up) * off[0] + Math.sin(up) * off[1] >= 0;
  const words = text('dimension-text', at, value, {
    'text-anchor': 'middle',
    dy: above ? '-0.15em' : '0.85em',
    transform: `rotate(${angle.toFixed(2)} ${at[0].toFixed(2)} ${at[1].toFixed(2)})`,
  });
  return [...extensions, ...arrowLine(p, r), words];
}

function arrowLine(a: Pt, b: Pt): Shape[] {
  const angle = Math.atan2(b[1] - a[1], b[0] - a[0]);
  const head = (p: Pt, turn: number): Shape => {
    const leg = (lean: number): Pt => [p[0] + 7 * Math.cos(turn + lean), p[1] + 7 * Math.sin(turn + lean)];
    return polygon('arrow', [p, leg(0.24), leg(-0.24)]);
  };
  return [line('dimension', a, b), head(a, angle), head(b, angle + Math.PI)];
}
