import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { between } from '../units/between.testkit';
import { rockingBy, rockingSettles } from './index';

describe('how an arm rocks', () => {
  it('comes from a test with a watch, and is calm again after the time that was taken', () => {
    let [rocks, calm] = [0, 0];
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 60 }), between(0.05, 8), (swings, calmS) => {
        const found = rockingBy(swings, 5, calmS);
        // Calm within six tenths of a swing is no rocking.
        if (!found) {
          calm++;
          expect((calmS * swings) / 5).toBeLessThan(0.621);
          return;
        }
        rocks++;
        expect(found.hz).toBeCloseTo(swings / 5, 12);
        expect(rockingSettles(found)).toBeCloseTo(calmS, 9);
      }),
    );
    expect(Math.min(rocks, calm)).toBeGreaterThan(3);
    expect([rockingBy(0, 5, 1), rockingBy(3, 5, 0), rockingBy(3, 0, 1)]).toEqual([null, null, null]);
  });
});
