import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { jawAround, jawAt, openingAt, type JawGrip } from './index';

/** Tables that open, or close, all the way along, in any order. */
const grips = fc
  .tuple(
    fc.uniqueArray(fc.integer({ min: -90, max: 90 }), { minLength: 2, maxLength: 8 }),
    fc.uniqueArray(fc.integer({ min: 0, max: 120 }), { minLength: 8, maxLength: 8 }),
    fc.boolean(),
    fc.option(fc.double({ min: 0, max: 20, noNaN: true }), { nil: undefined }),
  )
  .map(([at, mm, opens, pastMm]): JawGrip => {
    const up = (a: number, b: number): number => a - b;
    const values = [...at].sort(up);
    const widths = mm.slice(0, at.length).sort(up);
    const rows = values.map((v, k) => ({ at: v, mm: opens ? widths[k] : widths[widths.length - 1 - k] }));
    return {
      joint: 'jaw',
      open: 0,
      closed: 0,
      pastMm,
      openingMm: rows.sort((a, b) => (a.at * 7) % 5 || a.mm - b.mm),
    };
  });
const ends = ({ openingMm }: JawGrip): readonly [number, number] => {
  const mm = openingMm!.map((row) => row.mm);
  return [Math.min(...mm), Math.max(...mm)];
};

describe('a jaw', () => {
  it('is as wide open as asked at the value that is said, and nowhere outside its table', () => {
    fc.assert(
      fc.property(grips, fc.double({ min: 0, max: 1, noNaN: true }), (grip, share) => {
        const [least, most] = ends(grip);
        const mm = least + (most - least) * share;
        expect(openingAt(grip, jawAt(grip, mm)!)).toBeCloseTo(mm, 6);
        expect(jawAt(grip, most + 0.1)).toBeNull();
        expect(jawAt(grip, least - 0.1)).toBeNull();
        expect(openingAt(grip, 91)).toBeNull();
        expect(openingAt(grip, -91)).toBeNull();
      }),
    );
  });
  it('closes past what it closes on by what the tool says, as far as it goes', () => {
    fc.assert(
      fc.property(grips, fc.double({ min: 0, max: 1, noNaN: true }), (grip, share) => {
        const [least, most] = ends(grip);
        const mm = least + (most - least) * share;
        const sent = openingAt(grip, jawAround(grip, mm)!)!;
        expect(sent).toBeCloseTo(Math.max(least, mm - (grip.pastMm ?? 0)), 6);
        expect(jawAround(grip, most + 1)).toBeNull();
      }),
    );
  });
  it('has no value for a width without a table, but for the one row that it has', () => {
    const grip = { joint: 'jaw', open: 0, closed: 0 };
    expect(jawAt(grip, 5)).toBeNull();
    expect(jawAt({ ...grip, openingMm: [{ at: 3, mm: 5 }] }, 5)).toBe(3);
    expect(jawAt({ ...grip, openingMm: [{ at: 3, mm: 5 }] }, 6)).toBeNull();
  });
});
