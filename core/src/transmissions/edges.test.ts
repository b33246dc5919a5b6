import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { vec3, type Vec3 } from '../linear';
import { fourBarAt, fourBarCoupling, fourBarRates, type FourBar } from './four-bar';
import { invert, matrixCoupling, ratioCoupling } from './matrix';
import { tableCoupling, type TablePoint } from './table';
import { tiltPlateCoupling, type PushRod } from './tilt-plate';
import type { Coupling, CouplingResult } from './coupling';
import { between } from '../units/between.testkit';

const number = between;
const rad = Math.PI / 180;
const whole = (result: CouplingResult): Coupling => {
  if (!result.ok) throw new Error(result.fault.code);
  return result.coupling;
};
const fault = (result: CouplingResult): unknown => (result.ok ? 'works' : result.fault);

describe('matrices', () => {
  const size = fc.integer({ min: 1, max: 6 });
  it('times their inverse are nothing but themselves, with zeros where a pivot would stand too', () => {
    fc.assert(
      fc.property(size, fc.array(fc.integer({ min: -9, max: 9 }), { minLength: 36, maxLength: 36 }), (n, numbers) => {
        const matrix = Array.from({ length: n }, (_, r) =>
          // The first column begins with zeros: rows have to be changed.
          Array.from({ length: n }, (_, c) => (c === 0 && r < n - 1 ? 0 : numbers[6 * r + c])),
        );
        const back = invert(matrix);
        if (!back) return;
        for (let r = 0; r < n; r++)
          for (let c = 0; c < n; c++) {
            const cell = matrix[r].reduce((sum, v, k) => sum + v * back[k][c], 0);
            expect(cell).toBeCloseTo(r === c ? 1 : 0, 8);
          }
      }),
    );
    expect(
      invert([
        [0, 1],
        [1, 0],
      ]),
    ).toEqual([
      [0, 1],
      [1, 0],
    ]);
  });
  it('have none where rows hang together, however large or small their numbers, and one where they only nearly do', () => {
    fc.assert(
      fc.property(fc.constantFrom(1e-6, 1e-3, 1, 1e3, 1e6), number(-3, 3), number(0.5, 5), (scale, share, skew) => {
        const row = [2 * scale, -skew * scale, 0.5 * scale];
        const other = [scale, scale, -scale];
        const sum = row.map((v, k) => v + share * other[k]);
        expect(invert([row, other, sum])).toBeNull();
        expect(invert([row, other, sum.map((v, k) => v + (k === 2 ? 0.01 * scale : 0))])).not.toBeNull();
      }),
    );
    const nearly = (by: number): number[][] | null =>
      invert([
        [1, 0],
        [1, by],
      ]);
    expect([nearly(1e-7) === null, nearly(1e-11) === null]).toEqual([false, true]);
    expect(invert([[0]])).toBeNull();
    expect(
      invert([
        [0, 0],
        [0, 0],
      ]),
    ).toBeNull();
  });
  it('of another shape than square are named with what they have', () => {
    expect(fault(matrixCoupling([]))).toMatchObject({ code: 'shape-mismatch' });
    expect(fault(matrixCoupling([[1, 0], [1]]))).toEqual({ code: 'shape-mismatch', data: { got: '2, 1', want: 2 } });
    for (const bad of [0, NaN, Infinity, -Infinity])
      expect(fault(ratioCoupling(bad))).toMatchObject({ code: 'ratio-zero' });
    const coupling = whole(ratioCoupling(-4));
    expect([coupling.toDrives([3]), coupling.toJoints([8]), coupling.rates([0]), coupling.bend([0])]).toEqual([
      [-12],
      [-2],
      [[-0.25]],
      0,
    ]);
  });
});

describe('a measured table', () => {
  const rising = (steps: readonly number[], from: number): number[] =>
    steps.reduce<number[]>((list, step) => [...list, list.at(-1)! + step], [from]);
  const tables = fc.record({
    drives: fc.array(number(2, 40), { minLength: 1, maxLength: 6 }),
    mains: fc.array(number(0.5, 30), { minLength: 6, maxLength: 6 }),
    others: fc.array(number(-20, 20), { minLength: 7, maxLength: 7 }),
    sense: fc.constantFrom(1, -1),
    shuffle: fc.boolean(),
  });
  const pointsOf = ({
    drives,
    mains,
    others,
    sense,
    shuffle,
  }: typeof tables extends fc.Arbitrary<infer T> ? T : never) => {
    const at = rising(drives, -60);
    const main = rising(mains, 5);
    const points = at.map((driveDeg, k): TablePoint => ({ driveDeg, joints: [sense * main[k], others[k]] }));
    return { points, given: shuffle ? [...points].reverse() : points };
  };
  it('goes through every point in whatever order they were written, and between two leaves neither', () => {
    fc.assert(
      fc.property(tables, number(0, 1), (made, share) => {
        const { points, given } = pointsOf(made);
        const coupling = whole(tableCoupling(given));
        expect(coupling.domain).toEqual([points[0].driveDeg, points.at(-1)!.driveDeg]);
        for (const { driveDeg, joints } of points) {
          coupling.toJoints([driveDeg])!.forEach((v, k) => expect(v).toBeCloseTo(joints[k], 9));
          expect(coupling.toDrives(joints)![0]).toBeCloseTo(driveDeg, 6);
        }
        points.slice(1).forEach((b, i) => {
          const a = points[i];
          const motor = a.driveDeg + share * (b.driveDeg - a.driveDeg);
          const joints = coupling.toJoints([motor])!;
          joints.forEach((v, k) => {
            expect(v).toBeGreaterThanOrEqual(Math.min(a.joints[k], b.joints[k]) - 1e-9);
            expect(v).toBeLessThanOrEqual(Math.max(a.joints[k], b.joints[k]) + 1e-9);
          });
          // Where the first joint stands says where the motor does, and its slopes are differences.
          expect(coupling.toJoints(coupling.toDrives(joints)!)![0]).toBeCloseTo(joints[0], 6);
          const h = 1e-5;
          const [before, after] = [coupling.toJoints([motor - h]), coupling.toJoints([motor + h])];
          if (!before || !after) return;
          const rates = coupling.rates(joints)!;
          const away = points.every((p) => Math.abs(p.driveDeg - motor) > 0.01);
          if (away) rates.forEach(([rate], k) => expect((after[k] - before[k]) / (2 * h)).toBeCloseTo(rate, 2));
        });
      }),
      { numRuns: 80 },
    );
  });
  it('meets its points without a kink, and stands still where another joint turns back', () => {
    fc.assert(
      fc.property(tables, (made) => {
        const { points, given } = pointsOf(made);
        const coupling = whole(tableCoupling(given));
        points.slice(1, -1).forEach((p, i) => {
          const h = 1e-4;
          const at = (d: number): number[] => coupling.toJoints([p.driveDeg + d])!;
          p.joints.forEach((_, k) => {
            const left = (at(0)[k] - at(-h)[k]) / h;
            const right = (at(h)[k] - at(0)[k]) / h;
            expect(Math.abs(left - right)).toBeLessThan(0.02 * (1 + Math.abs(left)));
            const [a, b] = [points[i].joints[k], points[i + 2].joints[k]];
            const turns = (p.joints[k] - a) * (b - p.joints[k]) <= 0;
            if (turns) expect(Math.abs(right)).toBeLessThan(0.02 * (1 + Math.abs(b - a)));
          });
        });
      }),
      { numRuns: 60 },
    );
  });
  it('says nothing past its ends, and is none where the first joint does not rise all the way', () => {
    const two: TablePoint[] = [
      { driveDeg: -10, joints: [0, 3] },
      { driveDeg: 20, joints: [30, 3] },
    ];
    const line = whole(tableCoupling(two));
    expect(line.toJoints([5])![0]).toBeCloseTo(15, 9);
    expect(line.bend([15])).toBeCloseTo(0, 9);
    for (const motor of [-10.001, 20.001]) expect(line.toJoints([motor])).toBeNull();
    for (const joint of [-0.001, 30.001]) {
      expect(line.toDrives([joint, 3])).toBeNull();
      expect(line.rates([joint, 3])).toBeNull();
      expect(line.bend([joint, 3])).toBe(0);
    }
    expect(fault(tableCoupling(two.slice(0, 1)))).toMatchObject({ code: 'shape-mismatch', data: { got: 1 } });
    expect(fault(tableCoupling([]))).toMatchObject({ code: 'shape-mismatch' });
    expect(fault(tableCoupling([two[0], { driveDeg: 3, joints: [4] }]))).toMatchObject({ code: 'shape-mismatch' });
    expect(fault(tableCoupling([...two, { driveDeg: 20, joints: [40, 3] }]))).toEqual({
      code: 'table-not-rising',
      data: { at: 20 },
    });
    expect(fault(tableCoupling([...two, { driveDeg: 30, joints: [30, 3] }]))).toEqual({
      code: 'table-not-rising',
      data: { at: 30 },
    });
  });
});

describe('a four-bar', () => {
  const bars = fc.record({
    crankMm: number(10, 60),
    couplerMm: number(20, 90),
    rockerMm: number(15, 60),
    groundMm: number(20, 90),
    crankZeroDeg: number(-180, 180),
    rockerZeroDeg: number(-180, 180),
    branch: fc.constantFrom<FourBar['branch']>(1, -1),
    marginDeg: number(1, 25),
  });
  /** Ends of crank and rocker, from the angles alone. */
  const ends = (bar: FourBar, motor: number, joint: number): [number, number][] => [
    [
      bar.crankMm * Math.cos((bar.crankZeroDeg + motor) * rad),
      bar.crankMm * Math.sin((bar.crankZeroDeg + motor) * rad),
    ],
    [
      bar.groundMm + bar.rockerMm * Math.cos((bar.rockerZeroDeg + joint) * rad),
      bar.rockerMm * Math.sin((bar.rockerZeroDeg + joint) * rad),
    ],
  ];
  /** Angle (°) of two bars away from being in line, and on which side. */
  const between = (u: readonly number[], v: readonly number[]): number =>
    Math.asin((u[0] * v[1] - u[1] * v[0]) / (Math.hypot(u[0], u[1]) * Math.hypot(v[0], v[1]))) / rad;
  it('keeps its rod, its side and its margins through all of its domain, and ends where a margin does', () => {
    let worked = 0;
    fc.assert(
      fc.property(bars, number(0, 1), (bar, share) => {
        const made = fourBarCoupling(bar);
        if (!made.ok) return;
        worked++;
        const { coupling } = made;
        const [low, high] = coupling.domain!;
        expect(low).toBeLessThanOrEqual(0);
        expect(high).toBeGreaterThanOrEqual(0);
        const at = (motor: number) => {
          const [joint] = coupling.toJoints([motor])!;
          const [a, b] = ends(bar, motor, joint);
          const coupler = [b[0] - a[0], b[1] - a[1]];
          expect(Math.hypot(...coupler)).toBeCloseTo(bar.couplerMm, 6);
          const rocker = [b[0] - bar.groundMm, b[1]];
          // The coupler's end on the left of the line from the crank's end to the rocker's pivot, or on its right.
          const side = (bar.groundMm - a[0]) * coupler[1] - -a[1] * coupler[0];
          expect(Math.sign(side)).toBe(bar.branch);
          return [between(rocker, coupler), between(a, coupler)];
        };
        const start = at(0);
        const here = at(low + share * (high - low));
        here.forEach((angle, k) => {
          expect(Math.sign(angle)).toBe(Math.sign(start[k]));
          expect(Math.abs(angle)).toBeGreaterThan(bar.marginDeg - 1e-4);
        });
        for (const end of [low, high]) {
          if (Math.abs(end) >= 360) continue;
          const least = Math.min(...at(end).map(Math.abs));
          expect(least).toBeCloseTo(bar.marginDeg, 2);
          expect(coupling.toJoints([end + Math.sign(end || 1) * 0.01])).toBeNull();
        }
      }),
      { numRuns: 400 },
    );
    expect(worked).toBeGreaterThan(60);
  });
  it('gives the motor back for the joint wherever it works, also beyond half a turn', () => {
    let far = 0;
    fc.assert(
      fc.property(bars, number(0.01, 0.99), (bar, share) => {
        const made = fourBarCoupling({ ...bar, marginDeg: 3 });
        if (!made.ok) return;
        const { coupling } = made;
        const [low, high] = coupling.domain!;
        const motor = low + share * (high - low);
        if (Math.abs(motor) > 180) far++;
        const joints = coupling.toJoints([motor])!;
        const back = coupling.toDrives(joints);
        expect(back).not.toBeNull();
        expect(coupling.toJoints(back!)![0]).toBeCloseTo(joints[0], 5);
        if (high - low < 359) expect(back![0]).toBeCloseTo(motor, 4);
        // Rates and their own slope, against differences of the linkage itself.
        const crank = (bar.crankZeroDeg + motor) * rad;
        const h = 1e-5;
        const pose = fourBarAt(bar, crank)!;
        const [a, b] = [fourBarAt(bar, crank - h), fourBarAt(bar, crank + h)];
        if (!a || !b) return;
        const { first, second } = fourBarRates(bar, pose);
        const turned = Math.atan2(Math.sin(b.rocker - a.rocker), Math.cos(b.rocker - a.rocker));
        expect(Math.abs(turned / (2 * h) - first)).toBeLessThan(1e-4 * (1 + Math.abs(first) + Math.abs(second)));
        expect(coupling.rates(joints)![0][0]).toBeCloseTo(first, 5);
        expect(coupling.bend(joints)).toBeCloseTo(second * rad, 4);
      }),
      { numRuns: 300 },
    );
    expect(far).toBeGreaterThan(0);
  });
  it('that cannot close, or begins within a margin, is named with the margin', () => {
    const bar: FourBar = {
      ...{ crankMm: 18, couplerMm: 60, rockerMm: 30, groundMm: 64, crankZeroDeg: 95, rockerZeroDeg: 100 },
      ...{ branch: 1, marginDeg: 15 },
    };
    expect(fault(fourBarCoupling(bar))).toBe('works');
    expect(fault(fourBarCoupling({ ...bar, couplerMm: 10 }))).toEqual({
      code: 'four-bar-open',
      data: { marginDeg: 15 },
    });
    expect(fault(fourBarCoupling({ ...bar, couplerMm: 300 }))).toMatchObject({ code: 'four-bar-open' });
    expect(fault(fourBarCoupling({ ...bar, marginDeg: 89 }))).toEqual({
      code: 'four-bar-open',
      data: { marginDeg: 89 },
    });
    const works = whole(fourBarCoupling(bar));
    expect([works.toDrives([1000]), works.rates([1000]), works.bend([1000])]).toEqual([null, null, 0]);
    expect(works.toJoints([works.domain![1] + 0.01])).toBeNull();
  });
});

describe('a plate on two push rods', () => {
  const rod = (side: 1 | -1, more: Partial<PushRod> = {}): PushRod => ({
    ...{ atMm: [40, side * 25, -60], axis: [0, 1, 0], along: [1, 0, 0], hornMm: 16, rodMm: 60 },
    ...{ plateMm: [56, side * 25, 0] },
    ...more,
  });
  const off = (n: number): fc.Arbitrary<Vec3> => fc.tuple(number(-n, n), number(-n, n), number(-n, n));
  it('wherever its horns stand keeps both rods, and its slopes are differences', () => {
    fc.assert(
      fc.property(off(6), off(6), number(12, 20), number(-6, 6), number(-6, 6), (a, b, hornMm, first, second) => {
        const plate = {
          rods: [
            rod(1, { atMm: vec3.add([40, 25, -60], a), hornMm }),
            rod(-1, { atMm: vec3.add([40, -25, -60], b), axis: [0, 3, 0], along: [2, 1, 0] }),
          ],
        } as const;
        const made = tiltPlateCoupling(plate);
        if (!made.ok) return;
        const { coupling } = made;
        const drives = coupling.toDrives([first, second]);
        if (!drives) return;
        const back = coupling.toJoints(drives)!;
        expect(back[0]).toBeCloseTo(first, 6);
        expect(back[1]).toBeCloseTo(second, 6);
        const rates = coupling.rates([first, second])!;
        const h = 1e-4;
        drives.forEach((_, m) => {
          const [down, up] = [-h, h].map((d) => coupling.toJoints(drives.map((v, k) => v + (k === m ? d : 0)))!);
          rates.forEach((row, k) => expect((up[k] - down[k]) / (2 * h)).toBeCloseTo(row[m], 4));
        });
        expect(coupling.bend([first, second])).toBe(0);
      }),
    );
  });
  it('says nothing where a rod is too short or too long, and is none where one cannot be held at all', () => {
    const coupling = whole(tiltPlateCoupling({ rods: [rod(1), rod(-1)] }));
    expect(coupling.toDrives([0, 60])).toBeNull();
    expect(coupling.rates([0, 60])).toBeNull();
    expect(coupling.toJoints([170, 170])).toBeNull();
    const open = { code: 'plate-open', data: {} };
    expect(fault(tiltPlateCoupling({ rods: [rod(1, { rodMm: 20 }), rod(-1)] }))).toEqual(open);
    expect(fault(tiltPlateCoupling({ rods: [rod(1), rod(-1, { rodMm: 200 })] }))).toEqual(open);
    // Both at the same place: what tilts them apart is in neither's hand.
    expect(fault(tiltPlateCoupling({ rods: [rod(1), rod(1)] }))).toEqual(open);
  });
});
