/** Ways to a board: bytes out, bytes in, and the clock that the board lives by. */
import type { MadeFor } from '@cork-elbow/core/board';
import type { CommandMap } from '@cork-elbow/core/actuators';
import type { Channels, SensorPin, SignalPin } from '@cork-elbow/core/commands';
import type { Trouble } from '@cork-elbow/core/contract';
import type { Mechanism } from '@cork-elbow/core/mechanism';
import type { OwnLines } from '@cork-elbow/core/own-lines';
import type { Build } from '@cork-elbow/core/rig';
import type { World } from './world';

/** What stands at the end of a link, as the rig has it. */
export interface LineEnd {
  /** Id and name of the board, and how many pins the line reaches: its own, and those of boards that hang on it. */
  readonly board: string;
  readonly name: string;
  readonly pins: number;
  /** The motors that it reaches. */
  readonly maps: readonly CommandMap[];
  /** All motors of the rig. */
  readonly channels: Channels;
  /** The inputs and outputs that it reaches. */
  readonly signals: readonly SignalPin[];
  /** The sensors that it reads. */
  readonly sensors: readonly SensorPin[];
  readonly mechanism: Mechanism;
  readonly build: Build;
  /** Where the arm rests (slots, SI). */
  readonly rest: Float64Array;
  /** What is around it, as far as it is simulated. */
  readonly world: World;
  /** The rig that a simulated board says it was made for; left out: any. */
  readonly made?: MadeFor;
}

export interface Link {
  readonly name: string;
  /** Why it cannot be used, or no longer: one sentence; null while it can. */
  readonly failure: string | null;
  /** Whether bytes get through; left out: at once. */
  readonly isOpen?: boolean;
  /** For how long (ms) a board may be silent before its first word. */
  readonly patienceMs: number;
  /** What is sent becomes lines of a builder's own, which can do so much; left out: the board speaks the protocol. */
  readonly ownLines?: OwnLines;
  write(bytes: Uint8Array): void;
  /** Bytes that came in since the last call. */
  read(): Uint8Array[];
  /** Lets the link live up to `now` (ms, its own clock). Real links do nothing here. */
  advanceTo(now: number): void;
  close(): void;
  /** The motors as a changed document has them, such as the same ones calibrated meanwhile; where the link reckons with them. */
  setChannels?(channels: Channels): void;
  /** Simulated ones only: the world holds a pin at a level, or lets go of it (null). */
  hold?(channel: number, level: number | null): void;
  /** … something goes wrong: with the motor of a channel (`by`: by so much in its unit), or with the board or its line (null). */
  trouble?(kind: Trouble, channel: number | null, by: number): void;
}
