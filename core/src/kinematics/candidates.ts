/**
 * From what a closed form finds to what is allowed: which branches are answers, which are one but for rounding, and whether
 * the closed form has said all there is to say.
 */
import { rulesExcess, type Mechanism } from '../mechanism';
import type { ClosedResult, RawBranch } from './closed-form';
import { NumericSolver } from './numeric';
import { postureAt } from './posture';
import { insideLimits, judge, LIMIT_SLACK, type Solution } from './solution';
import { isHit, type Ask } from './task';

/**
 * How far (rad or m) past a limit or rule a branch may be and still have an answer within the tolerances beside it: at full
 * stretch a joint turns by the square root of what the tip may be off.
 */
const BESIDE = 0.05;
/** The same where there are other answers: what rounding alone makes of a branch at its limit. */
const HAIR = 1e-3;
/** A miss by more than this (m; rad) is none of rounding. */
const MISSES = { by: 1e-4, angle: 2e-2 };

/** How far (SI) a pose is past its limits or rules. */
export function excessOf(mechanism: Mechanism, slots: Iterable<number>, q: Float64Array): number {
  let worst = 0;
  for (const s of slots) worst = Math.max(worst, mechanism.lower[s] - q[s], q[s] - mechanism.upper[s]);
  return Math.max(worst, rulesExcess(mechanism, q));
}

/** Of branches before limits the allowed ones that meet the task; those beside an answer are led to it. */
export function allowedBranches(
  mechanism: Mechanism,
  ask: Ask,
  list: readonly RawBranch[],
  near: Float64Array,
  held?: ReadonlySet<number>,
): Solution[] {
  const found: Solution[] = [];
  const beside: RawBranch[] = [];
  for (const branch of list) {
    const inside = insideLimits(mechanism, branch.q, near);
    const solution = inside && judge(mechanism, [ask], inside, near, branch.posture, branch.singular);
    if (solution && isHit(solution) && rulesExcess(mechanism, solution.q) <= LIMIT_SLACK) found.push(solution);
    else beside.push(branch);
  }
  if (!beside.length) return found;
  const within = found.length ? HAIR : BESIDE;
  const mended = beside.filter(
    ({ q, singular }) => (singular && !found.length) || excessOf(mechanism, ask.tool.slots, q) <= within,
  );
  return mended.length ? [...found, ...ledInside(mechanism, ask, mended, near, held)] : found;
}

/** Poses that the solver, kept inside limits and rules, reaches from branches that are past them. */
export function ledInside(
  mechanism: Mechanism,
  ask: Ask,
  list: readonly RawBranch[],
  near: Float64Array,
  held?: ReadonlySet<number>,
): Solution[] {
  const solver = new NumericSolver(mechanism, [ask], { held, quick: true });
  return list.flatMap(({ q: raw, singular }) => {
    const q = raw.slice();
    solver.solveInto(q, ask.task);
    if (!isHit(solver) || rulesExcess(mechanism, q) > LIMIT_SLACK) return [];
    const solution = judge(mechanism, [ask], q, near, postureAt(mechanism, ask.tool, q), singular);
    return isHit(solution) ? [solution] : [];
  });
}

/** Whether a closed form without an allowed branch leaves nothing to look for: all it knows of is clearly not allowed. */
export function isSettled(mechanism: Mechanism, ask: Ask, result: NonNullable<ClosedResult>): boolean {
  if (!result.complete) return false;
  const { list, miss } = result;
  if (!list.length) {
    if (!miss) return false;
    // A miss without an amount says that nothing was found, not how far off it is.
    return miss.kind === 'out-of-plane' ? miss.angle > MISSES.angle : miss.by > MISSES.by && miss.by < Infinity;
  }
  return list.every(({ q, singular }) => !singular && excessOf(mechanism, ask.tool.slots, q) > BESIDE);
}
