/**
 * Numbers evenly over a range, the ends more often than chance: `fc.double` takes every double as likely, and nine in ten of
 * those from 0 to 1 lie under a thousandth.
 */
import fc from 'fast-check';

/** A step is a billionth of the range. */
const STEPS = 1_000_000_000;

export function between(min: number, max: number): fc.Arbitrary<number> {
  const inside = fc.nat(STEPS).map((k) => min + (k / STEPS) * (max - min));
  const ends = fc.constantFrom(min, max, ...(min < 0 && max > 0 ? [0] : []));
  return fc.oneof({ weight: 15, arbitrary: inside }, { weight: 1, arbitrary: ends });
}
