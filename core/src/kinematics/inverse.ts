/**
 * Inverse kinematics: closed form with every posture where the geometry is recognised, damped least squares for the
 * rest; every answer is checked by forward kinematics. Without an answer: reasons, and the closest pose that is.
 */
import { hasRules, rulesExcess, type CompiledTool, type Mechanism } from '../mechanism';
import { closedBranches, closedFormOf, type ClosedResult } from './closed-form';
import { solveDelta } from './closed-form/delta';
import { closestPose, numericSolutions } from './closest';
import { slotsOf } from './numeric';
import {
  distinct,
  insideLimits,
  judge,
  LIMIT_SLACK,
  type InverseResult,
  type Reason,
  type Solution,
} from './solution';
import { isHit, type Ask, type Task } from './task';
import { explain, missReasons, reason, ruleReason } from './why-not';

export interface InverseOptions {
  /** Slots that keep their values. */
  readonly held?: ReadonlySet<number>;
  /** Slots whose motor knows speeds only and cannot be sent to a place: a tool that hangs on one is refused. */
  readonly speedOnly?: ReadonlySet<number>;
  /** Without a solution, work out reasons and the closest pose; default true. */
  readonly explained?: boolean;
  /** Starts of the numeric solver at most; default 64. */
  readonly starts?: number;
}

/** Where one tool's task, in the world, can be met: solutions in the order of the way from `near`. */
export function solveInverse(
  mechanism: Mechanism,
  tool: CompiledTool,
  task: Task,
  near: Float64Array = mechanism.home,
  options: InverseOptions = {},
): InverseResult {
  return solveTogether(mechanism, [{ tool, task }], near, options);
}

/** The same for several tools at once, or for tasks in frames that move with a joint; numeric then. */
export function solveTogether(
  mechanism: Mechanism,
  asks: readonly Ask[],
  near: Float64Array = mechanism.home,
  { held, speedOnly, explained = true, starts }: InverseOptions = {},
): InverseResult {
  const refusal = refuse(mechanism, asks, held, speedOnly);
  if (refusal) return { reachable: false, solutions: [], reasons: [refusal] };
  const single = asks.length === 1 && !asks[0].on ? asks[0] : null;
  if (single && mechanism.delta && single.tool.parent === mechanism.delta.platform && single.task.kind !== 'aim')
    return solveDelta(mechanism, mechanism.delta, single.tool, single.task, near, explained);
  const branches = single ? closedFormBranches(mechanism, single, near, held) : null;
  const found = branches
    ? branches.kind === 'branches'
      ? fitting(mechanism, asks, branches, near)
      : []
    : numericSolutions(mechanism, asks, near, { held, starts });
  const allowed = found.filter((solution) => rulesExcess(mechanism, solution.q) <= LIMIT_SLACK);
  if (!explained && !allowed.length) return { reachable: false, solutions: [], reasons: [] };
  if (!allowed.length && hasRules(mechanism)) {
    const bent = branches ? found : numericSolutions(mechanism, asks, near, { held, starts, rules: false });
    if (bent.length)
      return {
        reachable: false,
        solutions: [],
        reasons: [ruleReason(mechanism, bent)],
        closest: closestPose(mechanism, asks, near, 'position', held),
      };
  }
  const solutions = distinct(allowed).sort((a, b) => a.awayS - b.awayS || b.limitMargin - a.limitMargin);
  if (solutions.length) return { reachable: true, solutions, reasons: [] };
  if (single && single.task.kind !== 'aim')
    return { reachable: false, solutions: [], ...explain(mechanism, single, near, branches, held) };
  const closest = closestPose(mechanism, asks, near, 'position', held);
  return { reachable: false, solutions: [], reasons: missReasons(mechanism, asks, closest), closest };
}

/** What makes a question pointless before anything is solved. */
function refuse(
  mechanism: Mechanism,
  asks: readonly Ask[],
  held?: ReadonlySet<number>,
  speedOnly?: ReadonlySet<number>,
): Reason | null {
  const slots = slotsOf(mechanism, asks);
  if (slots.every((s) => held?.has(s))) return reason(slots.length ? 'all-held' : 'no-joints');
  const runner = slots.find((s) => speedOnly?.has(s));
  if (runner !== undefined) {
    const j = mechanism.jointOfSlot[runner];
    return reason('speed-only', { joint: mechanism.names[j] }, { joint: mechanism.ids[j] });
  }
  return asks.every(({ task }) => isFinite(task)) ? null : reason('target-not-numbers');
}

function isFinite(task: Task): boolean {
  const numbers =
    task.kind === 'aim'
      ? [...task.at]
      : [
          ...task.position,
          ...(task.kind === 'direction' ? task.direction : task.kind === 'full' ? task.rotation : []),
        ];
  return numbers.every(Number.isFinite);
}

/** Branches before limits, where the arm has a closed form for the task and no joint of it is held. */
function closedFormBranches(
  mechanism: Mechanism,
  { tool, task }: Ask,
  near: Float64Array,
  held?: ReadonlySet<number>,
): ClosedResult {
  const form = closedFormOf(mechanism, tool);
  if (!form) return null;
  const stands = form.carriage !== null && held?.has(form.carriage.slot) === true;
  if (form.slots.some((s) => held?.has(s) && !(stands && s === form.carriage!.slot))) return null;
  return closedBranches(mechanism, form, task, near, stands);
}

/** Of branches before limits those inside them that meet the task. */
function fitting(
  mechanism: Mechanism,
  asks: readonly Ask[],
  { list }: Extract<NonNullable<ClosedResult>, { kind: 'branches' }>,
  near: Float64Array,
): Solution[] {
  return list.flatMap(({ q, posture, singular }) => {
    const inside = insideLimits(mechanism, q, near);
    const solution = inside && judge(mechanism, asks, inside, near, posture, singular);
    return solution && isHit(solution) ? [solution] : [];
  });
}
