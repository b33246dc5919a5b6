import * as fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { between } from '../units/between.testkit';
import { outlineOf } from './union';

/** Whether a point is in a closed polygon (even–odd rule), over all loops. */
function isIn(loops: readonly Float64Array[], x: number, y: number): boolean {
  let inside = false;
  for (const loop of loops)
    for (let k = 0, n = loop.length; k < n; k += 2) {
      const [ax, ay, bx, by] = [loop[k], loop[k + 1], loop[(k + 2) % n], loop[(k + 3) % n]];
      if (ay > y !== by > y && x < ax + ((y - ay) / (by - ay)) * (bx - ax)) inside = !inside;
    }
  return inside;
}
const box = fc
  .tuple(between(-1, 1), between(-1, 1), between(0.05, 0.8), between(0.05, 0.8))
  .map(([x, y, w, h]) => ({ x, y, w, h }));

describe('the outline of many quadrilaterals', () => {
  it('holds what one of them holds and nothing else, but for a cell along the edges', () => {
    let [inside, outside] = [0, 0];
    fc.assert(
      fc.property(
        fc.array(box, { minLength: 1, maxLength: 12 }),
        fc.array(fc.tuple(between(-1.1, 1.9), between(-1.1, 1.9)), { minLength: 40, maxLength: 40 }),
        fc.boolean(),
        (boxes, points, turned) => {
          const quads = boxes.flatMap(({ x, y, w, h }) =>
            turned ? [x, y, x, y + h, x + w, y + h, x + w, y] : [x, y, x + w, y, x + w, y + h, x, y + h],
          );
          const loops = outlineOf(quads);
          const cell = 3 / 500;
          for (const [px, py] of points) {
            const holds = (rim: number): boolean =>
              boxes.some((b) => px > b.x + rim && px < b.x + b.w - rim && py > b.y + rim && py < b.y + b.h - rim);
            // Surely in one of them, or surely in none.
            if (holds(2 * cell)) {
              inside++;
              expect(isIn(loops, px, py)).toBe(true);
            } else if (!holds(-2 * cell)) {
              outside++;
              expect(isIn(loops, px, py)).toBe(false);
            }
          }
        },
      ),
    );
    expect(Math.min(inside, outside)).toBeGreaterThan(100);
  });
  it('has a loop for each piece and each hole, with few points where it is straight', () => {
    // A frame of four bars round a hole, and a piece by itself.
    const bar = (x: number, y: number, w: number, h: number): number[] => [x, y, x + w, y, x + w, y + h, x, y + h];
    const loops = outlineOf([
      ...bar(0, 0, 10, 2),
      ...bar(0, 8, 10, 2),
      ...bar(0, 0, 2, 10),
      ...bar(8, 0, 2, 10),
      ...bar(14, 4, 3, 3),
    ]);
    expect(loops).toHaveLength(3);
    for (const loop of loops) expect(loop.length / 2).toBeLessThan(20);
    expect(isIn(loops, 5, 5)).toBe(false);
    expect(isIn(loops, 1, 5)).toBe(true);
    expect(isIn(loops, 15, 5)).toBe(true);
  });
  it('of nothing is nothing', () => {
    expect(outlineOf([])).toEqual([]);
    expect(outlineOf([1, 1, 1, 1, 1, 1, 1, 1])).toEqual([]);
  });
});
