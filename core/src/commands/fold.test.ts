import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { fold, unfold } from './fold';

describe('stretches of rows that come again', () => {
  /** Stretches, some of them several times over. */
  const keys = fc
    .array(
      fc.record({
        stretch: fc.array(fc.constantFrom('a', 'b', 'c', 'd'), { minLength: 1, maxLength: 6 }),
        times: fc.integer({ min: 1, max: 5 }),
      }),
      { maxLength: 6 },
    )
    .map((parts) => parts.flatMap(({ stretch, times }) => Array.from({ length: times }, () => stretch).flat()));
  it('are kept once and come back as they were, in their order', () => {
    fc.assert(
      fc.property(keys, (rows) => {
        const folded = fold(rows);
        expect(unfold(folded).map((row) => rows[row])).toEqual(rows);
        for (const { first, last, times } of folded.folds) {
          expect(times).toBeGreaterThan(1);
          expect(first).toBeLessThanOrEqual(last);
        }
      }),
    );
  });
  it('leave a row for each of one stretch, however often it comes', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.string(), { minLength: 1, maxLength: 12 }),
        fc.integer({ min: 2, max: 40 }),
        (once, times) => {
          const { kept, folds } = fold(Array.from({ length: times }, () => once).flat());
          expect(kept).toEqual([...once.keys()]);
          expect(folds).toEqual([{ first: 0, last: once.length - 1, times }]);
        },
      ),
    );
  });
});
