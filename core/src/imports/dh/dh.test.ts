import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { dhToText } from '../../exports';
import { parseDhText } from './index';

const usual = { angle: 'deg', length: 'mm' } as const;

describe('a pasted table', () => {
  it('comes back the same through text', () => {
    const number = fc.integer({ min: -360_000, max: 360_000 }).map((v) => v / 1000);
    fc.assert(
      fc.property(
        fc.array(
          fc.record({
            type: fc.constantFrom('revolute' as const, 'prismatic' as const),
            thetaDeg: number,
            dMm: number,
            aMm: number,
            alphaDeg: number,
          }),
          { minLength: 1, maxLength: 8 },
        ),
        (rows) => {
          const frame = {
            xyzMm: [0, 0, 0] as [number, number, number],
            rpyDeg: [0, 0, 0] as [number, number, number],
          };
          const read = parseDhText(dhToText({ convention: 'standard', rows, base: frame, tool: frame }), usual);
          expect(read.problems).toEqual([]);
          expect(read.rows.map(({ name: _, ...row }) => row)).toEqual(rows);
          expect(read).toMatchObject({ convention: 'standard', base: frame, tool: frame });
        },
      ),
    );
  });
  it('is read with head line, variables, fractions of pi, decimal commas, other units and column orders', () => {
    const read = parseDhText(
      'Joint\tα\ta\tθ\td\tmin\tmax\nBase\t-pi/2\t0\tq1\t1,5\t-1\t1\nSlide\t0\t2\t0\td2*\t0\t3',
      { angle: 'rad', length: 'cm' },
    );
    expect(read.problems).toEqual([]);
    expect(read.rows[0]).toMatchObject({
      type: 'revolute',
      name: 'Base',
      alphaDeg: -90,
      aMm: 0,
      thetaDeg: 0,
      dMm: 15,
    });
    expect(read.rows[0].max).toBeCloseTo(57.2958, 3);
    expect(read.rows[1]).toMatchObject({ type: 'prismatic', aMm: 20, dMm: 0, max: 30 });
    expect(parseDhText('0 62 0 90\n90 0 140 0', usual).rows).toHaveLength(2);
  });
  it('names the row and the cell that is missing or no number, and keeps the good rows', () => {
    const read = parseDhText('theta,d,a,alpha\n0,62,0,90\n0,,140,0\n0,0,long,0', usual);
    expect(read.rows).toHaveLength(1);
    expect(read.problems).toEqual([
      'Row 3 has no d; every row needs θ, d, a and α.',
      'Row 4: “long” for a is not a number.',
    ]);
    expect(parseDhText('theta\td\ta\n1\t2\t3', usual).problems).toEqual(['The head line has no column for α.']);
    expect(parseDhText('  ', usual).problems).toHaveLength(1);
    expect(parseDhText(Array(300).fill('0 1 2 3').join('\n'), usual).problems[0]).toContain('300 rows');
  });
  it('says which frame or convention it cannot read, and goes by the units of its head line', () => {
    const head = 'theta °\td mm\ta mm\talpha °';
    const row = '0\t10\t20\t90';
    expect(parseDhText(`base\tframe\t1\t2\t3\n${head}\n${row}`, usual).problems).toEqual([
      'Row 1: the frame of the base needs six numbers: x, y, z, roll, pitch and yaw.',
    ]);
    expect(parseDhText(`convention\tolder\n${head}\n${row}`, usual).problems).toEqual([
      'The convention is “older”; standard or modified is allowed.',
    ]);
    const inches = parseDhText(`${head}\n${row}`, { angle: 'rad', length: 'in' });
    expect(inches.rows[0]).toMatchObject({ dMm: 10, aMm: 20, alphaDeg: 90 });
    // Rows are counted as the person sees them.
    expect(parseDhText(`convention\tmodified\n${head}\n0\tlong\t20\t90`, usual).problems).toEqual([
      'Row 3: “long” for d is not a number.',
    ]);
  });
  it('never crashes and never gives a number that is not finite', () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 300 }), (text) => {
        for (const row of parseDhText(text, usual).rows)
          for (const v of [row.thetaDeg, row.dMm, row.aMm, row.alphaDeg]) expect(Number.isFinite(v)).toBe(true);
      }),
    );
  });
});
