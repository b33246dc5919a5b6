/** Where solvers start: always the same poses for the same arm, spread over its ranges. */
import type { Mechanism } from '../mechanism';

/** Range (SI) that starts of an unbounded joint are spread over: a turn, or half a metre. */
const SPREAD = { turning: 2 * Math.PI, sliding: 0.5 };
/** Steps of the Kronecker sequence: powers of the root of x^(d+1) = x + 1 for d = 7 (Roberts 2018). */
const ROOT = 1.0812740632;

/**
 * Start k of a solve, always the same for the same arm: where it is, home, the middle of the ranges, then a
 * low-discrepancy sequence over them. Joints that are not among `moved` stay where they are.
 */
export function start(mechanism: Mechanism, moved: ReadonlySet<number>, near: Float64Array, k: number): Float64Array {
  if (k === 0) return near.slice();
  return mechanism.home.map((home, s) => {
    if (!moved.has(s)) return near[s];
    if (k === 1) return home;
    const [low, high] = [mechanism.lower[s], mechanism.upper[s]];
    const share = k === 2 ? 0.5 : (0.5 + (k - 2) * ROOT ** -((s % 7) + 1) + 0.17 * Math.floor(s / 7)) % 1;
    if (Number.isFinite(high - low)) return low + share * (high - low);
    const spread = mechanism.units[mechanism.jointOfSlot[s]] === 'mm' ? SPREAD.sliding : SPREAD.turning;
    return home + (share - 0.5) * spread;
  });
}
