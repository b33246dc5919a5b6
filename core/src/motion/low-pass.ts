/**
 * First-order smoothing as boards do it: every loop y ← y + a·(x − y). Kept as a time constant τ, so that a change of the loop's
 * rate does not change the motion; the share for a loop of h seconds is a = 1 − exp(−h/τ) exactly (Franklin, Powell & Workman,
 * *Digital Control of Dynamic Systems*, sec. 6.1).
 */

export const shareOf = (timeConstantS: number, loopS: number): number => -Math.expm1(-loopS / timeConstantS);
export const timeConstantOf = (share: number, loopS: number): number => -loopS / Math.log1p(-share);

/** Seconds until a step of size `step` is within `near` of its end (both in the same unit); 0 where it is at once. */
export const settlingOf = (timeConstantS: number, step: number, near: number): number =>
  Math.abs(step) <= near ? 0 : timeConstantS * Math.log(Math.abs(step) / near);

/** Speed asked in the first loop of a step, its sharpest. */
export const firstTickSpeed = (timeConstantS: number, loopS: number, step: number): number =>
  (shareOf(timeConstantS, loopS) * step) / loopS;

/** How whole numbers are rounded when the share of the difference is taken. */
export type WholeRounding = 'truncate' | 'shift';

/** One loop in whole counts with a = part/2^bits: `truncate` divides towards 0, `shift` towards −∞, as >> does. */
export function wholeStep(y: number, x: number, part: number, bits: number, rounding: WholeRounding): number {
  const product = (x - y) * part;
  const whole = product / 2 ** bits;
  return y + (rounding === 'truncate' ? Math.trunc(whole) : Math.floor(whole));
}

/** Counts short of the target at which whole numbers stop: the largest difference of which the share is less than one count. */
export const stallOf = (share: number): number => Math.max(0, Math.ceil(1 / share - 1e-9) - 1);

/** A low pass over several values at once. */
export class LowPass {
  readonly value: Float64Array;
  private readonly share: number;

  /** `wholePer`: counts per unit in which the board reckons, rounding towards where it is; null: fractions. */
  constructor(
    start: Float64Array,
    timeConstantS: number,
    loopS: number,
    private readonly wholePer: readonly number[] | null = null,
  ) {
    this.value = start.slice();
    this.share = shareOf(timeConstantS, loopS);
  }

  /** `loops` loops after one target; with fractions y = x + (y − x)·(1 − a)ⁿ at once. */
  advance(target: Float64Array, loops: number): void {
    const { value, share, wholePer } = this;
    if (!wholePer) {
      const left = (1 - share) ** loops;
      for (let s = 0; s < value.length; s++) value[s] = target[s] + (value[s] - target[s]) * left;
      return;
    }
    // Whole numbers come to a stand; from then on no loop changes anything.
    for (let k = 0, moves = true; k < loops && moves; k++) {
      moves = false;
      for (let s = 0; s < value.length; s++) {
        const counts = Math.trunc(share * (target[s] - value[s]) * wholePer[s]);
        if (counts !== 0) moves = true;
        value[s] += counts / wholePer[s];
      }
    }
  }
}
