/** A recording as it is read: values by row and joint, found by time. */
import { toSlots, type Mechanism } from '../mechanism';
import type { Motion } from '../motion';
import { commandedAt, JOINT_PARTS, measuredAt, rowLength, TIME_PARTS, UNKNOWN, type RecordingHead } from './shape';

export type Told = 'commanded' | 'measured';

export class Track {
  /** Rows that there are. */
  readonly length: number;
  private readonly width: number;

  /** `rows`: one after the other; what is no whole row at the end is left out. */
  constructor(
    readonly head: RecordingHead,
    private readonly rows: Int32Array,
  ) {
    this.width = rowLength(head);
    this.length = Math.floor(rows.length / this.width);
  }

  /** s since the recording began; of its own motion; and of the plan. */
  atS(row: number): number {
    return this.rows[row * this.width] / TIME_PARTS;
  }
  ownS(row: number): number {
    return this.rows[row * this.width + 1] / TIME_PARTS;
  }
  planS(row: number): number {
    return this.rows[row * this.width + 2] / TIME_PARTS;
  }
  get durationS(): number {
    return this.length ? this.atS(this.length - 1) : 0;
  }

  /** ° or mm of the head's joint `k`; NaN where it is not known. */
  value(row: number, k: number, told: Told): number {
    const at = told === 'commanded' ? commandedAt(k) : measuredAt(this.head, k);
    const value = this.rows[row * this.width + at];
    return value === UNKNOWN ? NaN : value / JOINT_PARTS;
  }
  /** Where the joint was: read back where that is known, else as commanded. */
  stood(row: number, k: number): number {
    const measured = this.value(row, k, 'measured');
    return Number.isNaN(measured) ? this.value(row, k, 'commanded') : measured;
  }
  /** By id of the joint, what is known. */
  pose(row: number, told: Told | 'stood'): Record<string, number> {
    return Object.fromEntries(
      this.head.joints.flatMap(({ id }, k) => {
        const value = told === 'stood' ? this.stood(row, k) : this.value(row, k, told);
        return Number.isNaN(value) ? [] : [[id, value]];
      }),
    );
  }

  /** The last row at or before a time (s since it began); the first where none is. */
  rowAt(atS: number): number {
    return this.lastUpTo(atS, (row) => this.atS(row));
  }
  /** The last row at or before a time of its own motion. */
  rowAtOwn(ownS: number): number {
    return this.lastUpTo(ownS, (row) => this.ownS(row));
  }
  private lastUpTo(time: number, of: (row: number) => number): number {
    let low = 0;
    let high = this.length;
    while (high - low > 1) {
      const middle = (low + high) >> 1;
      if (of(middle) <= time + 1e-9) low = middle;
      else high = middle;
    }
    return low;
  }
}

/**
 * A curve over rows that lie between two times, as few points as show it: of each of so many stretches the lowest and the highest, so
 * that no peak is lost. What is not known is left out.
 */
export function thinned(
  track: Track,
  value: (row: number) => number,
  fromS: number,
  toS: number,
  stretches: number,
): { x: number; y: number }[] {
  const points: { x: number; y: number }[] = [];
  if (!track.length) return points;
  const first = track.rowAt(fromS);
  const last = Math.min(track.length - 1, track.rowAt(toS) + 1);
  const each = Math.max(1, (last - first + 1) / stretches);
  for (let begin = first; begin <= last; begin += each) {
    const end = Math.min(last + 1, Math.floor(begin + each));
    let [low, high, least, most] = [-1, -1, Infinity, -Infinity];
    for (let row = Math.floor(begin); row < end; row++) {
      const y = value(row);
      // What is not known is neither.
      if (y < least) [low, least] = [row, y];
      if (y > most) [high, most] = [row, y];
    }
    if (low < 0) continue;
    for (const row of low === high ? [low] : [Math.min(low, high), Math.max(low, high)])
      points.push({ x: track.atS(row), y: value(row) });
  }
  return points;
}

/** A recording as a motion of an arm, to be played: where the joints stood, as its rows have it; those that it does not have are at home. */
export function trackMotion(track: Track, mechanism: Mechanism): Motion {
  const at = (t: number): Float64Array =>
    track.length ? toSlots(mechanism, track.pose(track.rowAt(t), 'stood')) : mechanism.home;
  return {
    durationS: track.durationS,
    start: at(0).slice(),
    sampleInto(position, speed, accel, t) {
      position.set(at(t));
      speed.fill(0);
      accel.fill(0);
    },
  };
}
