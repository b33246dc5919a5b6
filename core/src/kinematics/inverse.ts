/**
 * Inverse kinematics: closed form with every posture where the geometry is recognised, damped least squares for the
 * rest; every answer is checked by forward kinematics. Without an answer: reasons, and the closest pose that is.
 */
import { rulesExcess, type CompiledTool, type Mechanism } from '../mechanism';
import { closedBranches, postureOf } from './closed-form/branches';
import { solveDelta } from './closed-form/delta';
import { recognise } from './closed-form/turn-and-planar';
import { numericSolution } from './closest';
import { distinct, insideLimits, judge, LIMIT_SLACK, type InverseResult, type Solution } from './solution';
import { isHit, type Task } from './task';
import { explain, reason, ruleReason } from './why-not';

export function solveInverse(
  mechanism: Mechanism,
  tool: CompiledTool,
  task: Task,
  near: Float64Array = mechanism.home,
): InverseResult {
  if (tool.slots.length === 0) return { reachable: false, solutions: [], reasons: [reason('no-joints')] };
  if (mechanism.delta && tool.parent === mechanism.delta.platform)
    return solveDelta(mechanism, mechanism.delta, tool, task, near);
  const arm = recognise(mechanism, tool);
  const branches = arm ? closedBranches(mechanism, arm, task, near) : null;
  const found: Solution[] = [];
  if (branches?.kind === 'branches')
    for (const branch of branches.list) {
      const q = insideLimits(mechanism, branch.q, near);
      if (!q) continue;
      const solution = judge(mechanism, tool, task, q, near, postureOf(branch), branch.singular);
      if (isHit({ distance: solution.distance, angle: solution.angle })) found.push(solution);
    }
  else if (!branches) {
    const solution = numericSolution(mechanism, tool, task, near);
    if (isHit({ distance: solution.distance, angle: solution.angle })) found.push(solution);
  }
  const allowed = found.filter((solution) => rulesExcess(mechanism, solution.q) <= LIMIT_SLACK);
  if (found.length && !allowed.length)
    return { reachable: false, solutions: [], reasons: [ruleReason(mechanism, found)] };
  const solutions = distinct(allowed).sort((a, b) => a.away - b.away || b.limitMargin - a.limitMargin);
  if (solutions.length) return { reachable: true, solutions, reasons: [] };
  return { reachable: false, solutions: [], ...explain(mechanism, tool, task, near, branches) };
}
