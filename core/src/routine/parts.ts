/**
 * A routine planned while it is run: as far as its way is known, then on from what an input says. Wherever the way depends on one, the arm
 * stands; what was done before is not planned again.
 */
import { confirmedLimits, type Mechanism } from '../mechanism';
import type { Build, Rig, Routine, Step } from '../rig';
import { Collector, type Plan, type PlanEvent } from './collector';
import type { InputValue } from './events';
import { interpret } from './interpret';
import type { MoveCache } from './move-cache';

/** What the way depends on next. */
export interface Ask {
  readonly signal: string;
  /** What is waited for; null: it is read once. */
  readonly is: boolean | null;
  /** For how long at most (s); null: for as long as it takes. */
  readonly atMostS: number | null;
  readonly stepId: string;
  readonly routine: string;
}
export interface PlanPart {
  /** Its times begin at 0 where the part before it ended. */
  readonly plan: Plan;
  /** Asked where it ends; null: the routine ends there. */
  readonly ask: Ask | null;
}
/** Whether the input is on; for one that is waited for, whether it came in time. */
export type Answer = boolean;

/** Whether one of two ways is taken by the input that a step asks for, rather than that it is only waited for. */
const isBranch = (step: Step | undefined): boolean =>
  step?.kind === 'if' || (step?.kind === 'wait-input' && typeof step.otherwise !== 'string');

/**
 * The parts one after the other, each after the answer to what the one before it ended with. `fromStep`: until that step of the routine
 * itself is come to, inputs are taken to come at once, and to be off where they are only read.
 */
export function* planParts(
  rig: Rig,
  mechanism: Mechanism,
  build: Build,
  routine: Routine,
  start: Float64Array,
  { cache, fromStep }: { readonly cache?: MoveCache; readonly fromStep?: string } = {},
): Generator<PlanPart, void, Answer> {
  const collector = new Collector(rig, mechanism, build, routine, start);
  const run = interpret(rig, confirmedLimits(mechanism, build), routine, start, { cache, live: true });
  let isReached = fromStep === undefined;
  for (let next = run.next(); !next.done;) {
    const event = next.value;
    let answer: InputValue | undefined;
    if (event.kind !== 'read' && event.kind !== 'await') {
      collector.take(event);
      isReached ||= event.kind === 'span' && event.ref.routine === routine.id && event.ref.step.id === fromStep;
    } else {
      const { ref, signal } = event;
      isReached ||= ref.routine === routine.id && ref.step.id === fromStep;
      // Beside joints that move nobody knows by then what it will say: a run does not take such a way.
      const asks = isReached && isBranch(ref.step) && !collector.isBeside(event.atS);
      const is = event.kind === 'await' ? event.is : null;
      const ask: Ask = {
        signal,
        is,
        atMostS: event.kind === 'await' ? event.atMostS : null,
        stepId: ref.step.id,
        routine: ref.routine,
      };
      const said = asks ? yield { plan: collector.cut(), ask } : is !== null;
      answer = is === null ? said : said ? 0 : null;
      collector.asked(event, said === (is ?? true), is === null ? null : 0);
    }
    next = run.next(answer);
  }
  yield { plan: collector.cut(), ask: null };
}

/** Whether a run takes one of two ways by an event's input, where the arm stands: it is planned as it goes then. */
export const branches = ({ routines }: Pick<Rig, 'routines'>, event: PlanEvent): boolean =>
  event.kind === 'input' &&
  !event.beside &&
  isBranch(routines.find(({ id }) => id === event.routine)?.steps.find(({ id }) => id === event.stepId));
