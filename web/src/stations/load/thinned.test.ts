import { describe, expect, it } from 'vitest';
import { thinned } from './thinned';

describe('a line of many values', () => {
  it('keeps every peak, in its place, with fewer points', () => {
    const timeS = Float64Array.from({ length: 20_000 }, (_, i) => i / 100);
    for (const at of [0, 7, 1234, 19_999]) {
      const values = timeS.map((_, i) => (i === at ? 5 : Math.sin(i / 50)));
      const points = thinned(timeS, values, (a, b) => a > b);
      expect(points.length).toBeLessThan(1000);
      expect(points).toContainEqual({ x: timeS[at], y: 5 });
      const lows = thinned(
        timeS,
        values.map((v) => -v),
        (a, b) => a < b,
      );
      expect(lows).toContainEqual({ x: timeS[at], y: -5 });
    }
    expect(thinned(Float64Array.of(1), Float64Array.of(2), () => false)).toEqual([{ x: 1, y: 2 }]);
    expect(thinned(new Float64Array(0), new Float64Array(0), () => false)).toEqual([]);
  });
});
