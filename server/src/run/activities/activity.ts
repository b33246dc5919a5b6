/** What moves the arm, one at a time: asked for points as boards are due, and stopped like any other. */
import type { CommandMap } from '@cork-elbow/core/actuators';
import type { Values } from '@cork-elbow/core/commands';
import type { Switches } from '../session';
import type { RunState, Status } from '@cork-elbow/core/contract';
import type { Desk } from '../desk';

/** Where the motors are to be, and the joints (slots, SI); no pose where joints do not count. */
export interface Point {
  readonly values: Values;
  readonly pose: Float64Array | null;
}
export type Outcome = Extract<RunState, 'finished' | 'stopped' | 'failed'>;

export interface Activity {
  /** What is queued on a board (ms) just after it took a point. */
  readonly cushionMs: number;
  /** Drives to be switched on by now, each at its value; each once. */
  wakes(now: number): Values;
  /** Motors to be let go by now; each once. */
  limps?(): readonly CommandMap[];
  /** How far (rad or m) past limits or rules its poses may be; left out: not at all. */
  readonly leeway?: number;
  /** Whether points are due; while none are, the board that keeps time is sent none. */
  readonly isMoving: boolean;
  /** A period of its own time goes by, by the board that keeps time; the outputs that are to be switched in it. */
  beat(now: number): Switches | void;
  /** The computer was away for longer than the cushion covers: its time stood still until now. */
  stall(now: number): void;
  /** Where the arm is to be by what is sent now; null while nothing is sent. */
  pointAt(now: number): Point | null;
  /** How it has ended by now; null while it goes on. */
  outcome(now: number): Outcome | null;
  /** It is over, however far it has come: leaves the desk as the next one finds it, and says what is shown from then on. */
  close(desk: Desk, outcome: Outcome, now: number): Partial<Status>;
}
