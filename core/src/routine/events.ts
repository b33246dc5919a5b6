/** What the interpreter says, moment by moment. Times are seconds since the routine began. */
import type { Block } from '../motion';
import type { Keep, Step } from '../rig';
import type { Problem } from './targets';

/** A step of a routine, which may have been called by another. */
export interface StepRef {
  readonly step: Step;
  readonly index: number;
  /** Id of the routine it stands in, and how many calls deep that runs. */
  readonly routine: string;
  readonly depth: number;
}

export type RoutineEvent =
  /** Motion, or standing still; blocks follow one another without a gap. */
  | { readonly kind: 'block'; readonly atS: number; readonly block: Block; readonly ref: StepRef }
  /** A step was under way from … to; `keep`: what its ways keep of the tool's orientation, the least of them. */
  | {
      readonly kind: 'span';
      readonly ref: StepRef;
      readonly startS: number;
      readonly endS: number;
      readonly keep?: Keep;
    }
  /** From here on the tool holds this payload, or nothing. */
  | { readonly kind: 'carry'; readonly atS: number; readonly tool: string; readonly payload: string | null }
  | {
      readonly kind: 'output';
      readonly atS: number;
      readonly signal: string;
      readonly on: boolean;
      readonly ref: StepRef;
    }
  | { readonly kind: 'counter'; readonly atS: number; readonly counter: string; readonly value: number }
  /** Motors of these joints get power, or none. */
  | {
      readonly kind: 'power';
      readonly atS: number;
      readonly joints: readonly string[];
      readonly on: boolean;
      readonly ref: StepRef;
    }
  | {
      readonly kind: 'swap';
      readonly atS: number;
      readonly off: string | null;
      readonly on: string | null;
      readonly ref: StepRef;
    }
  /** Answered with the input's state now: a boolean. */
  | { readonly kind: 'read'; readonly atS: number; readonly signal: string; readonly ref: StepRef }
  /** Answered with the seconds until the input is as wanted, or null where that is not before `atMostS`. */
  | {
      readonly kind: 'await';
      readonly atS: number;
      readonly signal: string;
      readonly is: boolean;
      readonly atMostS: number | null;
      readonly ref: StepRef;
    }
  /** The step cannot be done as it stands; the arm stays where it is. */
  | { readonly kind: 'problem'; readonly atS: number; readonly ref: StepRef; readonly problem: Problem }
  /** From here on all comes again for ever: it began at `fromS`. */
  | { readonly kind: 'endless'; readonly atS: number; readonly fromS: number; readonly ref: StepRef };

/** What the caller answers to `read` and `await`; to all else nothing. */
export type InputValue = boolean | number | null;

/** A part of a run: says events, takes answers, ends with a value. */
export type Run<T> = Generator<RoutineEvent, T, InputValue | undefined>;
