/**
 * What is kept of a run: a head that says what it is of, rows of whole numbers about fifty times a second, and what happened meanwhile.
 * A row is [time, own time, plan time, commanded of each joint, measured of each joint]: times in 0.1 ms, joints in 0.001 ° or mm.
 */
import type { RecordingEvent, RecordingHead } from '../contract';

export type { RecordingEvent, RecordingHead } from '../contract';

/** Of a second, and of a ° or mm. */
export const TIME_PARTS = 10_000;
export const JOINT_PARTS = 1000;
/** Stands where nothing is known. */
export const UNKNOWN = -2_147_483_648;
const TIMES = 3;

/** About a second of a recording. */
export interface RecordingPiece {
  readonly rows: Int32Array;
  readonly events: readonly RecordingEvent[];
}

/** Numbers in a row. */
export const rowLength = ({ joints }: Pick<RecordingHead, 'joints'>): number => TIMES + 2 * joints.length;
/** Where in a row joint `k` stands by what was commanded, and by what was read back. */
export const commandedAt = (k: number): number => TIMES + k;
export const measuredAt = ({ joints }: Pick<RecordingHead, 'joints'>, k: number): number => TIMES + joints.length + k;
