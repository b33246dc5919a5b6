import fc from 'fast-check';
import Papa from 'papaparse';
import { describe, expect, it } from 'vitest';
import { cellMeant, csvOf } from './csv';

const cell = fc.oneof(
  fc.string({ maxLength: 12 }),
  fc.string({ unit: fc.constantFrom('=', '+', '-', '@', "'", ',', ';', '\t', ' ', 'a', '1', '"'), maxLength: 10 }),
  fc.double({ noNaN: true, noDefaultInfinity: true }).map(String),
);
/** A number, or one with what follows it, where another reader does not part them. */
const isNumbers = (text: string): boolean => /^-?[\d.]+(?:e[+-]?\d+)?(?:[,;\s].*)?$/is.test(text);

describe('a table for spreadsheets', () => {
  it('holds no formula, by whichever separator it is read, and its cells come back as they were', () => {
    fc.assert(
      fc.property(
        fc.constantFrom<',' | ';' | '\t'>(',', ';', '\t'),
        fc.array(fc.array(cell, { minLength: 3, maxLength: 3 }), { minLength: 1, maxLength: 5 }),
        (delimiter, data) => {
          const text = csvOf(['a', 'b', 'c'], data, delimiter);
          for (const other of [',', ';', '\t'])
            for (const row of Papa.parse<string[]>(text, { delimiter: other }).data)
              for (const own of row)
                if (/^\s*[=+@-]/.test(own)) expect(isNumbers(own.trim()) ? '' : `${other}: ${own}`).toBe('');
          const [, ...read] = Papa.parse<string[]>(text.slice(0, -2), { delimiter, newline: '\r\n' }).data;
          expect(read.map((row) => row.map(cellMeant))).toEqual(data);
        },
      ),
      { numRuns: 400 },
    );
  });
  it('leaves numbers as they are', () => {
    expect(
      csvOf(
        ['t', 'v'],
        [
          ['-1.5', '-2,5'],
          ['1e-9', '-3'],
        ],
        ';',
      ),
    ).toBe('t;v\r\n-1.5;-2,5\r\n1e-9;-3\r\n');
    expect(csvOf(['t'], [['-1+1']])).toBe("t\r\n'-1+1\r\n");
  });
});
