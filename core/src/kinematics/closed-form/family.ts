/**
 * Families of poses with one free parameter: what is left to choose where an arm has one joint more than the task needs, or
 * where a joint turns without moving the target. Of every branch of the family the member that is allowed and nearest.
 */
import { rulesExcess, type Mechanism } from '../../mechanism';
import { LIMIT_SLACK } from '../solution';
import type { Miss } from './planar-arm';

/** A branch before limits as a full slot vector (SI). */
export interface RawBranch {
  readonly q: Float64Array;
  readonly posture: string;
  /** Part of a one-parameter family; a member of it. */
  readonly singular: boolean;
}

export interface Family {
  readonly low: number;
  readonly high: number;
  /** `high` is `low` again, a whole turn on. */
  readonly round: boolean;
  /** Every branch at a value of the parameter, or by how much there is none. */
  readonly at: (t: number) => readonly RawBranch[] | Miss;
  /** Value that is tried besides the samples: where the arm stands now. */
  readonly now?: number;
}

/** How far a pose is from being an answer: a time (s) for one that is, above all times by how much it is none. */
export type Cost = (q: Float64Array) => number;
/** Cost of a pose past limits or rules: above any time that a move takes. */
const BEYOND = 1e6;
/** Cost of no pose at all: above any that is past its limits. */
const NOWHERE = 2e6;
const NO_SUCH_BRANCH = 3e6;

/** Time (s) from `near` at full speed; past limits or rules {@link BEYOND} and by how much (SI, summed over `slots`). */
export function costOf(mechanism: Mechanism, slots: readonly number[], near: Float64Array): Cost {
  const { lower, upper, speed, rules, conditions } = mechanism;
  const ruled = rules.length + conditions.length > 0;
  return (q) => {
    let [longest, excess] = [0, 0];
    for (const s of slots) {
      excess += Math.max(0, lower[s] - q[s], q[s] - upper[s]);
      longest = Math.max(longest, Math.abs(q[s] - near[s]) / speed[s]);
    }
    if (ruled) excess += rulesExcess(mechanism, q);
    return excess > LIMIT_SLACK ? BEYOND + Math.min(excess, BEYOND / 2) : longest;
  };
}

/** For telling misses apart: a direction out of the plane is worse than any distance. */
export const severity = (miss: Miss): number => (miss.kind === 'out-of-plane' ? 1e3 + miss.angle : miss.by);

const isMiss = (found: readonly RawBranch[] | Miss): found is Miss => !Array.isArray(found);

/** How closely a family is looked at: members sampled, lows between them that are followed, and how far (golden sections). */
export interface Look {
  readonly samples: number;
  readonly followed: number;
  readonly rounds: number;
}
export const CLOSELY: Look = { samples: 40, followed: 3, rounds: 24 };
/** For a family of families: this one of it … */
export const OUTSIDE: Look = { samples: 16, followed: 1, rounds: 10 };
/** … and what is done at each of its members. */
export const BRIEFLY: Look = { samples: 12, followed: 0, rounds: 0 };

/**
 * The best member of each branch (by its posture), from samples and what lies between them: lows between two samples are
 * followed by golden section, so that a window narrower than their spacing is found where the cost falls towards it.
 * Samples lie closer at the ends, where joints go with the square root of the way. Empty: the least miss.
 */
export function bestMembers(family: Family, cost: Cost, look: Look): readonly RawBranch[] | Miss {
  const { low, high, round, now } = family;
  const [middle, half] = [(low + high) / 2, (high - low) / 2];
  // The parameter as an angle, even over a turn, by its cosine between two ends.
  const place = (phi: number): number => (round ? phi : middle - half * Math.cos(phi));
  const [first, last] = round ? [low, high] : [0, Math.PI];
  const count = half === 0 ? 1 : look.samples;
  const phis = Array.from(
    { length: count },
    (_, i) => first + ((last - first) * i) / Math.max(1, round ? count : count - 1),
  );
  if (now !== undefined && half > 0 && now > low && now < high) {
    const own = round ? now : Math.acos(Math.min(1, Math.max(-1, (middle - now) / half)));
    phis.push(own);
    phis.sort((a, b) => a - b);
  }
  let miss: Miss | null = null;
  const members = phis.map((phi) => {
    const found = family.at(place(phi));
    if (isMiss(found) && (!miss || severity(found) < severity(miss))) miss = found;
    return found;
  });
  const costIn = (
    found: readonly RawBranch[] | Miss,
    posture: string,
  ): { value: number; branch: RawBranch | null } => {
    if (isMiss(found)) return { value: NOWHERE + severity(found), branch: null };
    let best: RawBranch | null = null;
    let value = NO_SUCH_BRANCH;
    for (const branch of found) {
      if (branch.posture !== posture) continue;
      const own = cost(branch.q);
      if (own < value) [best, value] = [branch, own];
    }
    return { value, branch: best };
  };
  const follow = (posture: string, a: number, b: number, start: number): RawBranch | null => {
    let best: RawBranch | null = null;
    let least = Infinity;
    const f = (phi: number): number => {
      const { value, branch } = costIn(family.at(place(phi)), posture);
      if (branch && value < least) [best, least] = [branch, value];
      return value;
    };
    golden(f, a, b, start, look.rounds);
    return best;
  };
  const postures = new Set(members.flatMap((found) => (isMiss(found) ? [] : found.map((b) => b.posture))));
  // Between samples that all miss there may be a window that none of them saw.
  if (!postures.size && count > 1 && look.rounds) {
    const values = members.map((found) => severity(found as Miss));
    for (const i of lows(values, round, look.followed)) {
      const [a, b] = around(phis, i, round, last - first);
      let seen: readonly RawBranch[] | null = null;
      const f = (phi: number): number => {
        const found = family.at(place(phi));
        if (!isMiss(found)) {
          seen ??= found;
          return -1;
        }
        if (severity(found) < severity(miss!)) miss = found;
        return severity(found);
      };
      golden(f, a, b, phis[i], look.rounds);
      for (const { posture } of seen ?? ([] as readonly RawBranch[])) postures.add(posture);
    }
  }
  const result: RawBranch[] = [];
  for (const posture of postures) {
    const looked = members.map((found) => costIn(found, posture));
    const values = looked.map((l) => l.value);
    let best: RawBranch | null = null;
    let least = Infinity;
    const take = (branch: RawBranch | null): void => {
      const value = branch ? cost(branch.q) : Infinity;
      if (value < least) [best, least] = [branch, value];
    };
    for (const [k, i] of lows(values, round, Math.max(1, look.followed)).entries()) {
      // Where one is allowed, lows that are not lead nowhere better.
      if (least < BEYOND && values[i] >= BEYOND) break;
      take(looked[i].branch);
      if (count > 1 && k < look.followed) take(follow(posture, ...around(phis, i, round, last - first), phis[i]));
    }
    if (best) result.push(best);
  }
  return result.length ? result : (miss ?? { kind: 'far', by: Infinity });
}

/** Places of the least values that are no higher than their neighbours, the lowest first. */
function lows(values: readonly number[], round: boolean, most: number): number[] {
  const n = values.length;
  const at = (i: number): number => (round ? values[(i + n) % n] : (values[i] ?? Infinity));
  return values
    .map((_, i) => i)
    .filter((i) => values[i] <= at(i - 1) && values[i] <= at(i + 1))
    .sort((a, b) => values[a] - values[b])
    .slice(0, most);
}

/** The neighbours of sample i, past the ends where it goes round. */
function around(phis: readonly number[], i: number, round: boolean, turn: number): [number, number] {
  const n = phis.length;
  if (!round) return [phis[Math.max(0, i - 1)], phis[Math.min(n - 1, i + 1)]];
  return [i > 0 ? phis[i - 1] : phis[n - 1] - turn, i < n - 1 ? phis[i + 1] : phis[0] + turn];
}

/** Golden-section search for the least of f in [low, high]; `start`, inside, is looked at first. */
function golden(f: (x: number) => number, low: number, high: number, start: number, rounds: number): number {
  const ratio = (Math.sqrt(5) - 1) / 2;
  let [a, b] = [low, high];
  let x = b - ratio * (b - a);
  let y = a + ratio * (b - a);
  let [fx, fy] = [f(x), f(y)];
  const fs = f(start);
  // Towards the side that the start shows to be the lower one.
  if (start > low && start < high && fs < Math.min(fx, fy)) {
    if (start < x) b = x;
    else if (start > y) a = y;
    else [a, b] = [x, y];
    x = b - ratio * (b - a);
    y = a + ratio * (b - a);
    [fx, fy] = [f(x), f(y)];
  }
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
  return fx < fy ? x : y;
}

/** Of several branches of one posture the best. */
export function onePerPosture(list: readonly RawBranch[], cost: Cost): RawBranch[] {
  const best = new Map<string, { branch: RawBranch; value: number }>();
  for (const branch of list) {
    const value = cost(branch.q);
    const before = best.get(branch.posture);
    if (!before || value < before.value) best.set(branch.posture, { branch, value });
  }
  return [...best.values()].map(({ branch }) => branch);
}
