import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoRigs, tileDipper } from '../../../demo';
import { compiled, deltaDoc, poseOf } from '../kinematics/arms.testkit';
import { apply, positionOf, vec3, type Vec3 } from '../linear';
import { forward } from '../kinematics';
import type { Obstacle, Rig } from '../rig';
import { formatNumber } from '../units/quantity';
import {
  drawRig,
  obstacleFrame,
  toPage,
  type Drawing,
  type LetterSpan,
  type Pt,
  type Shape,
  type ViewKind,
} from './index';
import { between } from '../units/between.testkit';

const flat = (shapes: readonly Shape[]): Shape[] => shapes.flatMap((s) => [s, ...flat(s.children ?? [])]);
const withClass = (drawing: Drawing, name: string): Shape[] =>
  flat(drawing.shapes).filter((s) => s.cls.split(' ').includes(name));
const numbers = (s: Shape): number[] =>
  String(s.attrs.d ?? '')
    .match(/-?\d+(\.\d+)?/g)
    ?.map(Number) ?? [];
const points = (s: Shape): Pt[] => {
  const list = numbers(s);
  return Array.from({ length: list.length / 2 }, (_, k): Pt => [list[2 * k], list[2 * k + 1]]);
};
const box = (list: readonly Pt[]): [number, number, number, number] => [
  Math.min(...list.map((p) => p[0])),
  Math.max(...list.map((p) => p[0])),
  Math.min(...list.map((p) => p[1])),
  Math.max(...list.map((p) => p[1])),
];

const base = tileDipper();
const place = (kind: string, more: object, xyzMm: number[], yaw: number): Obstacle =>
  ({ kind, id: 'thing', name: 'thing', xyzMm, rpyDeg: [0, 0, yaw], ...more }) as Obstacle;
const size = fc.integer({ min: 10, max: 160 });
const spot = fc.tuple(fc.integer({ min: -200, max: 200 }), fc.integer({ min: -200, max: 200 }), fc.constant(0));
const yaw = fc.integer({ min: -180, max: 180 });
const solids: fc.Arbitrary<Obstacle> = fc.oneof(
  fc.tuple(spot, yaw, size, size, size).map(([at, turn, a, b, c]) => place('box', { sizeMm: [a, b, c] }, at, turn)),
  fc
    .tuple(spot, yaw, size, size, size, fc.integer({ min: 1, max: 8 }))
    .map(([at, turn, a, b, c, slots]) => place('rack', { sizeMm: [a + 40, b, c], slots, slotMm: 4 }, at, turn)),
  fc
    .tuple(spot, yaw, size, size)
    .map(([at, turn, r, h]) => place('cylinder', { radiusMm: r / 2, heightMm: h }, at, turn)),
  fc
    .tuple(spot, yaw, size, size)
    .map(([at, turn, r, h]) =>
      place('jar', { innerRadiusMm: r / 2, wallMm: 5, heightMm: h + 20, fillMm: h / 2 }, at, turn),
    ),
);
/** Half sizes (mm) and height of what an obstacle fills. */
function fills(o: Obstacle): { a: number; b: number; h: number; round: boolean } {
  switch (o.kind) {
    case 'box':
    case 'rack':
      return { a: o.sizeMm[0] / 2, b: o.sizeMm[1] / 2, h: o.sizeMm[2], round: false };
    case 'cylinder':
      return { a: o.radiusMm, b: o.radiusMm, h: o.heightMm, round: true };
    case 'jar':
      return { a: o.innerRadiusMm + o.wallMm, b: o.innerRadiusMm + o.wallMm, h: o.heightMm, round: true };
    default:
      return { a: 0, b: 0, h: 0, round: false };
  }
}

describe('what stands around', () => {
  const drawn = (obstacle: Obstacle, kind: ViewKind): Drawing => {
    const rig = { ...base, obstacles: [obstacle], spots: [], poses: [] } as Rig;
    const mechanism = compiled(rig.mechanism);
    return drawRig({ rig, mechanism, q: mechanism.home, kind, width: 900, height: 700 });
  };
  it('covers on the page just what it fills in the world, from the side and from above', () => {
    fc.assert(
      fc.property(solids, fc.constantFrom<ViewKind>('side', 'plan'), (obstacle, kind) => {
        const drawing = drawn(obstacle, kind);
        const mechanism = compiled(base.mechanism);
        const frame = obstacleFrame(mechanism, obstacle);
        const { a, b, h, round } = fills(obstacle);
        const corners: Vec3[] = round
          ? Array.from({ length: 72 }, (_, k) => (k * Math.PI) / 36).flatMap((t) =>
              [0, h].map((z): Vec3 => [(a * Math.cos(t)) / 1000, (a * Math.sin(t)) / 1000, z / 1000]),
            )
          : [-a, a].flatMap((x) => [-b, b].flatMap((y) => [0, h].map((z): Vec3 => [x / 1000, y / 1000, z / 1000])));
        const expected = box(corners.map((p) => toPage(drawing.view, apply(frame, p))));
        const found = withClass(drawing, 'obstacle').flatMap((s): Pt[] => {
          if (s.tag !== 'circle') return points(s);
          const [x, y, r] = [s.attrs.cx, s.attrs.cy, s.attrs.r].map(Number);
          return [
            [x - r, y - r],
            [x + r, y + r],
          ];
        });
        box(found).forEach((v, k) => expect(Math.abs(v - expected[k])).toBeLessThan(2));
      }),
      { numRuns: 60 },
    );
  });
  it('stands on the page, named where it is in the drawn plane, faint where it is behind', () => {
    fc.assert(
      fc.property(solids, (obstacle) => {
        const drawing = drawn(obstacle, 'side');
        const shapes = withClass(drawing, 'obstacle');
        const [left, right, top, bottom] = box(shapes.flatMap(points));
        expect(left).toBeGreaterThanOrEqual(0);
        expect(right).toBeLessThanOrEqual(900);
        expect(top).toBeGreaterThanOrEqual(0);
        expect(bottom).toBeLessThanOrEqual(700);
        const faint = shapes.every((s) => s.cls.includes('behind'));
        const named = withClass(drawing, 'obstacle-label').some((s) => s.text === 'thing');
        expect(named).toBe(!faint);
      }),
      { numRuns: 40 },
    );
  });
  it('a keep-out plane is a hatched line from the side, its outline from above, nothing where it has none', () => {
    const table = (sizeMm?: number[]): Obstacle => place('plane', sizeMm ? { sizeMm } : {}, [120, 0, 40], 0);
    const side = drawn(table([200, 150]), 'side');
    const ground = withClass(side, 'ground').map(points);
    const [y] = [toPage(side.view, [0.12, 0, 0.04])[1]];
    expect(ground.some((line) => line.every((p) => Math.abs(p[1] - y) < 0.1))).toBe(true);
    const above = drawn(table([200, 150]), 'plan');
    const [l, r] = box(withClass(above, 'obstacle').flatMap(points));
    // In the plan forward is across or up the page; either way one of its sides shows.
    expect([0.2, 0.15].some((edge) => Math.abs((r - l) / above.view.scale - edge) < 0.003)).toBe(true);
    expect(withClass(drawn(table(), 'plan'), 'obstacle')).toEqual([]);
  });
});

describe('dimensions', () => {
  const shares = fc.array(between(0.05, 0.95), { minLength: 7, maxLength: 7 });
  it('tell distances that are there between pivots, tools and rods, to a tenth of a millimetre', () => {
    const arms = [...demoRigs().map(({ rig }) => rig), { ...base, mechanism: deltaDoc() } as Rig];
    fc.assert(
      fc.property(fc.constantFrom(...arms), shares, fc.constantFrom<ViewKind>('side', 'plan'), (rig, f, kind) => {
        const mechanism = compiled(rig.mechanism);
        const q = mechanism.delta ? mechanism.home : poseOf(mechanism, f);
        const drawing = drawRig({
          ...{ rig, mechanism, q, kind, width: 900, height: 700, dimensions: true },
          selected: mechanism.slotIds[0] ?? null,
        });
        const { joints, tools } = forward(mechanism, q);
        const ends = [...joints.values(), ...tools.values()].map((frame) => positionOf(frame));
        if (mechanism.delta) {
          const { upperArm, forearm, platformRadius } = mechanism.delta;
          const told = withClass(drawing, 'dimension-text').map((s) => s.text);
          const lengths = [upperArm, forearm, platformRadius].map((v) => formatNumber(v * 1000, 1));
          // Arms lie in the drawn plane or not; what is told of them is true.
          expect(told.filter((t) => lengths.includes(t!)).length).toBeGreaterThan(0);
          return;
        }
        const there = new Set(
          ends.flatMap((a) => [
            formatNumber(a[2] * 1000, 1),
            ...ends.map((b) => formatNumber(vec3.distance(a, b) * 1000, 1)),
          ]),
        );
        for (const { text } of withClass(drawing, 'dimension-text')) expect([...there]).toContain(text);
      }),
      { numRuns: 60 },
    );
  });
  it('with letters hold each letter once, its line as long as its span where that is level, upright or straight', () => {
    const mechanism = compiled(base.mechanism);
    const span = fc.record({
      from: fc.tuple(fc.integer({ min: -100, max: 200 }), fc.integer({ min: 0, max: 300 })),
      to: fc.tuple(fc.integer({ min: -100, max: 200 }), fc.integer({ min: 0, max: 300 })),
      along: fc.constantFrom<LetterSpan['along']>('level', 'upright', 'straight'),
    });
    fc.assert(
      fc.property(fc.array(span, { minLength: 1, maxLength: 8 }), (list) => {
        const letters = list.map(({ from, to, along }, k): LetterSpan => ({
          letter: 'ABCDEFGH'[k],
          from: [from[0] / 1000, 0, from[1] / 1000],
          to: [to[0] / 1000, 0, to[1] / 1000],
          along,
        }));
        const drawing = drawRig({
          ...{ rig: base, mechanism, q: mechanism.home, kind: 'side', width: 900, height: 700, letters },
        });
        expect(withClass(drawing, 'letter').map((s) => s.text)).toEqual(letters.map((l) => l.letter));
        const lines = withClass(drawing, 'dimension').map(points);
        letters.forEach(({ from, to, along }, k) => {
          const [a, b] = [toPage(drawing.view, from), toPage(drawing.view, to)];
          const long =
            along === 'level'
              ? Math.abs(b[0] - a[0])
              : along === 'upright'
                ? Math.abs(b[1] - a[1])
                : Math.hypot(b[0] - a[0], b[1] - a[1]);
          const [p, q] = lines[k];
          expect(Math.abs(Math.hypot(q[0] - p[0], q[1] - p[1]) - long)).toBeLessThan(0.1);
        });
      }),
      { numRuns: 60 },
    );
  });
});

describe('the arc of a joint’s limits', () => {
  const mechanism = compiled(base.mechanism);
  const shares = fc.array(between(0.05, 0.95), { minLength: 5, maxLength: 5 });
  it('spans its range, with both limits told and the present value at its place between them', () => {
    fc.assert(
      fc.property(shares, fc.constantFrom('shoulder', 'elbow', 'wrist'), (f, id) => {
        const q = poseOf(mechanism, f);
        const drawing = drawRig({
          ...{ rig: base, mechanism, q, kind: 'side', width: 900, height: 700, selected: id },
        });
        const slot = mechanism.slotOf.get(id)!;
        const deg = (v: number): number => v / mechanism.siPerUnit[slot];
        const [low, high] = [mechanism.lower[slot], mechanism.upper[slot]];
        expect(withClass(drawing, 'limit-label').map((s) => s.text)).toEqual(
          [low, high].map((v) => `${formatNumber(deg(v), 0)}°`),
        );
        const centre = toPage(drawing.view, positionOf(forward(mechanism, q).joints.get(id)!));
        const angleOf = (s: Shape): number => {
          const [, end] = points(s);
          return Math.atan2(end[1] - centre[1], end[0] - centre[0]);
        };
        const apart = (a: number, b: number): number => {
          const d = Math.abs(a - b) % (2 * Math.PI);
          return Math.min(d, 2 * Math.PI - d);
        };
        /** Where what the joint carries would be seen with the joint at a value. */
        const carried = (value: number): number => {
          const moved = q.slice();
          moved[slot] = value;
          const { joints, tools } = forward(mechanism, moved);
          const child = { shoulder: joints.get('elbow')!, elbow: joints.get('wrist')!, wrist: tools.get('tongs')! }[
            id
          ]!;
          const at = toPage(drawing.view, positionOf(child));
          return Math.atan2(at[1] - centre[1], at[0] - centre[0]);
        };
        const [first, last] = withClass(drawing, 'limit-end').map(angleOf);
        const [now] = withClass(drawing, 'limit-now').map(angleOf);
        expect(apart(first, carried(low))).toBeLessThan(0.01);
        expect(apart(last, carried(high))).toBeLessThan(0.01);
        expect(apart(now, carried(q[slot]))).toBeLessThan(0.01);
      }),
      { numRuns: 40 },
    );
  });
});
