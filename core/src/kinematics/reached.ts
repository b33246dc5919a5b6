/** What one tool's task leads to inside limits and rules: by the arm's closed form, and by a search where that is not enough. */
import type { Mechanism } from '../mechanism';
import { allowedBranches, isSettled, ledInside } from './candidates';
import { closedBranches, closedFormOf, type ClosedResult } from './closed-form';
import { numericSolutions } from './search';
import type { Solution } from './solution';
import type { Ask, Placed } from './task';

export interface ReachOptions {
  /** Slots that keep their values. */
  readonly held?: ReadonlySet<number>;
  /** Starts of the numeric solver at most. */
  readonly starts?: number;
}

/** An ask for a place of the tool. */
export type PlacedAsk = Ask & { readonly task: Placed };
export const placedAsk = (ask: Ask): PlacedAsk | null =>
  ask.task.kind === 'aim' ? null : { ...ask, task: ask.task };

/** What a closed form leads to; where nothing of it is allowed and it has not said all there is, what a search finds. */
export function solutionsOf(
  mechanism: Mechanism,
  ask: PlacedAsk,
  branches: NonNullable<ClosedResult>,
  near: Float64Array,
  { held, starts }: ReachOptions,
): Solution[] {
  const allowed = allowedBranches(mechanism, ask, branches.list, near, held);
  if (allowed.length || isSettled(mechanism, ask, branches)) return allowed;
  const led = ledInside(mechanism, ask, branches.list, near, held);
  return led.length ? led : numericSolutions(mechanism, [ask], near, { held, starts });
}

/** Branches before limits, where the arm has a closed form for the task and no joint of it is held. */
export function closedFormBranches(
  mechanism: Mechanism,
  { tool, task }: PlacedAsk,
  near: Float64Array,
  held?: ReadonlySet<number>,
): ClosedResult {
  const form = closedFormOf(mechanism, tool);
  if (!form) return null;
  const stands = form.carriage !== null && held?.has(form.carriage.slot) === true;
  if (form.slots.some((s) => held?.has(s) && !(stands && s === form.carriage!.slot))) return null;
  return closedBranches(mechanism, form, task, near, stands);
}

/** The solutions of one ask, from a few starts where they are searched for. */
export function reachedAt(
  mechanism: Mechanism,
  ask: PlacedAsk,
  near: Float64Array,
  options: ReachOptions,
): Solution[] {
  const branches = closedFormBranches(mechanism, ask, near, options.held);
  return branches
    ? solutionsOf(mechanism, ask, branches, near, options)
    : numericSolutions(mechanism, [ask], near, options);
}
