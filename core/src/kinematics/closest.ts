/** Numeric answers from several starts: solutions of any tree, and the closest pose where there is none. */
import type { Mechanism } from '../mechanism';
import { rulesExcess } from '../mechanism';
import { NumericSolver, slotsOf, solveNumeric } from './numeric';
import { postureAt } from './posture';
import { judge, LIMIT_SLACK, nearestTurn, type Solution } from './solution';
import { isHit, type Ask, type Task } from './task';

/** Starts tried at most for a solution, the first being where the arm is. */
export const MAX_STARTS = 64;
/** Starts taken where the first already led to a solution, to find other postures. */
const POSTURE_STARTS = 14;
/** Starts of the closest pose where there is no solution, and how many of the poses they lead to are then refined. */
const CLOSEST_STARTS = 16;
const REFINED = 6;
/** Range (SI) that starts of an unbounded joint are spread over: a turn, or half a metre. */
const SPREAD = { turning: 2 * Math.PI, sliding: 0.5 };
/** Steps of the Kronecker sequence: powers of the root of x^(d+1) = x + 1 for d = 7 (Roberts 2018). */
const ROOT = 1.0812740632;

/**
 * Start k of a solve, always the same for the same arm: where it is, home, the middle of the ranges, then a
 * low-discrepancy sequence over them. Joints that are not among `moved` stay where they are.
 */
function start(mechanism: Mechanism, moved: ReadonlySet<number>, near: Float64Array, k: number): Float64Array {
  if (k === 0) return near.slice();
  return mechanism.home.map((home, s) => {
    if (!moved.has(s)) return near[s];
    if (k === 1) return home;
    const [low, high] = [mechanism.lower[s], mechanism.upper[s]];
    const share = k === 2 ? 0.5 : (0.5 + (k - 2) * ROOT ** -((s % 7) + 1) + 0.17 * Math.floor(s / 7)) % 1;
    if (Number.isFinite(high - low)) return low + share * (high - low);
    const spread = mechanism.units[mechanism.jointOfSlot[s]] === 'mm' ? SPREAD.sliding : SPREAD.turning;
    return home + (share - 0.5) * spread;
  });
}

const tasksOf = (asks: readonly Ask[]): Task[] => asks.map((ask) => ask.task);
const movedBy = (mechanism: Mechanism, asks: readonly Ask[], held?: ReadonlySet<number>): Set<number> =>
  new Set(slotsOf(mechanism, asks).filter((s) => !held?.has(s)));

/**
 * Solutions from seeded starts: the best of each posture class among the first few starts, or the first that any of
 * {@link MAX_STARTS} leads to. None: an empty list. `first`: stop at the first solution.
 */
export function numericSolutions(
  mechanism: Mechanism,
  asks: readonly Ask[],
  near: Float64Array,
  {
    held,
    first = false,
    starts = MAX_STARTS,
    rules = true,
  }: { held?: ReadonlySet<number>; first?: boolean; starts?: number; rules?: boolean } = {},
): Solution[] {
  const solver = new NumericSolver(mechanism, asks, { held, rules, quick: true });
  const tasks = tasksOf(asks);
  const moved = movedBy(mechanism, asks, held);
  const best = new Map<string, Solution>();
  for (let k = 0; k < starts && !(k >= POSTURE_STARTS && best.size); k++) {
    const q = start(mechanism, moved, near, k);
    solver.solveInto(q, tasks);
    if (!isHit(solver)) continue;
    for (const s of moved) if (mechanism.continuous[s]) q[s] = nearestTurn(q[s], near[s], -Infinity, Infinity);
    const posture = postureAt(mechanism, asks[0].tool, q);
    const solution = judge(mechanism, asks, q, near, posture, false);
    if (first) return [solution];
    // A pose that keeps the rules stands before a shorter way to one that does not.
    const rank = (s: Solution): number => s.awayS + (rulesExcess(mechanism, s.q) > LIMIT_SLACK ? 1e6 : 0);
    const before = best.get(posture);
    if (isHit(solution) && (!before || rank(solution) < rank(before))) best.set(posture, solution);
  }
  return [...best.values()];
}

/** The closest pose inside the limits by priorities: position first, then direction (or the other way round). */
export function closestPose(
  mechanism: Mechanism,
  asks: readonly Ask[],
  near: Float64Array,
  first: 'position' | 'rotation',
  held?: ReadonlySet<number>,
): Solution {
  const weights = first === 'position' ? { rotationWeight: 1e-3 } : { positionWeight: 1e-3 };
  const tasks = tasksOf(asks);
  const bare = tasks.map((task): Task => (task.kind === 'aim' ? task : { kind: 'free', position: task.position }));
  const moved = movedBy(mechanism, asks, held);
  const rank = ({ distance, angle, q }: { distance: number; angle: number; q: Float64Array }): number =>
    (rulesExcess(mechanism, q) > LIMIT_SLACK ? 1e6 : 0) +
    (first === 'position' ? distance * 1e4 + angle : angle * 1e4 + distance);
  const turned = tasks.some((task) => task.kind === 'direction' || task.kind === 'full');
  // What comes first alone leads further than both together: by it the starts are told apart.
  const leading = new NumericSolver(mechanism, asks, { held, ...(turned && first === 'rotation' ? weights : {}) });
  const lead = first === 'position' ? bare : tasks;
  const led = Array.from({ length: CLOSEST_STARTS }, (_, k) => {
    const q = start(mechanism, moved, near, k);
    leading.solveInto(q, lead);
    return { q, distance: leading.distance, angle: leading.angle };
  });
  const refined = led
    .sort((a, b) => rank(a) - rank(b))
    .slice(0, turned ? REFINED : 1)
    .map(({ q: from }) => {
      let q = from;
      if (turned) {
        q = solveNumeric(mechanism, asks, tasks, q, { ...weights, maxIterations: 120, held }).q;
        if (first === 'position') q = solveNumeric(mechanism, asks, bare, q, { held }).q;
      }
      return judge(mechanism, asks, q, near, 'closest', false);
    });
  return refined.reduce((a, b) => (rank(b) < rank(a) - 1e-9 ? b : a));
}
