import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { dimensions, formatAmount, formatFixed, formatQuantity, parseQuantity, type Dimension } from './index';
import { between } from './between.testkit';

const value = (text: string, dimension: Dimension = 'length'): number => {
  const parsed = parseQuantity(text, dimension);
  if (!parsed.ok) throw new Error(parsed.message);
  return parsed.value;
};

describe('parseQuantity', () => {
  it.each([
    ['140', 140],
    ['62 + 38', 100],
    ['280/2', 140],
    ['5.5 in', 139.7],
    ['5 1/2 in', 139.7],
    ['12,5', 12.5],
    ['12 cm', 120],
    ['-3', -3],
    ['−3', -3],
    ['(20 + 4) * 2', 48],
    ['1/2 in', 12.7],
    ['2 in + 3', 53.8],
    ['1e2', 100],
    ['2"', 50.8],
    ['10 - 2 - 3', 5],
  ])('reads %s as %d mm', (text, mm) => expect(value(text)).toBeCloseTo(mm, 9));
  it('reads angles, times and pulses in their units', () => {
    expect(value('90 deg', 'angle')).toBe(90);
    expect(value('1 rad', 'angle')).toBeCloseTo(57.29578, 5);
    expect(value('1/4 turn', 'angle')).toBe(90);
    expect(value('300 ms', 'time')).toBeCloseTo(0.3, 12);
    expect(value('1.5 ms', 'pulse')).toBe(1500);
    expect(value('10 rpm', 'angularSpeed')).toBe(60);
  });
  it.each(['', 'abc', '12 parsec', '1/0', '(3', '3)', '4 mm mm', '1..2', '90°'])(
    'refuses “%s” in one sentence',
    (text) => {
      const parsed = parseQuantity(text, 'length');
      expect(parsed.ok).toBe(false);
      if (!parsed.ok) expect(parsed.message).toMatch(/^[^.]*.*\.$/);
    },
  );
  it('survives any text', () => {
    fc.assert(
      fc.property(fc.string(), (text) => {
        const parsed = parseQuantity(text, 'length');
        if (parsed.ok) expect(Number.isFinite(parsed.value)).toBe(true);
      }),
    );
    expect(parseQuantity('('.repeat(5000), 'length').ok).toBe(false);
  });
  it('reads back what it formats', () => {
    const names = Object.keys(dimensions) as Dimension[];
    fc.assert(
      fc.property(fc.constantFrom(...names), fc.integer({ min: -100000, max: 100000 }), (dimension, n) => {
        expect(value(formatQuantity(n, dimension), dimension)).toBeCloseTo(n, 9);
      }),
    );
  });
});

describe('amounts', () => {
  it('have the digits they deserve: never “0” for what is not, and never off by more than a twentieth above 0.01', () => {
    fc.assert(
      fc.property(between(1e-9, 1e4), (v) => {
        const text = formatAmount(v);
        expect(text === 'under 0.001').toBe(v < 0.001);
        if (v < 0.001) return;
        expect(Number(text)).toBeGreaterThan(0);
        if (v > 0.01) expect(Math.abs(Number(text) / v - 1)).toBeLessThan(0.051);
      }),
    );
    expect([0, 0.0123, 0.25, 4.66, 52.4, 130].map(formatAmount)).toEqual(['0', '0.012', '0.25', '4.7', '52', '130']);
  });
});

describe('figures of a column', () => {
  it('have just so many decimals, and say what the number is, never −0', () => {
    fc.assert(
      fc.property(between(-1e5, 1e5), fc.nat(4), (value, decimals) => {
        const text = formatFixed(value, decimals);
        expect(text.split('.')[1]?.length ?? 0).toBe(decimals);
        const read = Number(text.replace('−', '-'));
        expect(Math.abs(read - value)).toBeLessThanOrEqual(0.5000001 * 10 ** -decimals);
        expect(Object.is(read, -0)).toBe(false);
        expect(text).not.toContain('-');
      }),
    );
    expect([formatFixed(-0.04, 1), formatFixed(NaN, 2)]).toEqual(['0.0', '–']);
  });
});

describe('a bus address', () => {
  it('may be typed either way, and only an address may', () => {
    for (let address = 0; address < 256; address++)
      for (const text of [`0x${address.toString(16)}`, `0X${address.toString(16).toUpperCase()}`, `${address}`])
        expect(parseQuantity(text, 'address')).toEqual({ ok: true, value: address });
    for (const text of ['0x', '0xzz', '0x4.5', '40h', '0x12345'])
      expect(parseQuantity(text, 'address').ok).toBe(false);
    expect(parseQuantity('0x40', 'count').ok).toBe(false);
  });
});
