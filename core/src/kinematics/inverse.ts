/**
 * Inverse kinematics: closed form with every posture where the geometry is recognised, damped least squares for the
 * rest; every answer is checked by forward kinematics. Without an answer: reasons, and the closest pose that is.
 */
import { fromUnit, hasRules, rulesExcess, type CompiledTool, type Mechanism } from '../mechanism';
import { allowedBranches } from './candidates';
import type { ClosedResult } from './closed-form';
import { solveDelta } from './closed-form/delta';
import { closestPose } from './closest';
import { slotsOf } from './numeric';
import { numericSolutions } from './search';
import { postureAt } from './posture';
import { distinct, errorAt, judge, LIMIT_SLACK, type InverseResult, type Reason, type Solution } from './solution';
import { closedFormBranches, placedAsk, solutionsOf } from './reached';
import { isHit, plainTask, type Ask, type Task } from './task';
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
  given: readonly Ask[],
  near: Float64Array = mechanism.home,
  { held, speedOnly, explained = true, starts }: InverseOptions = {},
): InverseResult {
  const refusal = refuse(mechanism, given, held, speedOnly);
  if (refusal) return { reachable: false, solutions: [], reasons: [refusal] };
  const asks = given.map((ask) => ({ ...ask, task: plainTask(ask.task) }));
  const placed = asks.length === 1 && !asks[0].on ? placedAsk(asks[0]) : null;
  if (placed && mechanism.delta && placed.tool.parent === mechanism.delta.platform)
    return solveDelta(mechanism, mechanism.delta, placed.tool, placed.task, near, explained);
  const branches = placed ? closedFormBranches(mechanism, placed, near, held) : null;
  const solutions = inOrder(
    withStanding(
      mechanism,
      asks,
      near,
      placed && branches
        ? solutionsOf(mechanism, placed, branches, near, { held, starts })
        : numericSolutions(mechanism, asks, near, { held, starts }),
    ),
  );
  if (solutions.length) return { reachable: true, solutions, reasons: [] };
  if (!explained) return { reachable: false, solutions: [], reasons: [] };
  const unruled = hasRules(mechanism) ? withoutRules(mechanism, asks, branches, near, held) : [];
  const why = unruled.length
    ? {
        reasons: [ruleReason(mechanism, unruled)],
        closest: closestPose(mechanism, asks, near, 'position', held),
      }
    : placed
      ? explain(mechanism, placed, near, branches, held)
      : whyTogether(mechanism, asks, near, held);
  // The closest pose is one more search: where it arrives after all, it is the answer.
  if (isHit(why.closest) && rulesExcess(mechanism, why.closest.q) <= LIMIT_SLACK)
    return { reachable: true, solutions: [why.closest], reasons: [] };
  return { reachable: false, solutions: [], ...why };
}

const inOrder = (solutions: readonly Solution[]): Solution[] =>
  distinct(solutions).sort((a, b) => a.awayS - b.awayS || b.limitMargin - a.limitMargin);

/**
 * Where the arm stands is an answer if it meets the tasks, be it past a limit by the rounding of documents: nobody is told
 * that the arm cannot be where it is.
 */
function withStanding(
  mechanism: Mechanism,
  asks: readonly Ask[],
  near: Float64Array,
  found: readonly Solution[],
): readonly Solution[] {
  if (!isHit(errorAt(mechanism, asks, near))) return found;
  const slots = slotsOf(mechanism, asks);
  const past = slots.some(
    (s) =>
      Math.max(mechanism.lower[s] - near[s], near[s] - mechanism.upper[s]) >
      fromUnit(mechanism, s, DOCUMENT_ROUNDING),
  );
  if (past || rulesExcess(mechanism, near) > RULE_ROUNDING) return found;
  // A solver's answer that is this stand but for rounding knows its posture.
  const isSame = ({ q }: Solution): boolean => q.every((v, s) => Math.abs(v - near[s]) < SAME_STAND);
  const known = found.find(isSame);
  const posture = known?.posture ?? postureAt(mechanism, asks[0].tool, near);
  const here = judge(mechanism, asks, near.slice(), near, posture, known?.singular ?? false);
  return [{ ...here, limitMargin: Math.max(0, here.limitMargin) }, ...found.filter((s) => !isSame(s))];
}
/** The last digit (° or mm) that documents keep, and what a sum of such joints is off (SI). */
const DOCUMENT_ROUNDING = 0.0011;
const RULE_ROUNDING = 4e-5;
/** Joints this near (rad or m) are the same stand. */
const SAME_STAND = 3e-4;

/** Poses inside the limits that meet the task but for a rule. */
function withoutRules(
  mechanism: Mechanism,
  asks: readonly Ask[],
  branches: ClosedResult,
  near: Float64Array,
  held?: ReadonlySet<number>,
): Solution[] {
  const bare = { ...mechanism, rules: [], conditions: [] };
  const found = branches ? allowedBranches(bare, asks[0], branches.list, near, held) : [];
  return found.length ? found : numericSolutions(mechanism, asks, near, { held, rules: false });
}

function whyTogether(
  mechanism: Mechanism,
  asks: readonly Ask[],
  near: Float64Array,
  held?: ReadonlySet<number>,
): { reasons: Reason[]; closest: Solution } {
  const closest = closestPose(mechanism, asks, near, 'position', held);
  return { reasons: missReasons(mechanism, asks, closest), closest };
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
          ...(task.kind === 'direction' ? task.direction : []),
          ...(task.kind === 'full' ? task.rotation : []),
          ...(task.kind === 'tilt' ? [task.fromUp, ...task.up] : []),
        ];
  return numbers.every(Number.isFinite);
}
