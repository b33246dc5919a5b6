/**
 * Ways of the tool: its point along a line, an arc or a circle, its direction turned evenly, each place solved from the one before so
 * that the posture is kept, and a spline through what was found.
 *
 * With six joints or more the tool's whole turn is interpolated (slerp); with four or five its direction, seen from the base's axis,
 * so that it turns with the arm; with fewer only the point goes along.
 */
import type { Code, Data } from '../contract/messages';
import { forward, solveInverse, type Placed } from '../kinematics';
import {
  axisOf,
  fromQuaternion,
  positionOf,
  quaternionOf,
  rotationBetween,
  vec3,
  type Quaternion,
  type Vec3,
} from '../linear';
import { worstRule, type CompiledTool, type Mechanism } from '../mechanism';
import { splineThrough, splineInto, type Spline } from '../motion';

/** The tool's point leaves the line by no more than this (m). */
export const CHORD = 1e-4;
/** First spacing of the places solved: by way (m) and by turn (rad). */
const SPACING = { way: 0.006, turn: 0.08 };
const SEGMENTS = { least: 8, most: 256 };
/** A joint that goes further (rad or m) than this share of its way so far between two places has jumped to another branch. */
const JUMP = 0.3;
/** How near (rad or m) the last place must come to the pose that was asked for. */
const SAME = 2e-3;
const NOWHERE = 1e-7;

export type ToolWay =
  | { readonly ok: true; readonly spline: Spline; readonly to: Float64Array }
  | { readonly ok: false; readonly code: Code; readonly data: Data; readonly share: number };

type Way = (share: number) => Placed;

/** Where the tool's point is at a share of the way, and how long (m) that is. */
export interface PointWay {
  readonly at: (share: number) => Vec3;
  readonly length: number;
}

export const lineWay = (a: Vec3, b: Vec3): PointWay => ({
  at: (share) => vec3.add(a, vec3.scale(vec3.sub(b, a), share)),
  length: vec3.distance(a, b),
});

/** Least height (m) of the middle point of an arc over the line between the others. */
const FLAT = 1e-5;
/**
 * Along the circle through three places (circumcentre of the triangle): from `a` by `via` to `b`, or with `turns` all round by `via`
 * and `b` back to `a`. Null where they lie in a line.
 */
export function circleWay(a: Vec3, via: Vec3, b: Vec3, turns = 0): PointWay | null {
  const [u, w] = [vec3.sub(via, a), vec3.sub(b, a)];
  const normal = vec3.cross(u, w);
  const [uu, ww, nn] = [vec3.dot(u, u), vec3.dot(w, w), vec3.dot(normal, normal)];
  const longest = Math.max(Math.sqrt(uu), Math.sqrt(ww), vec3.distance(via, b));
  // Twice the triangle's area over its longest side is its height.
  if (longest === 0 || Math.sqrt(nn) / longest < FLAT) return null;
  const toCentre = vec3.scale(
    vec3.add(vec3.scale(vec3.cross(normal, u), ww), vec3.scale(vec3.cross(w, normal), uu)),
    1 / (2 * nn),
  );
  const centre = vec3.add(a, toCentre);
  const x = vec3.scale(toCentre, -1);
  const y = vec3.cross(vec3.scale(normal, 1 / Math.sqrt(nn)), x);
  const d = vec3.sub(b, centre);
  const end = Math.atan2(vec3.dot(y, d), vec3.dot(x, d));
  // Turning about the normal of (via − a) × (b − a) meets `via` first.
  const angle = turns > 0 ? 2 * Math.PI * turns : end > 0 ? end : end + 2 * Math.PI;
  return {
    at: (share) => {
      if (share === 1) return turns > 0 ? a : b;
      const turn = angle * share;
      return vec3.add(centre, vec3.add(vec3.scale(x, Math.cos(turn)), vec3.scale(y, Math.sin(turn))));
    },
    length: angle * vec3.norm(toCentre),
  };
}

/**
 * The joints along `point`. `end`: the tool's frame there; `to`: the pose that must come out, where one is asked for. The
 * tool's direction goes evenly from what it is to what `end` says.
 */
export function toolWay(
  mechanism: Mechanism,
  tool: CompiledTool,
  from: Float64Array,
  end: Float64Array,
  to: Float64Array | null,
  point: PointWay,
): ToolWay {
  const frame = (q: Float64Array): Float64Array => forward(mechanism, q).tools.get(tool.id)!;
  const a = frame(from);
  const turn = vec3.norm(rotationBetween(a, end));
  if (point.length < NOWHERE && turn < NOWHERE) return { ok: false, code: 'path-nowhere', data: {}, share: 0 };
  const way = wayBetween(mechanism, tool, a, end, point.at);
  let segments = Math.min(
    SEGMENTS.most,
    Math.max(SEGMENTS.least, Math.ceil(point.length / SPACING.way), Math.ceil(turn / SPACING.turn)),
  );
  for (;;) {
    const solved = solveAlong(mechanism, tool, way, from, to, segments);
    if (!solved.ok) return solved;
    const off = worstOff(frame, solved.spline, way);
    if (off <= CHORD) return solved;
    if (segments >= SEGMENTS.most)
      return { ok: false, code: 'path-not-straight', data: { off: off * 1000 }, share: 0 };
    segments = Math.min(SEGMENTS.most, segments * 2);
  }
}

function wayBetween(
  mechanism: Mechanism,
  tool: CompiledTool,
  a: Float64Array,
  b: Float64Array,
  at: (share: number) => Vec3,
): Way {
  if (tool.slots.length >= 6) {
    const [u, v] = [quaternionOf(a), quaternionOf(b)];
    return (share) => ({ kind: 'full', position: at(share), rotation: fromQuaternion(slerp(u, v, share)) });
  }
  if (tool.slots.length <= 3) return (share) => ({ kind: 'free', position: at(share) });
  const [p, q] = [positionOf(a), positionOf(b)];
  // The direction in (outward, sideways, up) as seen from the base's axis.
  const base = positionOf(mechanism.base);
  const up = axisOf(mechanism.base, 2);
  const axes = (place: Vec3): [Vec3, Vec3, Vec3] => {
    const off = vec3.sub(place, base);
    const flat = vec3.sub(off, vec3.scale(up, vec3.dot(off, up)));
    const out = vec3.unit(flat) ?? axisOf(mechanism.base, 0);
    return [out, vec3.cross(up, out), up];
  };
  const seen = (place: Vec3, d: Vec3): Vec3 => axes(place).map((axis) => vec3.dot(axis, d)) as unknown as Vec3;
  const [d, e] = [seen(p, axisOf(a, 2)), seen(q, axisOf(b, 2))];
  return (share) => {
    const position = at(share);
    const [x, y, z] = axes(position);
    const t = turned(d, e, share);
    const direction = vec3.add(vec3.add(vec3.scale(x, t[0]), vec3.scale(y, t[1])), vec3.scale(z, t[2]));
    return { kind: 'direction', position, direction: vec3.unit(direction) ?? direction };
  };
}

/** From one direction to another along the great circle. */
function turned(a: Vec3, b: Vec3, share: number): Vec3 {
  const angle = vec3.angleBetween(a, b);
  if (angle < 1e-9) return b;
  if (Math.PI - angle < 1e-9) return turned(a, vec3.perpendicular(a), 2 * Math.min(share, 0.5));
  const sine = Math.sin(angle);
  return vec3.add(vec3.scale(a, Math.sin((1 - share) * angle) / sine), vec3.scale(b, Math.sin(share * angle) / sine));
}

function slerp(a: Quaternion, b: Quaternion, share: number): Quaternion {
  const dot = a[0] * b[0] + a[1] * b[1] + a[2] * b[2] + a[3] * b[3];
  const sign = dot < 0 ? -1 : 1;
  const angle = Math.acos(Math.min(1, Math.abs(dot)));
  const [f, g] =
    angle < 1e-7
      ? [1 - share, sign * share]
      : [Math.sin((1 - share) * angle) / Math.sin(angle), (sign * Math.sin(share * angle)) / Math.sin(angle)];
  const mixed = a.map((v, k) => f * v + g * b[k]);
  const size = Math.hypot(...mixed);
  return mixed.map((v) => v / size) as unknown as Quaternion;
}

function solveAlong(
  mechanism: Mechanism,
  tool: CompiledTool,
  way: Way,
  from: Float64Array,
  to: Float64Array | null,
  segments: number,
): ToolWay {
  const knots = [from];
  const own = new Set(tool.slots);
  // Joints more than the task needs, from the base on, go evenly from end to end: what is left has no choice, and is smooth.
  const { kind } = way(0);
  const spare = tool.slots.length - (kind === 'full' ? 6 : kind === 'direction' ? 5 : 3);
  const held = new Set([...tool.slots].slice(0, Math.max(0, spare)));
  for (const s of held) own.delete(s);
  const fail = (code: Code, share: number, data: Data = {}): ToolWay => ({ ok: false, code, data, share });
  for (let k = 1; k <= segments; k++) {
    const share = k / segments;
    const near = knots[k - 1].slice();
    if (to) for (const s of held) near[s] = from[s] + share * (to[s] - from[s]);
    const found = solveInverse(mechanism, tool, way(share), near, { explained: false, starts: 4, held }).solutions[0];
    if (!found) return fail('path-unreachable', share);
    const q = found.q.slice();
    for (let s = 0; s < mechanism.m; s++) {
      if (!own.has(s)) q[s] = to ? from[s] + share * (to[s] - from[s]) : from[s];
      else if (Math.abs(q[s] - near[s]) > JUMP) {
        const joint = mechanism.jointOfSlot[s];
        return fail('path-jumps', share, { joint: mechanism.names[joint] });
      }
    }
    if (worstRule(mechanism, q).by > 1e-9) return fail('path-unreachable', share);
    knots.push(q);
  }
  if (to) {
    if (knots[segments].some((v, s) => Math.abs(v - to[s]) > SAME)) return fail('path-other-posture', 1);
    knots[segments] = to;
  }
  return { ok: true, spline: splineThrough(knots), to: knots[segments] };
}

/** How far (m) the tool's point leaves the line between the places solved. */
function worstOff(frame: (q: Float64Array) => Float64Array, spline: Spline, way: Way): number {
  const q = new Float64Array(spline.m);
  const out = new Float64Array(4);
  let worst = 0;
  for (let k = 0; k < spline.n; k++) {
    const share = (k + 0.5) / spline.n;
    for (let s = 0; s < spline.m; s++) {
      splineInto(out, spline, s, share);
      q[s] = out[0];
    }
    worst = Math.max(worst, vec3.distance(positionOf(frame(q)), way(share).position));
  }
  return worst;
}
