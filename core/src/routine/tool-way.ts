/**
 * Ways of the tool: its point along a line, an arc or a circle, its orientation evenly from what it is to what it is to be, each
 * place solved from the one before so that the posture is kept, and a spline through what was found.
 *
 * As much of the orientation is kept as the arm can all the way (see orientation.ts), or as was asked for. Of what is not kept
 * the tool stays as near to the even turn as its joints let it, which is a matter of the place alone: a way there and back
 * ends in the same joints.
 */
import type { RoutineSaying } from './findings';
import { errorAt, forward, NumericSolver, probeOf, solveInverse, type Placed, type Task } from '../kinematics';
import {
  fromQuaternion,
  positionOf,
  quaternionOf,
  rotationBetween,
  axisOf,
  vec3,
  type Quaternion,
  type Vec3,
} from '../linear';
import { rulesExcess, type CompiledTool, type Mechanism } from '../mechanism';
import { splineThrough, splineInto, type Spline } from '../motion';
import type { Keep } from '../rig';
import { footOf, holdingOf, keeps, taskKeeping, tiltsBetween } from './orientation';

/** The tool's point leaves the line by no more than this (m). */
export const CHORD = 1e-4;
/** First spacing of the places solved: by way (m) and by turn (rad). */
const SPACING = { way: 0.006, turn: 0.08 };
const SEGMENTS = { least: 8, most: 256 };
/** A joint that goes further (rad or m) than this between two places has jumped to another branch. */
const JUMP = 0.3;
/** How near (rad or m) the last place must come to the pose that was asked for. */
const SAME = 2e-3;
const NOWHERE = 1e-7;
/** A place is met this closely (m), and what is kept of the orientation (rad): poses are saved to 0.001°. */
const MET = { distance: 1e-5, angle: 2e-4 };
/** Weight of the orientation beside the place where as much of it is kept as the joints let. */
const SOFT = 0.03;
/** Turn (rad) from which a way round the other side is another one. */
const WORTH_TURNING = 0.05;

export type ToolWay =
  | {
      readonly ok: true;
      readonly spline: Spline;
      readonly to: Float64Array;
      /** What of the tool's orientation is kept all the way. */
      readonly keep: Keep;
    }
  | ({ readonly ok: false; readonly share: number } & RoutineSaying<'step' | 'share'>);

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

/** Where a way of the tool ends. */
export interface WayEnd {
  /** The tool's frame there. */
  readonly frame: Float64Array;
  /** The pose that must come out, where one is asked for. */
  readonly q: Float64Array | null;
  /** The least of the frame's orientation that must be met there. */
  readonly least: Keep;
}

/** The joints along `point`; `keep`: what of the tool's orientation is kept; left out: the most that can be. */
export function toolWay(
  mechanism: Mechanism,
  tool: CompiledTool,
  from: Float64Array,
  end: WayEnd,
  point: PointWay,
  keep?: Keep,
): ToolWay {
  const frame = (q: Float64Array): Float64Array => forward(mechanism, q).tools.get(tool.id)!;
  const a = frame(from);
  const turn = vec3.norm(rotationBetween(a, end.frame));
  if (point.length < NOWHERE && turn < NOWHERE) return { ok: false, code: 'path-nowhere', data: {}, share: 0 };
  const foot = footOf(mechanism, tool, from);
  const walker = new Walker(mechanism, tool, from, end, point.length);
  const { ladder } = holdingOf(mechanism, tool);
  const levels = keep === undefined ? keeps.slice(0, Math.max(ladder.length, keeps.indexOf(end.least) + 1)) : [keep];
  let worst: ToolWay | null = null;
  for (const [k, level] of levels.entries()) {
    const last = k === levels.length - 1;
    // Round the other side too, where the tool turns and the pose it goes to may be the end of that.
    const sides = end.q && level !== 'tilt' && turn > WORTH_TURNING ? [false, true] : [false];
    for (const far of sides) {
      const way = walker.walk(orientedWay(a, end.frame, point.at, foot, level, far), level, last);
      if (way.ok) return way;
      // Of the least that would do the reason is the plainest one; a jump or another posture says more than a miss.
      if (!far && (!worst || last)) worst = way;
      if (far && !way.ok && worst && !worst.ok && worst.code !== 'path-other-posture') break;
    }
  }
  return worst!;
}

/** A place and orientation at each share of the way: what is demanded, and the whole turn that it is part of. */
interface OrientedWay {
  readonly task: (share: number) => Placed;
  readonly whole: (share: number) => Extract<Placed, { kind: 'full' }>;
}

function orientedWay(
  a: Float64Array,
  b: Float64Array,
  at: (share: number) => Vec3,
  foot: Vec3,
  keep: Keep,
  far: boolean,
): OrientedWay {
  const [u, v] = [quaternionOf(a), quaternionOf(b)];
  const whole = (share: number): Extract<Placed, { kind: 'full' }> => ({
    kind: 'full',
    position: at(share),
    rotation: fromQuaternion(slerp(u, v, share, far)),
  });
  const [d, e] = [axisOf(a, 2), axisOf(b, 2)];
  const tilt = tiltsBetween(a, b, foot);
  const task = (share: number): Placed => {
    switch (keep) {
      case 'turn':
        return whole(share);
      case 'direction':
        return { kind: 'direction', position: at(share), direction: turned(d, e, share) };
      case 'tilt':
        return { kind: 'tilt', position: at(share), fromUp: tilt(share), up: [0, 0, 1] };
      case 'nothing':
        return { kind: 'free', position: at(share) };
    }
  };
  return { task, whole };
}

/** From one direction to another along the great circle. */
function turned(a: Vec3, b: Vec3, share: number): Vec3 {
  const angle = vec3.angleBetween(a, b);
  if (angle < 1e-9) return b;
  if (Math.PI - angle < 1e-9) return turned(a, vec3.perpendicular(a), 2 * Math.min(share, 0.5));
  const sine = Math.sin(angle);
  return vec3.add(vec3.scale(a, Math.sin((1 - share) * angle) / sine), vec3.scale(b, Math.sin(share * angle) / sine));
}

/** Spherical interpolation; `far`: the long way round. */
function slerp(a: Quaternion, b: Quaternion, share: number, far: boolean): Quaternion {
  const dot = a[0] * b[0] + a[1] * b[1] + a[2] * b[2] + a[3] * b[3];
  const sign = dot < 0 !== far ? -1 : 1;
  const angle = Math.acos(Math.min(1, Math.max(-1, sign * dot)));
  const sine = Math.sin(angle);
  const [f, g] =
    sine < 1e-7
      ? [1 - share, sign * share]
      : [Math.sin((1 - share) * angle) / sine, (sign * Math.sin(share * angle)) / sine];
  const mixed = a.map((v, k) => f * v + g * b[k]);
  const size = Math.hypot(...mixed);
  return mixed.map((v) => v / size) as unknown as Quaternion;
}

/** Solves the places of ways from one pose to one end. */
class Walker {
  private readonly hard = new Map<string, NumericSolver>();

  constructor(
    private readonly mechanism: Mechanism,
    private readonly tool: CompiledTool,
    private readonly from: Float64Array,
    private readonly end: WayEnd,
    private readonly length: number,
  ) {}

  /** `searched`: a place that is not met from the one before is searched for, to say what is wrong. */
  walk(way: OrientedWay, keep: Keep, searched: boolean): ToolWay {
    const { spare } = holdingOf(this.mechanism, this.tool);
    // With a whole turn kept, joints to spare, from the base on, go evenly from end to end; where that fails all joints stay
    // as near to that as the way lets them.
    if (keep !== 'turn' || spare.turn <= 0) return this.finely(way, keep, new Set(), searched);
    const held = new Set([...this.tool.slots].slice(0, spare.turn));
    const even = this.finely(way, keep, held, searched);
    return even.ok ? even : this.finely(way, keep, new Set(), searched);
  }

  private finely(way: OrientedWay, keep: Keep, held: ReadonlySet<number>, searched: boolean): ToolWay {
    const turn = vec3.norm(rotationBetween(way.whole(0).rotation, way.whole(0.5).rotation)) * 2;
    let segments = Math.min(
      SEGMENTS.most,
      Math.max(SEGMENTS.least, Math.ceil(this.length / SPACING.way), Math.ceil(turn / SPACING.turn)),
    );
    for (;;) {
      const found = this.along(way, keep, held, segments, searched);
      const finest = segments >= SEGMENTS.most;
      if (!found.ok && (found.code !== 'path-jumps' || finest)) return found;
      if (found.ok) {
        const off = worstOff(this.mechanism, this.tool, found.spline, way);
        if (off <= CHORD) return found;
        if (finest) return { ok: false, code: 'path-not-straight', data: { off: off * 1000 }, share: 0 };
      }
      segments = Math.min(SEGMENTS.most, segments * (found.ok ? 2 : 4));
    }
  }

  private along(
    way: OrientedWay,
    keep: Keep,
    held: ReadonlySet<number>,
    segments: number,
    searched: boolean,
  ): ToolWay {
    const { mechanism, tool, from } = this;
    const { q: to, frame, least } = this.end;
    const { spare } = holdingOf(mechanism, tool);
    const own = new Set([...tool.slots].filter((s) => !held.has(s)));
    const knots = [from];
    for (let k = 1; k <= segments; k++) {
      const share = k / segments;
      const near = knots[k - 1].slice();
      for (let s = 0; s < mechanism.m; s++)
        if (!own.has(s)) near[s] = to ? from[s] + share * (to[s] - from[s]) : from[s];
      const spared = to !== null && keep === 'turn' && spare.turn > held.size;
      const guess = spared ? from.map((v, s) => v + share * (to[s] - v)) : near;
      const q = this.step(way, share, keep, held, guess, spared ? undefined : knots[k - 2]);
      if (!q) return this.whyNot(way.task(share), share, near, held, searched);
      for (const s of own)
        if (Math.abs(q[s] - knots[k - 1][s]) > JUMP) {
          const joint = mechanism.names[mechanism.jointOfSlot[s]];
          return { ok: false, code: 'path-jumps', data: { joint }, share };
        }
      knots.push(q);
    }
    const last = knots[segments];
    if (to) {
      if (last.some((v, s) => Math.abs(v - to[s]) > SAME))
        return { ok: false, code: 'path-other-posture', data: {}, share: 1 };
      knots[segments] = to;
    } else if (!isMet(mechanism, tool, taskKeeping(frame, least), last))
      return this.whyNot(taskKeeping(frame, least), 1, last, held, searched);
    return { ok: true, spline: splineThrough(knots), to: knots[segments], keep };
  }

  /** The pose at a share of the way that is led to from the one before; null where none is. */
  private step(
    way: OrientedWay,
    share: number,
    keep: Keep,
    held: ReadonlySet<number>,
    near: Float64Array,
    before: Float64Array | undefined,
  ): Float64Array | null {
    const { mechanism, tool } = this;
    const { spare } = holdingOf(mechanism, tool);
    const q = near.slice();
    if (keep !== 'turn' && spare[keep] > 0) this.solver(held, SOFT).solveInto(q, way.whole(share));
    // On as it went so far: over the upright there is a way on and one back.
    else if (before) for (const s of tool.slots) if (!held.has(s)) q[s] = 2 * near[s] - before[s];
    const task = way.task(share);
    this.solver(held, 1).solveInto(q, task);
    if (!isMet(mechanism, tool, task, q) || rulesExcess(mechanism, q) > 1e-9) return null;
    return q;
  }

  private solver(held: ReadonlySet<number>, rotationWeight: number): NumericSolver {
    const key = `${held.size} ${rotationWeight}`;
    let found = this.hard.get(key);
    if (!found)
      this.hard.set(
        key,
        (found = new NumericSolver(this.mechanism, this.tool, { held, rotationWeight, maxIterations: 60 })),
      );
    return found;
  }

  /** Why a place is not met from the one before: it is nowhere to be met, and the first reason; or only in another posture. */
  private whyNot(
    task: Task,
    share: number,
    near: Float64Array,
    held: ReadonlySet<number>,
    searched: boolean,
  ): ToolWay {
    if (!searched) return { ok: false, code: 'path-unreachable', data: { why: '' }, share };
    const { mechanism, tool } = this;
    const { solutions, reasons } = solveInverse(mechanism, tool, task, near, { held });
    if (!solutions.length)
      return { ok: false, code: 'path-unreachable', data: { why: reasons[0]?.message ?? '' }, share };
    const gap = (s: number): number => Math.abs(solutions[0].q[s] - near[s]) / mechanism.speed[s];
    const most = [...tool.slots].reduce((x, y) => (gap(y) > gap(x) ? y : x));
    return { ok: false, code: 'path-jumps', data: { joint: mechanism.names[mechanism.jointOfSlot[most]] }, share };
  }
}

function isMet(mechanism: Mechanism, tool: CompiledTool, task: Task, q: Float64Array): boolean {
  const { distance, angle } = errorAt(mechanism, [{ tool, task }], q);
  return distance <= MET.distance && angle <= MET.angle;
}

/** How far (m) the tool's point leaves the line between the places solved. */
function worstOff(mechanism: Mechanism, tool: CompiledTool, spline: Spline, way: OrientedWay): number {
  const probe = probeOf(mechanism, tool);
  const q = new Float64Array(spline.m);
  const out = new Float64Array(4);
  let worst = 0;
  for (let k = 0; k < spline.n; k++) {
    const share = (k + 0.5) / spline.n;
    for (let s = 0; s < spline.m; s++) {
      splineInto(out, spline, s, share);
      q[s] = out[0];
    }
    worst = Math.max(worst, vec3.distance(positionOf(probe.frameAt(q)), way.task(share).position));
  }
  return worst;
}
