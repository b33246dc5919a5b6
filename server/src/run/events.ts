/** What the run loop is asked and what it tells. */
import type { Finding } from '@cork-elbow/core/findings';
import type { BoardLine, RecordingHead, RunState, Status, Telemetry } from '@cork-elbow/core/contract';
import type { RecordingPiece } from '@cork-elbow/core/recording';

/** What a run was asked to be; it comes back with `started`, so that the log needs no memory of its own. */
export interface RunRequest {
  readonly id: string;
  readonly rigId: string;
  readonly revision: number;
  readonly buildId: string;
  readonly routineId: string;
  readonly fromStep?: string;
  /** The arm was looked at and stands as it is drawn: an arm that has not homed runs at full speed. */
  readonly asDrawn?: boolean;
  /** It stands where it begins, to be gone through step by step. */
  readonly stepwise?: boolean;
}

/** Where joints that are led by hand are to go (° or mm by id), at which share of their speed; `straight`: the tool's point goes straight. */
export interface Guiding {
  readonly joints: Readonly<Record<string, number>>;
  readonly share: number;
  readonly straight?: { readonly tool?: string };
}

export type LoopEvent =
  | { type: 'status'; status: Status }
  | { type: 'telemetry'; telemetry: Omit<Telemetry, 'type'> }
  | { type: 'lines'; lines: BoardLine[] }
  | { type: 'refused'; code: string; message: string; findings: Finding[] }
  | { type: 'started'; run: RunRequest; routineName: string; board: string; head: Omit<RecordingHead, 'program'> }
  | { type: 'recorded'; runId: string; no: number; piece: RecordingPiece }
  | { type: 'ended'; runId: string; outcome: RunState; ranMs: number; worst: Record<string, number> };
