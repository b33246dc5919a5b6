import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { tableSheets, type SheetRow } from './index';

const words = fc.string({ minLength: 1, maxLength: 60 }).map((s) => `n${s}`);
const rows = fc.array(
  fc.record({
    group: fc.constantFrom('Torque', 'Power & <heat>', 'Grip'),
    name: words,
    values: fc.constant(['1.5 kg', '2 kg']),
    isLoud: fc.boolean(),
  }),
  { maxLength: 70 },
) satisfies fc.Arbitrary<SheetRow[]>;

describe('a table on paper', () => {
  it('has every value, on pages that are no higher than there is room, each under its heading', () => {
    fc.assert(
      fc.property(rows, fc.integer({ min: 140, max: 400 }), (list, room) => {
        const sheets = tableSheets('Arm: loads', 'A note.', ['this', 'other'], list, room);
        const all = sheets.map(({ content }) => content).join('');
        expect(all.split('>1.5 kg<').length - 1).toBe(list.length);
        for (const { heightMm, content, widthMm } of sheets) {
          expect(heightMm).toBeLessThanOrEqual(room + 1e-6);
          expect(content).not.toMatch(/<heat>/);
          for (const [, y] of content.matchAll(/ y="([\d.]+)"/g)) expect(Number(y)).toBeLessThan(heightMm);
          for (const [, x] of content.matchAll(/ x="([\d.]+)"/g)) expect(Number(x)).toBeLessThanOrEqual(widthMm);
          // No heading is the last thing on a page.
          const heading = Math.max(
            ...['Torque', 'Power', 'Grip'].map((group) => content.lastIndexOf(`"700">${group}`)),
          );
          if (heading >= 0) expect(content.indexOf('1.5 kg', heading)).toBeGreaterThan(-1);
        }
      }),
      { numRuns: 60 },
    );
  });
});
