import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { seededRandom } from '../linear';
import { soak } from './noise.testkit';

describe('a line that damages what it carries', () => {
  it('moves nothing wrongly, whatever is done to 100,000 lines, and the motion goes on', () => {
    const soaked = soak(seededRandom(20261), 100_000);
    expect(soaked.wrong).toEqual([]);
    // Sixteen bits let one in 65,536 pass; hardly any of those is a line that means something.
    expect(soaked.mistaken).toBeLessThanOrEqual(2);
    // A halt that comes late stops what has begun since.
    expect(soaked.stopped).toBeLessThan(soaked.halts / 2);
    for (const [kind, count] of Object.entries(soaked.of)) expect(count, kind).toBeGreaterThan(5000);
    expect(soaked.again).toBeGreaterThan(1000);
    expect(soaked.halts).toBeGreaterThan(10);
    // Of three lines one is damaged, and nonetheless most of what is sent is played in time.
    expect(soaked.played).toBeGreaterThan(50_000);
  });
  it('does so with any number of channels and with small boards that read now and then', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 999_999 }),
        fc.integer({ min: 1, max: 24 }),
        fc.constantFrom(64, 100, 256),
        fc.integer({ min: 0, max: 3 }),
        fc.constantFrom(0.02, 0.1, 0.5),
        (seed, channels, buffer, loopMs, share) => {
          const soaked = soak(seededRandom(seed), 400, { share, channels, traits: { buffer, loopMs } });
          expect(soaked.wrong).toEqual([]);
          // A point of many lines that are damaged by half may never come through.
          if (share < 0.5) expect(soaked.played).toBeGreaterThan(0);
        },
      ),
      { numRuns: 30 },
    );
  });
});
