import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { identity, vec3, type Vec3 } from '../linear';
import { between } from '../units/between.testkit';
import { GRAVITY } from '../units';
import { ballastFor, pressedAt, spanned, spreadFor, Support, type Point, type Wrench } from './index';

function tipMargin(feet: readonly Point[], base: Float64Array, wrench: Wrench): number | null {
  const support = new Support(feet, base);
  return support.stands ? support.marginOf(wrench) : null;
}
const size = between(-1, 1);
const point = fc.tuple(size, size);
/** A mass at a place that is held up, and no more. */
const weight = (mass: number, com: Vec3) => {
  const force: Vec3 = [0, 0, mass * GRAVITY];
  return { force, moment: vec3.cross(com, force) };
};
/** By even–odd rule. */
function isInside([x, y]: Point, corners: readonly Point[]): boolean {
  let inside = false;
  corners.forEach(([ax, ay], k) => {
    const [bx, by] = corners[(k + 1) % corners.length];
    if (ay > y !== by > y && x < ax + ((y - ay) / (by - ay)) * (bx - ax)) inside = !inside;
  });
  return inside;
}

describe('what feet span', () => {
  it('is convex, has all of them inside, and only of them as corners', () => {
    fc.assert(
      fc.property(fc.array(point, { minLength: 3, maxLength: 12 }), (feet) => {
        const corners = spanned(feet);
        fc.pre(corners.length > 2);
        for (const [k, a] of corners.entries()) {
          expect(feet).toContainEqual(a);
          const b = corners[(k + 1) % corners.length];
          for (const c of feet)
            expect((b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])).toBeGreaterThan(-1e-12);
        }
      }),
    );
  });
  it('is nothing for points on a line, two of them, or one over and over', () => {
    for (const feet of [
      [],
      [[0, 0]],
      [
        [0, 0],
        [1, 1],
      ],
      [
        [0, 0],
        [1, 1],
        [2, 2],
        [0.5, 0.5],
      ],
      [
        [1, 2],
        [1, 2],
        [1, 2],
      ],
    ] as Point[][]) {
      expect(spanned(feet).length).toBeLessThan(3);
      expect(tipMargin(feet, identity(), weight(1, [0, 0, 1]))).toBeNull();
    }
  });
});

describe('the margin before it tips', () => {
  it('is positive just where the weight stands over what the feet span, and how far it may shift any way', () => {
    let [stands, tips] = [0, 0];
    fc.assert(
      fc.property(fc.array(point, { minLength: 3, maxLength: 8 }), size, size, (feet, x, y) => {
        const corners = spanned(feet);
        fc.pre(corners.length > 2);
        const margin = tipMargin(feet, identity(), weight(2, [x, y, 0.4]))!;
        fc.pre(Math.abs(margin) > 1e-6);
        expect(margin > 0).toBe(isInside([x, y], corners));
        if (margin > 0) stands++;
        else tips++;
        if (margin <= 0) return;
        for (let way = 0; way < 12; way++) {
          const shift = (far: number): number =>
            tipMargin(
              feet,
              identity(),
              weight(2, [x + far * Math.cos((way * Math.PI) / 6), y + far * Math.sin((way * Math.PI) / 6), 0.4]),
            )!;
          expect(shift(0.999 * margin)).toBeGreaterThan(0);
        }
      }),
      { numRuns: 300 },
    );
    expect(Math.min(stands, tips)).toBeGreaterThan(20);
  });
  it('shrinks by height times acceleration over gravity, as a carriage that brakes', () => {
    const feet: Point[] = [
      [-0.2, -0.1],
      [0.2, -0.1],
      [0.2, 0.1],
      [-0.2, 0.1],
    ];
    fc.assert(
      fc.property(
        fc.double({ min: 0, max: 6, noNaN: true }),
        fc.double({ min: 0.05, max: 0.3, noNaN: true }),
        (a, h) => {
          const force: Vec3 = [-a, 0, GRAVITY];
          const wrench = { force, moment: vec3.cross([0, 0, h], force) };
          const shift = (a * h) / GRAVITY;
          expect(tipMargin(feet, identity(), wrench)).toBeCloseTo(Math.min(0.1, 0.2 - shift), 9);
          expect(pressedAt(identity(), wrench)![0]).toBeCloseTo(shift, 9);
        },
      ),
    );
  });
  it('goes by where the base stands and how it is turned; one that hangs is pulled off', () => {
    const feet: Point[] = [
      [-0.1, -0.1],
      [0.1, -0.1],
      [0, 0.1],
    ];
    const turned = Float64Array.of(0, -1, 0, 1, 0, 0, 0, 0, 1, 3, 4, 0.5);
    expect(pressedAt(turned, weight(1, [3, 4.02, 2]))).toEqual([expect.closeTo(0.02, 9), expect.closeTo(0, 9)]);
    expect(tipMargin(feet, turned, weight(1, [3, 4.02, 2]))).toBeGreaterThan(0);
    const hanging = Float64Array.of(1, 0, 0, 0, -1, 0, 0, 0, -1, 0, 0, 1);
    expect(tipMargin(feet, hanging, weight(1, [0, 0, 0.5]))).toBe(-Infinity);
  });
  const square: Point[] = [
    [-0.1, -0.1],
    [0.1, -0.1],
    [0.1, 0.1],
    [-0.1, 0.1],
  ];
  const triple = fc.tuple(size, size, size).map(([x, y, z]): Vec3 => [x, y, z]);
  it('of what stands still is the same from its mass and its middle, on a base that leans any way', () => {
    fc.assert(
      fc.property(
        triple,
        between(0.1, 5),
        triple,
        between(-0.6, 0.6),
        between(-3, 3),
        (com, mass, at, lean, turn) => {
          const [c, s] = [Math.cos(lean), Math.sin(lean)];
          const [ct, st] = [Math.cos(turn), Math.sin(turn)];
          const base = Float64Array.of(ct * c, -st, ct * s, st * c, ct, st * s, -s, 0, c, ...at);
          const support = new Support(square, base);
          const moment = Float64Array.from(com, (v) => v * mass);
          expect(support.restMargin(mass, moment)).toBeCloseTo(support.marginOf(weight(mass, com)), 9);
        },
      ),
    );
  });
  it('is gone just at the most of a load that it bears', () => {
    let bounded = 0;
    fc.assert(
      fc.property(triple, triple, triple, ([x, y, z], force, moment) => {
        const own = weight(2, [0.09 * x, 0.09 * y, 0.3 * z]);
        const support = new Support(square, identity());
        const most = support.mostOf(own, { force, moment });
        const margin = (k: number): number =>
          support.marginOf({
            force: vec3.add(own.force, vec3.scale(force, k)),
            moment: vec3.add(own.moment, vec3.scale(moment, k)),
          });
        if (most === Infinity) {
          for (const k of [0.1, 1, 10, 1000]) expect(margin(k)).toBeGreaterThan(-1e-9);
          return;
        }
        bounded++;
        fc.pre(most < 1e4);
        for (const share of [0, 0.3, 0.7, 0.99]) expect(margin(share * most)).toBeGreaterThan(-1e-9);
        expect(margin(1.001 * most + 1e-9)).toBeLessThan(0);
      }),
      { numRuns: 300 },
    );
    expect(bounded).toBeGreaterThan(50);
    expect(new Support(square, identity()).mostOf(weight(1, [0.2, 0, 0]), weight(1, [0, 0, 0]))).toBe(0);
  });

  it('is what was wanted with the ballast that is said, and with the feet so much further out; not with less', () => {
    const seen = { ballast: 0, none: 0, spread: 0 };
    const place = between(-0.3, 0.3);
    fc.assert(
      fc.property(
        fc.array(fc.tuple(place, place, between(5, 60)), { minLength: 1, maxLength: 5 }),
        between(0, 0.03),
        fc.tuple(between(-0.09, 0.09), between(-0.09, 0.09)),
        (pressed, wanted, at) => {
          const presses = pressed.map(([x, y, newton]) => ({ x, y, newton }));
          const margin = (feet: readonly Point[], kg: number): number =>
            Math.min(
              ...presses.map(({ x, y, newton }) => {
                const own = weight(newton / GRAVITY, [x, y, 0]);
                const more = weight(kg, [at[0], at[1], 0]);
                return tipMargin(feet, identity(), {
                  force: vec3.add(own.force, more.force),
                  moment: vec3.add(own.moment, more.moment),
                })!;
              }),
            );
          const support = new Support(square, identity());
          const kg = ballastFor(support, presses, wanted, at);
          fc.pre(kg === null || kg < 1e5);
          if (kg === null) {
            for (let by = 1e-3; by < 1e8; by *= 1.3) expect(margin(square, by)).toBeLessThan(wanted + 1e-6);
            seen.none++;
          } else if (kg > 0) {
            expect(margin(square, kg)).toBeCloseTo(wanted, 5);
            seen.ballast++;
          } else expect(margin(square, 0)).toBeGreaterThanOrEqual(wanted - 1e-9);
          const times = spreadFor(support, presses, wanted)!;
          const wider = square.map(([x, y]): Point => [times * x, times * y]);
          if (times > 1) {
            expect(margin(wider, 0)).toBeCloseTo(wanted, 9);
            seen.spread++;
          } else expect(margin(square, 0)).toBeGreaterThanOrEqual(wanted - 1e-9);
        },
      ),
      { numRuns: 200 },
    );
    expect(Math.min(seen.ballast, seen.none, seen.spread)).toBeGreaterThan(10);
    expect(ballastFor(new Support(square, identity()), [null], 0.01, [0, 0])).toBeNull();
    expect(spreadFor(new Support(square, identity()), [null], 0.01)).toBeNull();
  });
});
