/** What a bridge's line carries, and how much of it is asked for. */
import { encodeBoard, encodeHost, hereMessages, MAX_LINE, pointLines, reportEveryMs } from '../board';
import { doesCount, type Described } from './described';

export interface LinkBudget {
  readonly baud: number;
  /** Bytes a second that the line carries each way: ten bits a byte. */
  readonly carries: number;
  /** Longest point, in bytes and lines, and how often one goes out. */
  readonly pointBytes: number;
  readonly pointLines: number;
  readonly pointsPerS: number;
  /** How long (ms) the longest point is on the line. */
  readonly pointOnLineMs: number;
  /** Shares of the line that points take, and answers and reports the other way. */
  readonly out: number;
  readonly back: number;
  /** Bytes of a report, and every how many ms one comes. */
  readonly reportBytes: number;
  readonly reportMs: number;
  /** Pulses a second of the slowest motor: more points than that it does not see. */
  readonly refreshHz: number | null;
}

/** Late in a long run: numbers are as long as they get. */
const SEQ = 999_999;
const CLOCK_MS = 99_999_999;
/** What USB serial adapters keep bytes back for (ms). */
const USB_MS = { least: 1, most: 16 };

/** Of the longest numbers that motors may be told, all of them in every point, `pointMs` apart. */
export function linkBudget({ motors }: Described, baud: number, pointMs = 20): LinkBudget {
  const carries = baud / 10;
  const longest = motors.map(
    ({ channel, low, high }) => [channel, `${low}`.length > `${high}`.length ? low : high] as const,
  );
  const lines = pointLines(SEQ, pointMs, longest, MAX_LINE);
  const pointBytes = lines.reduce((sum, line) => sum + encodeHost(line).length, 0);
  const rows = motors.map((motor, k) => [...longest[k], doesCount(motor) ? longest[k][1] : null] as const);
  const reportBytes = hereMessages(CLOCK_MS, 'awake', rows).reduce((sum, m) => sum + encodeBoard(m).length, 0);
  const reportMs = reportEveryMs(motors.length);
  const took = encodeBoard({ word: 'took', seq: SEQ, queuedMs: 100 }).length;
  const more = encodeBoard({ word: 'more', seq: SEQ }).length;
  const answers = took + (lines.length - 1) * more;
  const rates = motors.flatMap(({ map: { drive } }) => ('updateHz' in drive ? [drive.updateHz] : []));
  return {
    ...{ baud, carries, pointBytes, pointLines: lines.length, pointsPerS: 1000 / pointMs, reportBytes, reportMs },
    pointOnLineMs: (pointBytes * 1000) / carries,
    out: (pointBytes * 1000) / pointMs / carries,
    back: ((answers * 1000) / pointMs + (reportBytes * 1000) / reportMs) / carries,
    refreshHz: rates.length ? Math.min(...rates) : null,
  };
}

/** What may pass between a point that is sent and one that is done, and what that is to somebody who steers by hand. */
export function delayWords({ pointOnLineMs }: LinkBudget): string {
  const least = pointOnLineMs + USB_MS.least;
  const most = pointOnLineMs + USB_MS.most;
  return `A point is ${least.toFixed(0)} to ${most.toFixed(0)} ms underway: ${pointOnLineMs.toFixed(0)} on the line, the rest in a USB adapter. A routine runs from the board’s queue and does not feel it; by hand the arm follows that much later.`;
}
