/** Numeric answers from several starts: a solution of any tree, and the closest pose where there is none. */
import type { CompiledTool, Mechanism } from '../mechanism';
import { NumericSolver, solveNumeric } from './numeric';
import { judge, nearestTurn, type Solution } from './solution';
import { isHit, type Task } from './task';

/** Starts tried at most for a solution, the first being where the arm is. */
export const MAX_STARTS = 64;
/** Starts of the closest pose where there is no solution. */
const CLOSEST_STARTS = 5;
/** Range (SI) that starts of an unbounded joint are spread over: a turn, or half a metre. */
const SPREAD = { turning: 2 * Math.PI, sliding: 0.5 };
/** Steps of the Kronecker sequence: powers of the root of x^(d+1) = x + 1 for d = 7 (Roberts 2018). */
const ROOT = 1.0812740632;

/**
 * Start k of a solve, always the same for the same arm: where it is, home, the middle of the ranges, then a
 * low-discrepancy sequence over them. Joints off the tool's path stay where they are.
 */
function start(mechanism: Mechanism, tool: CompiledTool, near: Float64Array, k: number): Float64Array {
  if (k === 0) return near.slice();
  return mechanism.home.map((home, s) => {
    if (!tool.slots.includes(s)) return near[s];
    if (k === 1) return home;
    const [low, high] = [mechanism.lower[s], mechanism.upper[s]];
    const share = k === 2 ? 0.5 : (0.5 + (k - 2) * ROOT ** -((s % 7) + 1) + 0.17 * Math.floor(s / 7)) % 1;
    if (Number.isFinite(high - low)) return low + share * (high - low);
    const spread = mechanism.units[mechanism.jointOfSlot[s]] === 'mm' ? SPREAD.sliding : SPREAD.turning;
    return home + (share - 0.5) * spread;
  });
}

/** The first of {@link MAX_STARTS} seeded starts that leads to a solution; else the least missing of them. */
export function numericSolution(mechanism: Mechanism, tool: CompiledTool, task: Task, near: Float64Array): Solution {
  const solver = new NumericSolver(mechanism, tool);
  let best: { q: Float64Array; miss: number } | null = null;
  for (let k = 0; k < MAX_STARTS; k++) {
    const q = start(mechanism, tool, near, k);
    solver.solveInto(q, task);
    const miss = solver.distance + 0.1 * solver.angle;
    if (!best || miss < best.miss) best = { q, miss };
    if (isHit(solver)) break;
  }
  const { q } = best!;
  for (const s of tool.slots) if (mechanism.continuous[s]) q[s] = nearestTurn(q[s], near[s], -Infinity, Infinity);
  return judge(mechanism, tool, task, q, near, 'solved', false);
}

/** The closest pose inside the limits by priorities: position first, then direction (or the other way round). */
export function closestPose(
  mechanism: Mechanism,
  tool: CompiledTool,
  task: Task,
  near: Float64Array,
  first: 'position' | 'rotation',
): Solution {
  const weights = first === 'position' ? { rotationWeight: 1e-3 } : { positionWeight: 1e-3 };
  let best: Solution | null = null;
  const rank = (s: Solution): number =>
    first === 'position' ? s.distance * 1e4 + s.angle : s.angle * 1e4 + s.distance;
  for (let k = 0; k < CLOSEST_STARTS; k++) {
    let { q } = solveNumeric(mechanism, tool, task, start(mechanism, tool, near, k));
    if (task.kind !== 'free') {
      q = solveNumeric(mechanism, tool, task, q, { ...weights, maxIterations: 120 }).q;
      if (first === 'position') q = solveNumeric(mechanism, tool, { kind: 'free', position: task.position }, q).q;
    }
    const solution = judge(mechanism, tool, task, q, near, 'closest', false);
    if (!best || rank(solution) < rank(best) - 1e-9) best = solution;
  }
  return best!;
}
