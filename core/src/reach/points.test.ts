import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { figureSheet, sheetToSvg } from '../drawing';
import { parsePoints } from '../imports';
import { finish } from '../jobs';
import { forward, solveInverse } from '../kinematics';
import { compiled, deltaDoc, fourAxis, poseOf, sixAxis } from '../kinematics/arms.testkit';
import { axisOf, positionOf, seededRandom, vec3, type Vec3 } from '../linear';
import {
  arcPoints,
  figurePoints,
  isTooFast,
  jointRates,
  lengthNow,
  lengthsJob,
  linePoints,
  planeAxes,
  pointsJob,
  reachMapJob,
  withLengths,
  type LengthRange,
} from './index';
import { pointResultsToCsv, reachMapToCsv } from './index';
import { between } from '../units/between.testkit';

const shares = fc.array(between(0, 1), { minLength: 7, maxLength: 7 });
const coordinate = between(-0.3, 0.3);
const place = fc.tuple(coordinate, coordinate, coordinate) as fc.Arbitrary<Vec3>;

describe('points tables', () => {
  const arm = compiled(fourAxis());
  const [tool] = arm.tools;
  const table = (list: Vec3[], direction: Vec3 | null = [0, 0, -1], speed = 0.05) =>
    finish(
      pointsJob(
        arm,
        tool,
        list.map((position, k) => ({ name: `p${k}`, position, direction })),
        arm.home,
        speed,
      ),
    );

  it('keep the posture along a line, and say where and why it ends', () => {
    const results = table(linePoints([0.14, -0.05, 0.08], [0.4, -0.05, 0.08], 0.004));
    const reached = results.filter((r) => r.solution);
    expect(reached.length).toBeGreaterThan(10);
    expect(new Set(reached.map((r) => r.solution!.posture)).size).toBe(1);
    const first = results.findIndex((r) => !r.solution);
    expect(first).toBeGreaterThan(10);
    // Past the edge nothing is reached any more, each with its reason.
    for (const r of results.slice(first)) expect(r.reason?.message).toMatch(/short|limit/);
    reached.slice(1).forEach((r, k) => {
      const step = Math.max(...r.solution!.q.map((v, s) => Math.abs(v - reached[k].solution!.q[s])));
      expect(step).toBeLessThan(0.5);
    });
  });

  it('joint speeds are those that move the tool as asked', () => {
    const six = compiled(sixAxis(18));
    for (const [mechanism, kind] of [
      [arm, 'free'],
      [six, 'full'],
      [six, 'direction'],
    ] as const) {
      const [end] = mechanism.tools;
      fc.assert(
        fc.property(shares, place, (f, velocity) => {
          const q = poseOf(mechanism, f, 0.15);
          fc.pre(vec3.norm(velocity) > 0.01);
          const rates = jointRates(mechanism, end, kind, q, velocity);
          fc.pre(rates.every((r) => Math.abs(r) < 50));
          const h = 1e-6;
          const moved = q.slice();
          end.slots.forEach((s, k) => (moved[s] += h * rates[k]));
          const [a, b] = [q, moved].map((v) => forward(mechanism, v).tools.get('tool')!);
          const got = vec3.scale(vec3.sub(positionOf(b), positionOf(a)), 1 / h);
          expect(vec3.distance(got, velocity)).toBeLessThan(2e-3);
          if (kind !== 'free') expect(vec3.angleBetween(axisOf(a, 2), axisOf(b, 2))).toBeLessThan(1e-6);
        }),
      );
    }
  });

  it('mark where speeds blow up: passing close beside the turn axis', () => {
    const wide = structuredClone(fourAxis());
    for (const joint of wide.joints)
      if (joint.type === 'revolute') joint.limits = { ...joint.limits, min: -170, max: 170 };
    const free = compiled(wide);
    const line = linePoints([0.12, 0.004, 0.3], [-0.12, 0.004, 0.3], 0.004);
    const results = finish(
      pointsJob(
        free,
        free.tools[0],
        line.map((position) => ({ name: '', position, direction: null })),
        free.home,
        0.1,
      ),
    );
    const middle = results[Math.floor(results.length / 2)];
    expect(middle.speedShare).toBeGreaterThan(4 * results[0].speedShare);
    expect(isTooFast(middle)).toBe(true);
    expect(free.ids[middle.slowest]).toBe('turn');
  });

  it('as CSV have a row a point with the pose that forward kinematics confirms', () => {
    const results = table([
      [0.15, 0.02, 0.06],
      [0.9, 0, 0.1],
    ]);
    const [head, first, second] = pointResultsToCsv(arm, results).trim().split('\r\n');
    expect(head).toMatch(/^name,x_mm,y_mm,z_mm,dx,dy,dz,reached,posture,all_postures,turn_deg/);
    const cells = first.split(',');
    const q = Float64Array.from(cells.slice(10, 14), (v) => (Number(v) * Math.PI) / 180);
    expect(vec3.distance(positionOf(forward(arm, q).tools.get('tool')!), [0.15, 0.02, 0.06])).toBeLessThan(1e-4);
    expect(second).toMatch(/,no,.*short/);
  });
});

describe('results of a points table', () => {
  const arm = compiled(fourAxis());
  it('are read back as the points they are of, whatever their names hold', () => {
    const awkward = fc.oneof(
      fc.constantFrom('a, b', 'a; b', 'say "so"', '=1+1', '@SUM(A1), -2', '12', '3,5', 'x', 'Rack; slot 2, "left"'),
      fc.string({ minLength: 1, maxLength: 20 }),
    );
    const coordinate = fc.integer({ min: -400_000, max: 400_000 }).map((v) => v / 1e6);
    const point = fc.record({
      name: awkward.map((name) => name.trim()).filter((name) => name !== ''),
      position: fc.tuple(coordinate, coordinate, coordinate),
      direction: fc.constantFrom<Vec3 | null>(null, [0, 0, -1], [1, 0, 0], [0.6, 0, 0.8]),
    });
    fc.assert(
      fc.property(fc.array(point, { minLength: 1, maxLength: 5 }), (points) => {
        const results = finish(pointsJob(arm, arm.tools[0], points, arm.home, 0.1));
        const { points: read, problems } = parsePoints(pointResultsToCsv(arm, results));
        expect(problems).toEqual([]);
        expect(read.map((p) => p.name)).toEqual(points.map((p) => p.name));
        read.forEach(({ position, direction }, k) => {
          position.forEach((v, i) => expect(v).toBeCloseTo(points[k].position[i], 6));
          if (!points[k].direction) expect(direction).toBeNull();
          else direction!.forEach((v, i) => expect(v).toBeCloseTo(points[k].direction![i], 6));
        });
      }),
      { numRuns: 40 },
    );
  });
});

describe('points as text', () => {
  it('are read with commas, tabs, semicolons or spaces, with or without head, direction and name', () => {
    const expected = { position: [0.18, -0.0405, 0.02], direction: [0, 0, -1] };
    for (const text of [
      '180, -40.5, 20, 0, 0, -1',
      '180\t-40,5\t20\t0\t0\t-1',
      '180;-40,5;20;0;0;-2',
      '180 -40.5 20 0 0 -1',
      'name,x,y,z,dx,dy,dz\nrim,180,-40.5,20,0,0,-1',
    ]) {
      const { points, problems } = parsePoints(text);
      expect(problems).toEqual([]);
      points[0].position.forEach((v, k) => expect(v).toBeCloseTo(expected.position[k], 9));
      expect(points[0].direction).toEqual(expected.direction);
    }
    expect(parsePoints('180, 0, 20, rim').points[0]).toMatchObject({ name: 'rim', direction: null });
    expect(parsePoints('1 2 3', [0, 0, -1]).points[0].direction).toEqual([0, 0, -1]);
  });
  it('name each broken row and keep the good ones', () => {
    const { points, problems } = parsePoints('x,y,z,dx,dy,dz\n1,2,3,,,\n4,five,6,,,\n7,8\n1,2,3,0,0,0\n9,9,9,,,');
    expect(points).toHaveLength(2);
    expect(problems).toEqual([
      'Row 3: “five” for y is not a number.',
      'Row 4 has no z; every row needs x, y and z in mm.',
      'Row 5: the direction has no length; one of dx, dy, dz must differ from 0.',
    ]);
    expect(parsePoints(' ').problems).toHaveLength(1);
    const wide = parsePoints('x;y;z\n1;2;3;0;0;-1\n4;5;6;;');
    expect(wide.problems).toEqual(['Row 2 has 6 cells; there are columns for 3.']);
    expect(wide.points).toHaveLength(1);
    expect(parsePoints('1,2,3,0,0,-1,rim,too far').problems).toEqual(['Row 1 has 8 cells; there are columns for 7.']);
    expect(parsePoints('x,y\n1,2').problems).toEqual(['The head line has no column for z.']);
    expect(parsePoints(Array.from({ length: 40 }, () => 'a b c').join('\n')).problems.at(-1)).toMatch(/more rows/);
    expect(parsePoints('nan 0 0').points).toHaveLength(0);
  });
  it('of quotation marks alone are an empty table', () => {
    for (const text of ['""', '"', '","', '"\n"', ' ; '])
      expect(parsePoints(text).problems.length).toBeGreaterThan(0);
  });
  it('no text crashes the reader', () => {
    fc.assert(
      fc.property(fc.string(), (text) => {
        const { points, problems } = parsePoints(text);
        for (const p of points) expect(p.position.every(Number.isFinite)).toBe(true);
        expect(points.length + problems.length).toBeGreaterThan(0);
      }),
    );
  });
});

describe('figures', () => {
  it('are closed ways of points no further apart than asked, in their plane', () => {
    fc.assert(
      fc.property(
        fc.constantFrom('circle', 'square', 'line'),
        fc.constantFrom('level', 'facing', 'along'),
        place,
        between(0.01, 0.4),
        between(0.002, 0.05),
        (shape, plane, centre, size, step) => {
          const points = figurePoints({ shape, plane, centre, size }, step);
          const { normal } = planeAxes(plane);
          points.forEach((p, k) => {
            expect(Math.abs(vec3.dot(vec3.sub(p, centre), normal))).toBeLessThan(1e-12);
            if (shape === 'circle') expect(vec3.distance(p, centre)).toBeCloseTo(size / 2, 9);
            if (k) expect(vec3.distance(p, points[k - 1])).toBeLessThanOrEqual(Math.max(step, size / 2) + 1e-9);
          });
          const way = points.slice(1).reduce((sum, p, k) => sum + vec3.distance(p, points[k]), 0);
          const length = { circle: Math.PI * size, square: 4 * size, line: size }[shape];
          expect(way / length).toBeGreaterThan(0.97);
          expect(way / length).toBeLessThan(1 + 1e-9);
          if (shape !== 'line') expect(vec3.distance(points[0], points.at(-1)!)).toBeLessThan(1e-12);
        },
      ),
    );
  });
  it('arcs pass their three points at one distance from their middle; three on a line are refused', () => {
    fc.assert(
      fc.property(place, place, place, (a, b, c) => {
        const area = vec3.norm(vec3.cross(vec3.sub(b, a), vec3.sub(c, a)));
        fc.pre(area > 1e-3);
        const points = arcPoints(a, b, c, 0.002)!;
        expect(vec3.distance(points[0], a)).toBeLessThan(1e-9);
        expect(vec3.distance(points.at(-1)!, c)).toBeLessThan(1e-9);
        expect(Math.min(...points.map((p) => vec3.distance(p, b)))).toBeLessThan(0.0011);
      }),
    );
    expect(arcPoints([0, 0, 0], [1, 1, 1], [2, 2, 2], 0.1)).toBeNull();
  });
  it('are printed at their size in mm', () => {
    const sheet = sheetToSvg(
      figureSheet({ shape: 'circle', plane: 'level', centre: [0, 0, 0], size: 0.06 }, 'a <b> & c'),
    );
    expect(sheet).toContain('r="30"');
    const [, width, box] = /width="([\d.]+)mm".*viewBox="0 0 ([\d.]+) /.exec(sheet)!;
    expect(width).toBe(box);
    expect(sheet).toContain('a &lt;b&gt; &amp; c');
    expect(figureSheet({ shape: 'square', plane: 'level', centre: [0, 0, 0], size: 0.025 }, '').content).toContain(
      'width="25"',
    );
  });
});

describe('length advice', () => {
  const doc = fourAxis();
  const ranges: LengthRange[] = [
    { of: 'joint', id: 'elbow', min: 60, max: 260 },
    { of: 'joint', id: 'wrist', min: 60, max: 260 },
  ];
  const spots = [
    { name: 'near', position: [0.15, 0.02, 0.05] as Vec3, direction: [0, 0, -1] as Vec3 },
    { name: 'far', position: [0.22, -0.1, 0.08] as Vec3, direction: [0, 0, -1] as Vec3 },
  ];
  const advise = (over = {}) =>
    finish(lengthsJob({ doc, toolId: 'tool', spots, ranges, margin: 0.1, seed: 3, generations: 40, ...over }));

  it('reaches every spot with the margin, in whole mm, and shorter arms of the same shape do not', () => {
    const advice = advise();
    expect(advice.allReached).toBe(true);
    expect(advice.total).toBeLessThan(advice.totalNow);
    const arm = compiled(withLengths(doc, ranges, advice.values) as ReturnType<typeof fourAxis>);
    for (const spot of spots) {
      const { solutions } = solveInverse(arm, arm.tools[0], { kind: 'direction', ...spot });
      expect(Math.max(...solutions.map((s) => s.limitMargin))).toBeGreaterThanOrEqual(0.1 - 1e-9);
    }
    expect(advice.values.every(Number.isInteger)).toBe(true);
    const shorter = advice.values.map((v) => Math.round(v * 0.88));
    const small = compiled(withLengths(doc, ranges, shorter) as ReturnType<typeof fourAxis>);
    const all = spots.every((spot) => {
      const { solutions } = solveInverse(small, small.tools[0], { kind: 'direction', ...spot });
      return solutions.some((s) => s.limitMargin >= 0.1);
    });
    expect(all).toBe(false);
  });
  it('is the same for the same seed, and says so when nothing in the ranges does', () => {
    expect(advise().values).toEqual(advise().values);
    const hopeless = advise({ ranges: ranges.map((r) => ({ ...r, max: 70 })), generations: 10 });
    expect(hopeless.allReached).toBe(false);
    expect(hopeless.spots.some((s) => !s.reached)).toBe(true);
  });
  it('moves the base where that is allowed', () => {
    const advice = advise({
      spots: [{ name: 'out', position: [0.55, 0, 0.05], direction: [0, 0, -1] }],
      ranges: [{ of: 'base', id: 'x', min: 0, max: 500 }],
    });
    expect(advice.allReached).toBe(true);
    expect(advice.values[0]).toBeGreaterThan(200);
    expect(
      lengthNow(withLengths(doc, [{ of: 'base', id: 'x', min: 0, max: 1 }], [33]), {
        of: 'base',
        id: 'x',
        min: 0,
        max: 1,
      }),
    ).toBe(33);
  });
  it('of a delta is about its own measures', () => {
    const delta = deltaDoc();
    const own: LengthRange[] = [
      { of: 'delta', id: 'upperArmMm', min: 60, max: 160 },
      { of: 'delta', id: 'forearmMm', min: 120, max: 320 },
    ];
    const corners: Vec3[] = [
      [0.06, 0.06, 0.05],
      [-0.06, -0.06, 0.05],
      [0.06, -0.06, 0.02],
    ];
    const advice = finish(
      lengthsJob({
        doc: delta,
        toolId: 'pen',
        spots: corners.map((position, k) => ({ name: `${k}`, position, direction: null })),
        ranges: own,
        margin: 0.1,
        seed: 3,
        generations: 30,
      }),
    );
    expect(advice.totalNow).toBe(320);
    expect(advice.allReached).toBe(true);
    const arm = compiled(withLengths(delta, own, advice.values));
    for (const position of corners) {
      const { solutions } = solveInverse(arm, arm.tools[0], { kind: 'free', position });
      expect(solutions[0].limitMargin).toBeGreaterThanOrEqual(0.1 - 1e-9);
    }
    expect(lengthNow(withLengths(delta, own, [91, 187]), own[1])).toBe(187);
  });
  it('draws its chances from a seed alone', () => {
    const draw = (seed: number): number[] => {
      const random = seededRandom(seed);
      return Array.from({ length: 2000 }, random);
    };
    expect(draw(7)).toEqual(draw(7));
    const mean = draw(7).reduce((a, b) => a + b, 0) / 2000;
    expect(mean).toBeGreaterThan(0.47);
    expect(mean).toBeLessThan(0.53);
  });
});

describe('a map as CSV', () => {
  it('has a row a reached cell', () => {
    const arm = compiled(fourAxis());
    const map = finish(
      reachMapJob(arm, arm.tools[0], {
        plane: 'side',
        height: 0,
        direction: [0, 0, -1],
        samples: 0,
        seed: 1,
        cell: 0.03,
      }),
    );
    const lines = reachMapToCsv(map).trim().split('\r\n');
    expect(lines[0]).toBe('outward_mm,up_mm,postures,limit_margin_percent,manipulability');
    expect(lines.length - 1).toBe(map.postures.filter((v) => v > 0).length);
  });
});
