/** Dimension lines between pivots and the arc of a joint's limits. */
import type { forward } from '../../kinematics';
import { apply, positionOf, vec3, type Vec3 } from '../../linear';
import type { Mechanism } from '../../mechanism';
import { isMoving, type MechanismDoc } from '../../rig';
import { formatNumber } from '../../units/quantity';
import { MM } from './page';
import { toPage, type View } from './project';
import { arcD, line, path, polygon, text, type Pt, type Shape } from './shapes';

/** World frames of every joint and tool at the pose drawn. */
type Frames = Pick<ReturnType<typeof forward>, 'joints' | 'tools'>;

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
  const sight = vec3.cross(view.right, view.up);
  const along = vec3.dot(axis, sight);
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
function childDirection(view: View, mechanism: Mechanism, id: string, { joints, tools }: Frames): number | null {
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

export function dimensionLines(
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
