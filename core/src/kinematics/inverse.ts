/**
 * Inverse kinematics: closed form with every posture where the geometry is recognised, damped least squares for the
 * rest; every answer is checked by forward kinematics. Without an answer: reasons, and the closest pose that is.
 */
import { rulesExcess, type CompiledTool, type Mechanism } from '../mechanism';
import { closedBranches, postureOf, type ClosedResult } from './closed-form/branches';
import { solveDelta } from './closed-form/delta';
import { recogniseSpherical, sphericalBranches } from './closed-form/spherical-wrist';
import { recognise } from './closed-form/turn-and-planar';
import { numericSolution } from './closest';
import {
  distinct,
  insideLimits,
  judge,
  LIMIT_SLACK,
  nearestTurn,
  type InverseResult,
  type Solution,
} from './solution';
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
  const found: Solution[] = [];
  const keep = (q: Float64Array, posture: string, singular: boolean): void => {
    const inside = insideLimits(mechanism, q, near);
    if (!inside) return;
    const solution = judge(mechanism, tool, task, inside, near, posture, singular);
    if (isHit(solution)) found.push(solution);
  };
  const { branches, postures } = closedForms(mechanism, tool, task, near);
  if (branches?.kind === 'branches')
    branches.list.forEach((branch, i) => keep(branch.q, postures[i], branch.singular));
  else if (!branches) {
    const solution = numericSolution(mechanism, tool, task, near);
    if (isHit(solution)) found.push(solution);
  }
  const allowed = found.filter((solution) => rulesExcess(mechanism, solution.q) <= LIMIT_SLACK);
  if (found.length && !allowed.length)
    return { reachable: false, solutions: [], reasons: [ruleReason(mechanism, found)] };
  const solutions = distinct(allowed).sort((a, b) => a.away - b.away || b.limitMargin - a.limitMargin);
  if (solutions.length) return { reachable: true, solutions, reasons: [] };
  return { reachable: false, solutions: [], ...explain(mechanism, tool, task, near, branches) };
}

/** Every branch of the closed form that this arm and task have, as full slots with their posture's name; null for none. */
function closedForms(
  mechanism: Mechanism,
  tool: CompiledTool,
  task: Task,
  near: Float64Array,
): { branches: ClosedResult; postures: string[] } {
  const planar = recognise(mechanism, tool);
  if (planar) {
    const branches = closedBranches(mechanism, planar, task, near);
    return { branches, postures: branches?.kind === 'branches' ? branches.list.map(postureOf) : [] };
  }
  const spherical = task.kind === 'full' ? recogniseSpherical(mechanism, tool) : null;
  if (!spherical || task.kind !== 'full') return { branches: null, postures: [] };
  const found = sphericalBranches(spherical, task, near);
  if (!Array.isArray(found)) return { branches: found, postures: [] };
  const slots = [...spherical.arm.slots, ...spherical.slots];
  const list = found.map(({ angles, singular }) => {
    const q = near.slice();
    angles.forEach((angle, k) => {
      const s = slots[k];
      q[s] = nearestTurn(angle, near[s], mechanism.lower[s], mechanism.upper[s]);
    });
    return { q, singular };
  });
  return { branches: { kind: 'branches', list }, postures: found.map(({ posture }) => posture) };
}
