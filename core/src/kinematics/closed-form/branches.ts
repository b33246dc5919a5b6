/** Closed-form branches of a planar arm before limits, as full slot vectors, and the best use of a joint to spare. */
import type { Mechanism } from '../../mechanism';
import { LIMIT_SLACK, nearestTurn } from '../solution';
import type { Task } from '../task';
import {
  handTurnAt,
  handTurnFor,
  leadsTo,
  planarBranches,
  rollFor,
  type Branch,
  type Led,
  type Miss,
  type PlanarArm,
} from './planar-arm';

/** A branch before limits as a full slot vector (SI). */
export interface RawBranch {
  readonly q: Float64Array;
  readonly posture: string;
  readonly singular: boolean;
}

/** Branches before limits; a miss; or null where there is no closed form for this task. */
export type ClosedResult = { readonly kind: 'branches'; readonly list: readonly RawBranch[] } | Miss | null;

/** How far a pose is past its limits (SI, summed over `slots`), and how long (s) the way to it takes at full speed. */
export function cost(mechanism: Mechanism, slots: readonly number[], q: Float64Array, near: Float64Array): number {
  let longest = 0;
  let excess = 0;
  for (const s of slots) {
    excess += Math.max(0, mechanism.lower[s] - q[s], q[s] - mechanism.upper[s]);
    longest = Math.max(longest, Math.abs(q[s] - near[s]) / mechanism.speed[s]);
  }
  return excess > LIMIT_SLACK ? BEYOND + excess : longest;
}
/** Cost of a pose past its limits: above any time that a move takes. */
export const BEYOND = 1e6;

/** `coarse`: a joint to spare is chosen from fewer samples and not refined; for searches that call this often. */
export function branchesOf(
  mechanism: Mechanism,
  arm: PlanarArm,
  task: Task,
  near: Float64Array,
  coarse = false,
): ClosedResult {
  if (task.kind === 'aim') return null;
  const leads = leadsTo(arm, task.position, near[arm.lead.slot]);
  if (!Array.isArray(leads)) return leads;
  const isSpare = arm.linkage.slots.length === 3;
  const misses: Miss[] = [];
  const list: RawBranch[] = [];
  for (const led of leads) {
    const theta = handTurnFor(arm, task, led.lead);
    if (theta !== null && typeof theta !== 'number') {
      // With the target on the turn axis any turn will do: the general solver takes the one that faces the direction.
      if (led.singular && task.kind === 'direction') return null;
      misses.push(theta);
      continue;
    }
    const found =
      isSpare && theta === null
        ? freeHand(mechanism, arm, led, near, coarse)
        : placed(mechanism, arm, planarBranches(arm, led, isSpare ? theta! : 0, near), near);
    if (!Array.isArray(found)) {
      misses.push(found);
      continue;
    }
    if (arm.roll && task.kind === 'full')
      for (const { q } of found) {
        const s = arm.roll.slot;
        const roll = rollFor(arm, task.rotation, led.lead, handTurnAt(arm, q));
        q[s] = nearestTurn(roll, near[s], mechanism.lower[s], mechanism.upper[s]);
      }
    list.push(...found);
  }
  // Two planar joints cannot choose a direction: the caller keeps a branch only where it happens to fit.
  if (list.length) return { kind: 'branches', list };
  return misses.sort((a, b) => severity(a) - severity(b))[0] ?? null;
}

export const severity = (miss: Miss): number => (miss.kind === 'out-of-plane' ? 1e3 + miss.angle : miss.by);

/** Raw values put into full slots, each turning one on the turn that is inside its limits and nearest to `near`. */
function placed(
  mechanism: Mechanism,
  arm: PlanarArm,
  branches: readonly Branch[] | Miss,
  near: Float64Array,
): RawBranch[] | Miss {
  if (!isList(branches)) return branches;
  return branches.map(({ values, posture, singular }) => {
    const q = near.slice();
    values.forEach((value, k) => {
      const s = arm.slots[k];
      q[s] =
        k === 0 && arm.lead.kind === 'slide'
          ? value
          : nearestTurn(value, near[s], mechanism.lower[s], mechanism.upper[s]);
    });
    return { q, posture, singular };
  });
}
const isList = (value: readonly Branch[] | Miss): value is readonly Branch[] => Array.isArray(value);

/** How many turns of the hand are tried before the best is refined. */
const HAND_SAMPLES = 96;
const COARSE_SAMPLES = 24;

/**
 * Position alone leaves one joint of three to choose: per posture the turn of the hand that stays inside the limits and is
 * the shortest move from `near`, sampled over a full turn and refined by golden section.
 */
function freeHand(
  mechanism: Mechanism,
  arm: PlanarArm,
  led: Led,
  near: Float64Array,
  coarse: boolean,
): RawBranch[] | Miss {
  let miss: Miss = { kind: 'far', by: Infinity };
  const samples = coarse ? COARSE_SAMPLES : HAND_SAMPLES;
  const step = (2 * Math.PI) / samples;
  // Start from the turn that `near` has, so that a small move stays a small move.
  const first = handTurnAt(arm, near);
  const best = new Map<string, { theta: number; least: number }>();
  const at = (theta: number): RawBranch[] => {
    const found = placed(mechanism, arm, planarBranches(arm, led, theta, near), near);
    if (Array.isArray(found)) return found;
    if (severity(found) < severity(miss)) miss = found;
    return [];
  };
  for (let i = 0; i < samples; i++) {
    const theta = first + i * step;
    for (const { q, posture } of at(theta)) {
      const value = cost(mechanism, arm.slots, q, near);
      const known = best.get(posture);
      if (!known || value < known.least) best.set(posture, { theta, least: value });
    }
  }
  const result: RawBranch[] = [];
  for (const [posture, { theta }] of best) {
    const value = (t: number): number => {
      const branch = at(t).find((b) => b.posture === posture);
      return branch ? cost(mechanism, arm.slots, branch.q, near) : Infinity;
    };
    const chosen = coarse ? theta : golden(value, theta - step, theta + step, theta);
    const branch = at(chosen).find((b) => b.posture === posture);
    if (branch) result.push(branch);
  }
  return result.length ? result : miss;
}

/** Golden-section search for the least of f; keeps the start where nothing better is found. */
export function golden(f: (x: number) => number, low: number, high: number, start: number, rounds = 40): number {
  const ratio = (Math.sqrt(5) - 1) / 2;
  let [a, b] = [low, high];
  let x = b - ratio * (b - a);
  let y = a + ratio * (b - a);
  let [fx, fy] = [f(x), f(y)];
  for (let i = 0; i < rounds; i++) {
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
