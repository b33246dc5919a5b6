/** Numeric answers from several starts: a solution of any tree, and the closest pose where there is none. */
import type { CompiledTool, Mechanism } from '../mechanism';
import { solveNumeric } from './numeric';
import { judge, nearestTurn, type Solution } from './solution';
import { isHit, type Task } from './task';

function starts(mechanism: Mechanism, near: Float64Array): Float64Array[] {
  const middle = mechanism.home.map((home, s) => {
    const sum = mechanism.lower[s] + mechanism.upper[s];
    return Number.isFinite(sum) ? sum / 2 : home;
  });
  const share = (f: number): Float64Array =>
    middle.map((v, s) => {
      const half = (mechanism.upper[s] - mechanism.lower[s]) / 2;
      return Number.isFinite(half) ? v + f * half * (s % 2 ? -1 : 1) : v;
    });
  return [near, mechanism.home, middle, share(0.5), share(-0.5)];
}

export function numericSolution(mechanism: Mechanism, tool: CompiledTool, task: Task, near: Float64Array): Solution {
  let best: Solution | null = null;
  for (const start of starts(mechanism, near)) {
    const { q } = solveNumeric(mechanism, tool, task, start);
    for (const s of tool.slots) if (mechanism.continuous[s]) q[s] = nearestTurn(q[s], near[s], -Infinity, Infinity);
    const solution = judge(mechanism, tool, task, q, near, 'solved', false);
    if (isHit({ distance: solution.distance, angle: solution.angle })) return solution;
    if (!best || solution.distance + 0.1 * solution.angle < best.distance + 0.1 * best.angle) best = solution;
  }
  return best!;
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
  for (const start of starts(mechanism, near)) {
    let { q } = solveNumeric(mechanism, tool, task, start);
    if (task.kind !== 'free') {
      q = solveNumeric(mechanism, tool, task, q, { ...weights, maxIterations: 120 }).q;
      if (first === 'position') q = solveNumeric(mechanism, tool, { kind: 'free', position: task.position }, q).q;
    }
    const solution = judge(mechanism, tool, task, q, near, 'closest', false);
    if (!best || rank(solution) < rank(best) - 1e-9) best = solution;
  }
  return best!;
}
