/** One answer of an inverse solver, and how answers are judged and told apart. */
import { mul, STRIDE } from '../linear';
import { inUnit, type CompiledTool, type Mechanism } from '../mechanism';
import { framesInto, kinematicsSpace } from './forward';
import { slotsOf } from './numeric';
import { probeOf } from './probe';
import { isHit, taskError, taskIn, type Ask, type Carried, type Task } from './task';

export interface Solution {
  /** All slots, SI. */
  readonly q: Float64Array;
  /** Closed list of words, e.g. "elbow up", "elbow down, reaching over", "solved". */
  readonly posture: string;
  readonly distance: number;
  readonly angle: number;
  /** Smallest distance to a limit as a share of half the range, over the joints that move the tool; 0..1. */
  readonly limitMargin: number;
  /** Largest change of a joint from `near`, in its own unit (° or mm). */
  readonly away: number;
  /** Time (s) from `near` with every joint at full speed: the longest of them. */
  readonly awayS: number;
  /** One of a family of poses; this is the member nearest to `near`. */
  readonly singular: boolean;
}

export interface Reason {
  readonly code: string;
  readonly message: string;
  readonly joint?: string;
  readonly byDeg?: number;
  readonly byMm?: number;
}

export interface InverseResult {
  readonly reachable: boolean;
  readonly solutions: readonly Solution[];
  readonly reasons: readonly Reason[];
  readonly closest?: Solution;
}

/** A joint this little (rad or m) past its limit is put on it: rounding of a target taken at the limit. */
export const LIMIT_SLACK = 1e-9;

/** angle + 2πk inside [low, high] and nearest to `near`; with none inside, the one least past a limit. */
export function nearestTurn(angle: number, near: number, low: number, high: number): number {
  const turn = 2 * Math.PI;
  const wished = angle + turn * Math.round((near - angle) / turn);
  const excess = (v: number): number => Math.max(low - v, v - high, 0);
  if (excess(wished) === 0) return wished;
  const options = [
    wished,
    angle + turn * Math.ceil((low - angle) / turn - 1e-12),
    angle + turn * Math.floor((high - angle) / turn + 1e-12),
  ];
  return options.reduce((a, b) =>
    excess(b) < excess(a) - 1e-15 ||
    (excess(a) <= LIMIT_SLACK && excess(b) <= LIMIT_SLACK && Math.abs(b - near) < Math.abs(a - near))
      ? b
      : a,
  );
}

/** The pose with values a hair past a limit put on it, or null where one is truly past. */
export function insideLimits(mechanism: Mechanism, q: Float64Array, near: Float64Array): Float64Array | null {
  const inside = near.slice();
  for (let s = 0; s < mechanism.m; s++) {
    const clamped = Math.min(mechanism.upper[s], Math.max(mechanism.lower[s], q[s]));
    // Joints off the tool's path stay as they were, wherever that is.
    if (q[s] !== near[s] && Math.abs(clamped - q[s]) > LIMIT_SLACK) return null;
    inside[s] = q[s] === near[s] ? q[s] : clamped;
  }
  return inside;
}

export const isHitAt = (mechanism: Mechanism, tool: CompiledTool, task: Task, q: Float64Array): boolean =>
  isHit(errorAt(mechanism, [{ tool, task }], q));

/** The largest distance (m) and angle (rad) of several tools against their tasks at a pose. */
export function errorAt(
  mechanism: Mechanism,
  asks: readonly Ask[],
  q: Float64Array,
): { distance: number; angle: number } {
  let [distance, angle] = [0, 0];
  for (const ask of asks) {
    const error = askError(mechanism, ask, q);
    distance = Math.max(distance, error.distance);
    angle = Math.max(angle, error.angle);
  }
  return { distance, angle };
}

export function askError(mechanism: Mechanism, ask: Ask, q: Float64Array): { distance: number; angle: number } {
  const task = ask.on ? taskIn(carriedFrame(mechanism, ask.on, q), ask.task) : ask.task;
  return taskError(task, probeOf(mechanism, ask.tool).frameAt(q));
}

/** World transform of a frame that moves with a joint. */
export function carriedFrame(mechanism: Mechanism, { joint, local }: Carried, q: Float64Array): Float64Array {
  if (joint < 0) return mul(mechanism.base, local);
  const space = kinematicsSpace(mechanism);
  framesInto(space, mechanism, q);
  return mul(space.frames.slice(STRIDE * joint, STRIDE * joint + STRIDE), local);
}

export function judge(
  mechanism: Mechanism,
  asks: readonly Ask[],
  q: Float64Array,
  near: Float64Array,
  posture: string,
  singular: boolean,
): Solution {
  const slots = asks.length === 1 ? asks[0].tool.slots : slotsOf(mechanism, asks);
  return {
    q,
    posture,
    singular,
    ...errorAt(mechanism, asks, q),
    limitMargin: limitMargin(mechanism, slots, q),
    away: awayOf(mechanism, q, near),
    awayS: awayTime(mechanism, q, near),
  };
}

/** Smallest distance to a limit as a share of half the range; 1 where nothing is limited; negative past a limit. */
export function limitMargin(mechanism: Mechanism, slots: Iterable<number>, q: Float64Array): number {
  let margin = 1;
  for (const s of slots) {
    const range = mechanism.upper[s] - mechanism.lower[s];
    if (Number.isFinite(range))
      margin = Math.min(margin, (2 * Math.min(q[s] - mechanism.lower[s], mechanism.upper[s] - q[s])) / range);
  }
  return margin;
}

function awayOf(mechanism: Mechanism, q: Float64Array, near: Float64Array): number {
  let away = 0;
  for (let s = 0; s < mechanism.m; s++) away = Math.max(away, inUnit(mechanism, s, Math.abs(q[s] - near[s])));
  return away;
}

function awayTime(mechanism: Mechanism, q: Float64Array, near: Float64Array): number {
  let seconds = 0;
  for (let s = 0; s < mechanism.m; s++) seconds = Math.max(seconds, Math.abs(q[s] - near[s]) / mechanism.speed[s]);
  return seconds;
}

/** Joint values closer than this (rad or m) are the same solution. */
const SAME = 1e-6;

export function distinct(solutions: readonly Solution[]): Solution[] {
  return solutions.filter(
    (a, i) => !solutions.slice(0, i).some((b) => a.q.every((v, s) => Math.abs(v - b.q[s]) < SAME)),
  );
}
