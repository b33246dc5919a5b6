/** Closed-form branches of a task before limits, as full slot vectors, and the best use of a joint to spare. */
import type { Mechanism } from '../../mechanism';
import { LIMIT_SLACK, nearestTurn } from '../solution';
import type { Task } from '../task';
import {
  elbowBranches,
  heightOf,
  planarTurn,
  turnBranches,
  type Branch,
  type Miss,
  type PlanarArm,
} from './turn-and-planar';

export type RawBranch = Branch & { q: Float64Array };
/** Full slot vectors before limits; a miss; or null where there is no closed form. */
export type ClosedResult =
  { kind: 'branches'; list: readonly { readonly q: Float64Array; readonly singular: boolean }[] } | Miss | null;
type PlanarResult = { kind: 'branches'; list: RawBranch[] } | Miss | null;

/** Branches before limits as full slot vectors; a miss; or null where this task has no closed form on this arm. */
export function closedBranches(mechanism: Mechanism, arm: PlanarArm, task: Task, near: Float64Array): PlanarResult {
  const turns = turnBranches(arm, task.position, near[arm.slots[0]]);
  if (!Array.isArray(turns)) return turns;
  const spare = arm.points.length === 3;
  const misses: Miss[] = [];
  const list: RawBranch[] = [];
  for (const { q0, y, over, singular } of turns) {
    const target = [heightOf(arm, task.position), y] as const;
    let theta: number | null = null;
    if (task.kind !== 'free') {
      const turn = planarTurn(arm, task, q0);
      if (turn === null) return null;
      if (typeof turn !== 'number') {
        // With the target on the turn axis any turn will do: take the one that faces the direction.
        if (singular && task.kind === 'direction') return null;
        misses.push(turn);
        continue;
      }
      theta = turn;
    }
    if (spare && theta === null) {
      const best = freeWrist(mechanism, arm, q0, target, near, over, singular);
      if (Array.isArray(best)) list.push(...best);
      else misses.push(best);
      continue;
    }
    const elbows = elbowBranches(arm, q0, target, theta, near, over, singular);
    if (Array.isArray(elbows))
      list.push(...elbows.map((branch) => ({ ...branch, q: place(mechanism, arm, branch, near) })));
    else misses.push(elbows);
  }
  // Two planar joints cannot choose a direction: the caller keeps a branch only where it happens to fit.
  if (list.length) return { kind: 'branches', list };
  return misses.sort((a, b) => severity(a) - severity(b))[0] ?? null;
}

const severity = (miss: Miss): number => (miss.kind === 'out-of-plane' ? 1e3 + miss.angle : miss.by);

/** How many wrist angles are tried before the best is refined. */
const WRIST_SAMPLES = 144;

/**
 * Position alone leaves one joint of three to choose: per posture the tool turn that stays inside the limits and
 * nearest to `near` (by the largest joint change), sampled over a full turn and refined by golden section.
 */
function freeWrist(
  mechanism: Mechanism,
  arm: PlanarArm,
  q0: number,
  target: readonly [number, number],
  near: Float64Array,
  over: boolean,
  singular: boolean,
): RawBranch[] | Miss {
  let miss: Miss = { kind: 'far', by: Infinity };
  const score = (branch: RawBranch): number => {
    let worst = 0;
    let excess = 0;
    for (const s of arm.slots) {
      excess += Math.max(0, mechanism.lower[s] - branch.q[s], branch.q[s] - mechanism.upper[s]);
      worst = Math.max(worst, Math.abs(branch.q[s] - near[s]));
    }
    return excess > LIMIT_SLACK ? 1e3 + excess : worst;
  };
  const at = (theta: number, up: boolean): RawBranch | null => {
    const elbows = elbowBranches(arm, q0, target, theta, near, over, singular);
    if (!Array.isArray(elbows)) {
      if (severity(elbows) < severity(miss)) miss = elbows;
      return null;
    }
    const branch = elbows.find((b) => b.elbowUp === up) ?? elbows[0];
    return { ...branch, q: place(mechanism, arm, branch, near) };
  };
  const result: RawBranch[] = [];
  for (const up of [true, false]) {
    const value = (theta: number): number => {
      const branch = at(theta, up);
      return branch && branch.elbowUp === up ? score(branch) : Infinity;
    };
    const step = (2 * Math.PI) / WRIST_SAMPLES;
    // Start from the turn that `near` has, so that a small move stays a small move.
    const first = arm.slots.slice(1).reduce((sum, s, k) => sum + arm.signs[k] * near[s], 0);
    let best = first;
    let least = value(first);
    for (let i = 1; i < WRIST_SAMPLES; i++) {
      const v = value(first + i * step);
      if (v < least) {
        least = v;
        best = first + i * step;
      }
    }
    if (least === Infinity) continue;
    best = golden(value, best - step, best + step, best);
    const branch = at(best, up);
    if (branch) result.push(branch);
  }
  return result.length ? result : miss;
}

/** Golden-section search; keeps the start where nothing better is found. */
function golden(f: (x: number) => number, low: number, high: number, start: number): number {
  const ratio = (Math.sqrt(5) - 1) / 2;
  let [a, b] = [low, high];
  let x = b - ratio * (b - a);
  let y = a + ratio * (b - a);
  let [fx, fy] = [f(x), f(y)];
  for (let i = 0; i < 40; i++) {
    if (fx < fy) {
      b = y;
      y = x;
      fy = fx;
      x = b - ratio * (b - a);
      fx = f(x);
    } else {
      a = x;
      x = y;
      fx = fy;
      y = a + ratio * (b - a);
      fy = f(y);
    }
  }
  const best = fx < fy ? x : y;
  return Math.min(fx, fy) <= f(start) ? best : start;
}

/** Angles put into full slots, each on the turn that is inside its limits and nearest to `near`. */
function place(mechanism: Mechanism, arm: PlanarArm, branch: Branch, near: Float64Array): Float64Array {
  const q = near.slice();
  branch.angles.forEach((angle, k) => {
    const s = arm.slots[k];
    q[s] = nearestTurn(angle, near[s], mechanism.lower[s], mechanism.upper[s]);
  });
  return q;
}

export const postureOf = (branch: Branch): string =>
  `${branch.elbowUp ? 'elbow up' : 'elbow down'}${branch.over ? ', reaching over' : ''}`;
