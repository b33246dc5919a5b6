/** What recordings come to: gaps of one, and where two part. */
import type { Track } from './track';

export interface Gap {
  readonly joint: string;
  /** ° or mm, and when that was (s since the recording began). */
  readonly worst: number;
  readonly atS: number;
  /** The root of the mean square. */
  readonly usual: number;
}

/** The widest and the usual gap between commanded and read back, of each joint of which both are known. */
export function gapsOf(track: Track): Gap[] {
  return track.head.joints.flatMap(({ id }, k) =>
    gap(track, id, (row) => track.value(row, k, 'measured') - track.value(row, k, 'commanded')),
  );
}

/**
 * How far two runs part at the same time of their own motion, of each joint that both have: pauses and other paces count for nothing.
 * Times are of the first. Of the second what lies between two rows is taken on the straight line.
 */
export function partings(first: Track, second: Track): Gap[] {
  const endS = second.length ? second.ownS(second.length - 1) : 0;
  return first.head.joints.flatMap(({ id, unit }, k) => {
    const other = second.head.joints.findIndex((joint) => joint.id === id && joint.unit === unit);
    if (other < 0) return [];
    return gap(first, id, (row) => parting(first, second, row, k, other, endS));
  });
}
/** By how much joint `k` is ahead of the other run's `other` in a row of the first; NaN where the other has nothing, and before the motion. */
function parting(first: Track, second: Track, row: number, k: number, other: number, endS: number): number {
  const own = first.ownS(row);
  if (own > endS + 1e-9 || own <= 0 || own < second.ownS(0)) return NaN;
  const at = second.rowAtOwn(own);
  const next = Math.min(second.length - 1, at + 1);
  const from = second.ownS(at);
  const span = second.ownS(next) - from;
  const share = span > 0 ? Math.min(1, Math.max(0, (own - from) / span)) : 0;
  const there = second.stood(at, other) * (1 - share) + second.stood(next, other) * share;
  return first.stood(row, k) - there;
}
/** By how much a joint of the first (its id) is ahead of the second's in each row, for a chart. */
export function partingOf(first: Track, second: Track, joint: string): (row: number) => number {
  const k = first.head.joints.findIndex(({ id }) => id === joint);
  const other = second.head.joints.findIndex(({ id }) => id === joint);
  const endS = second.length ? second.ownS(second.length - 1) : 0;
  return (row) => (k < 0 || other < 0 ? NaN : parting(first, second, row, k, other, endS));
}

function gap(track: Track, joint: string, by: (row: number) => number): Gap[] {
  let worst = -1;
  let atS = 0;
  let squares = 0;
  let count = 0;
  for (let row = 0; row < track.length; row++) {
    const off = Math.abs(by(row));
    if (Number.isNaN(off)) continue;
    count++;
    squares += off * off;
    if (off > worst) [worst, atS] = [off, track.atS(row)];
  }
  return count ? [{ joint, worst, atS, usual: Math.sqrt(squares / count) }] : [];
}
