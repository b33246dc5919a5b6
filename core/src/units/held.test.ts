import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { atLeast, atMost, below } from './held.testkit';

const fails = (ask: () => void): boolean => {
  try {
    ask();
    return false;
  } catch {
    return true;
  }
};

describe('bounds in loops', () => {
  it('fail just where expect does, with the words that are given', () => {
    const number = fc.oneof(fc.integer({ min: -3, max: 3 }), fc.constantFrom(NaN, Infinity, -Infinity, -0));
    fc.assert(
      fc.property(number, number, (a, b) => {
        expect(fails(() => atMost(a, b))).toBe(fails(() => expect(a).toBeLessThanOrEqual(b)));
        expect(fails(() => atLeast(a, b))).toBe(fails(() => expect(a).toBeGreaterThanOrEqual(b)));
        expect(fails(() => below(a, b))).toBe(fails(() => expect(a).toBeLessThan(b)));
      }),
    );
    expect(() => atMost(2, 1, () => 'the elbow')).toThrow('the elbow');
  });
});
