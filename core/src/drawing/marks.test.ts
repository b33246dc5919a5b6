import * as fc from 'fast-check';
import { expect, it } from 'vitest';
import { between } from '../units/between.testkit';
import { setApart } from './marks';

it('marks stand at their places, or aside where another one is, each to be read and on the page', () => {
  let [still, moved] = [0, 0];
  fc.assert(
    fc.property(
      fc.array(fc.tuple(between(150, 450), between(150, 350)), { minLength: 1, maxLength: 12 }),
      fc.integer({ min: 6, max: 12 }),
      (pages, size) => {
        const room = { size, width: 600, height: 500 };
        const places = setApart(pages, room);
        expect(places).toHaveLength(pages.length);
        const gap = 2 * size + 2;
        places.forEach((p, k) => {
          // None on one before it.
          const [page, before] = [pages[k], places.slice(0, k)];
          for (const [x, y] of before) expect(Math.hypot(x - p[0], y - p[1])).toBeGreaterThanOrEqual(gap - 1e-9);
          const isFree = before.every(([x, y]) => Math.hypot(x - page[0], y - page[1]) >= gap);
          expect(p === page).toBe(isFree);
          if (isFree) still++;
          else {
            moved++;
            expect(Math.hypot(p[0] - page[0], p[1] - page[1])).toBeLessThan(5 * gap);
            expect(p[0] > size && p[0] < room.width - size && p[1] > size && p[1] < room.height - size).toBe(true);
          }
        });
      },
    ),
  );
  expect(Math.min(still, moved)).toBeGreaterThan(5);
});
it('a mark without room stays where it belongs', () => {
  const pages = [
    [10, 10],
    [10, 10],
  ] as const;
  expect(setApart(pages, { size: 11, width: 20, height: 20 })[1]).toBe(pages[1]);
});
