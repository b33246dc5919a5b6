import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Build } from '../rig';
import { applyFact, confirmedWith, factsOf, subjectOf } from '.';

const value = fc.double({ min: -180, max: 180, noNaN: true });

describe('how far a joint is confirmed to go', () => {
  it('keeps the other end, never goes past what was found, and is the right way round', () => {
    fc.assert(
      fc.property(
        fc.option(
          fc.tuple(value, value).map((v) => ({ min: Math.min(...v), max: Math.max(...v) })),
          { nil: undefined },
        ),
        fc.constantFrom('min' as const, 'max' as const),
        value,
        value,
        fc.boolean(),
        (known, end, at, begin, touches) => {
          const range = confirmedWith(known, end, at, begin, touches);
          expect(range.min).toBeLessThanOrEqual(range.max);
          // Where something is in its way it ends; else nothing that was known is lost.
          const wide = known && !touches ? Math[end](known[end], at) : at;
          expect(range[end]).toBeCloseTo(wide, 2);
          const other = end === 'max' ? 'min' : 'max';
          const before = known?.[other] ?? begin;
          const inside = end === 'max' ? before <= wide : before >= wide;
          expect(range[other]).toBeCloseTo(inside ? before : wide, 2);
        },
      ),
    );
  });
  it('is a row of the history like what else was measured', () => {
    const build = { calibrations: [], turns: {}, speeds: {}, sensors: {}, backlash: {}, trims: {}, confirmed: {} };
    const fact = { kind: 'range', joint: 'elbow', range: { min: -10, max: 95 } } as const;
    applyFact(build as unknown as Build, fact);
    expect(build.confirmed).toEqual({ elbow: { min: -10, max: 95 } });
    expect(factsOf(build as unknown as Build, 'elbow')).toEqual([fact]);
    expect(subjectOf(fact)).toBe('elbow');
  });
});
