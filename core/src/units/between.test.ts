import fc from 'fast-check';
import { expect, it } from 'vitest';
import { between } from './between.testkit';

it('numbers of the property tests lie evenly over their range, with its ends among them', () => {
  for (const [min, max] of [
    [0, 1],
    [-0.3, 0.3],
    [-150, 20],
  ]) {
    const drawn = fc.sample(between(min, max), { numRuns: 4000, seed: 7 });
    expect(Math.min(...drawn)).toBe(min);
    expect(Math.max(...drawn)).toBe(max);
    const tenths = Array.from({ length: 10 }, () => 0);
    for (const v of drawn) tenths[Math.min(9, Math.floor(((v - min) / (max - min)) * 10))]++;
    // 375 of the 4000 in each tenth but for what the library draws near the ends on purpose.
    for (const count of tenths) expect(count).toBeGreaterThan(200);
  }
});
