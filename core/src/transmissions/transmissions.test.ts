import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Transmission } from '../rig';
import { couplingOf, type Coupling } from './index';
import { shaftTorques } from '../actuators';
import { between } from '../units/between.testkit';

const number = between;
const works = (transmission: object): Coupling => {
  const built = couplingOf(transmission as Transmission);
  if (!built.ok) throw new Error(built.fault.code);
  return built.coupling;
};
const code = (transmission: object): string => {
  const built = couplingOf(transmission as Transmission);
  return built.ok ? 'fine' : built.fault.code;
};

/** There and back gives the same; the rates are the slopes of the map; motors and joints do the same work. */
function check(coupling: Coupling, joints: number[]): void {
  const drives = coupling.toDrives(joints);
  if (!drives) return;
  const back = coupling.toJoints(drives)!;
  back.forEach((v, k) => expect(v).toBeCloseTo(joints[k], 6));
  const rates = coupling.rates(joints)!;
  const h = 1e-4;
  drives.forEach((_, m) => {
    const [a, b] = [-h, h].map((d) => coupling.toJoints(drives.map((v, k) => v + (k === m ? d : 0))));
    if (!a || !b) return;
    a.forEach((v, k) =>
      expect(Math.abs((b[k] - v) / (2 * h) - rates[k][m])).toBeLessThan(1e-5 * (1 + Math.abs(rates[k][m]))),
    );
  });
}

describe('transmissions: there and back, slopes against differences', () => {
  it('ratio, gears and screws', () => {
    fc.assert(
      fc.property(number(-200, 200), number(0.05, 60), fc.boolean(), (joint, ratio, back) => {
        check(works({ kind: 'ratio', reduction: back ? -ratio : ratio }), [joint]);
      }),
    );
  });
  it('matrix: belts through joints, two-motor wrists', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: -300, max: 300 }), { minLength: 4, maxLength: 4 }),
        number(-90, 90),
        number(-90, 90),
        (m, a, b) => {
          fc.pre(Math.abs(m[0] * m[3] - m[1] * m[2]) > 2000);
          const coupling = works({
            kind: 'matrix',
            joints: ['a', 'b'],
            drives: ['m', 'n'],
            matrix: [
              [m[0], m[1]],
              [m[2], m[3]],
            ],
          });
          check(coupling, [a, b]);
          // τ_m = A⁻ᵀ τ_j: what the motors do in a small turn, the joints do.
          const rates = coupling.rates([a, b])!;
          const torques = shaftTorques(rates, [1.3, -0.4], ['°', '°']);
          const turn = [0.2, -0.7];
          const moved = coupling.toJoints(turn)!;
          const byMotors = torques[0] * turn[0] + torques[1] * turn[1];
          const byJoints = 1.3 * moved[0] - 0.4 * moved[1];
          expect(Math.abs(byMotors - byJoints)).toBeLessThan(1e-9 * (1 + Math.abs(moved[0]) + Math.abs(moved[1])));
        },
      ),
    );
  });
  const bar = {
    kind: 'four-bar',
    crankMm: 18,
    couplerMm: 60,
    rockerMm: 30,
    groundMm: 64,
    crankZeroDeg: 95,
    rockerZeroDeg: 100,
    branch: 1,
    marginDeg: 15,
  };
  it('four-bar: inside its domain, slope and bend as differences say, none beyond', () => {
    const coupling = works(bar);
    const [low, high] = coupling.domain!;
    expect(high - low).toBeGreaterThan(60);
    fc.assert(
      fc.property(number(0.02, 0.98), (share) => {
        const motor = low + share * (high - low);
        const joint = coupling.toJoints([motor])!;
        expect(coupling.toDrives(joint)![0]).toBeCloseTo(motor, 6);
        check(coupling, joint);
        const h = 1e-3;
        const slope = (m: number): number => coupling.rates(coupling.toJoints([m])!)![0][0];
        expect((slope(motor + h) - slope(motor - h)) / (2 * h)).toBeCloseTo(coupling.bend(joint), 5);
        expect(Math.abs(slope(motor))).toBeGreaterThan(0.01);
      }),
    );
    expect(coupling.toJoints([low - 1])).toBeNull();
    expect(coupling.toDrives([1000])).toBeNull();
  });
  it('four-bar: the rod keeps its length on random linkages', () => {
    fc.assert(
      fc.property(
        number(10, 30),
        number(40, 90),
        number(15, 45),
        number(40, 90),
        number(0, 360),
        number(0, 1),
        (a, b, c, d, z, f) => {
          const built = couplingOf({
            ...bar,
            crankMm: a,
            couplerMm: b,
            rockerMm: c,
            groundMm: d,
            crankZeroDeg: z,
            rockerZeroDeg: 0,
          } as unknown as Transmission);
          fc.pre(built.ok);
          if (!built.ok) return;
          const [low, high] = built.coupling.domain!;
          const motor = low + f * (high - low);
          const [joint] = built.coupling.toJoints([motor])!;
          const rad = Math.PI / 180;
          const crank = [a * Math.cos((z + motor) * rad), a * Math.sin((z + motor) * rad)];
          const end = [d + c * Math.cos(joint * rad), c * Math.sin(joint * rad)];
          expect(Math.hypot(end[0] - crank[0], end[1] - crank[1])).toBeCloseTo(b, 6);
        },
      ),
    );
  });
  it('table: one motor, two lids; rises between its points and says nothing beyond', () => {
    const coupling = works({
      kind: 'table',
      joints: ['lid-l', 'lid-r'],
      drives: ['m'],
      points: [
        { driveDeg: -30, joints: [0, 0] },
        { driveDeg: 0, joints: [12, 9] },
        { driveDeg: 35, joints: [44, 40] },
        { driveDeg: 60, joints: [50, 46] },
      ],
    });
    fc.assert(
      fc.property(number(-29.9, 59.9), (motor) => {
        const joints = coupling.toJoints([motor])!;
        expect(coupling.toDrives(joints)![0]).toBeCloseTo(motor, 5);
        check(coupling, joints);
        expect(coupling.toJoints([Math.min(60, motor + 0.05)])![0]).toBeGreaterThanOrEqual(joints[0]);
      }),
    );
    expect(coupling.toJoints([61])).toBeNull();
    expect(coupling.toDrives([-1, 0])).toBeNull();
  });
  it('plate on two push rods: both rods keep their length', () => {
    const rod = (side: 1 | -1): object => ({
      atMm: [40, side * 25, -60],
      axis: [0, 1, 0],
      along: [1, 0, 0],
      hornMm: 16,
      rodMm: 60,
      plateMm: [56, side * 25, 0],
    });
    const plate = { kind: 'tilt-plate', joints: ['a', 'b'], drives: ['m', 'n'], rods: [rod(1), rod(-1)] };
    const coupling = works(plate);
    coupling.toDrives([0, 0])!.forEach((v) => expect(v).toBeCloseTo(0, 9));
    fc.assert(
      fc.property(number(-9, 9), number(-9, 9), (first, second) => {
        const drives = coupling.toDrives([first, second])!;
        const rad = Math.PI / 180;
        [1, -1].forEach((side, k) => {
          const horn = [40 + 16 * Math.cos(drives[k] * rad), side * 25, -60 - 16 * Math.sin(drives[k] * rad)];
          const [ca, sa, cb, sb] = [
            Math.cos(first * rad),
            Math.sin(first * rad),
            Math.cos(second * rad),
            Math.sin(second * rad),
          ];
          // Rx(first)·Ry(second)·(56, ±25, 0)
          const p = [56 * cb, side * 25, -56 * sb];
          const w = [p[0], p[1] * ca - p[2] * sa, p[1] * sa + p[2] * ca];
          expect(Math.hypot(w[0] - horn[0], w[1] - horn[1], w[2] - horn[2])).toBeCloseTo(60, 6);
        });
        check(coupling, [first, second]);
      }),
    );
  });
  it('name what cannot work', () => {
    expect(code({ kind: 'ratio', reduction: 0 })).toBe('ratio-zero');
    expect(
      code({
        kind: 'matrix',
        joints: ['a', 'b'],
        drives: ['m', 'n'],
        matrix: [
          [1, 2],
          [2, 4],
        ],
      }),
    ).toBe('matrix-singular');
    expect(
      code({
        kind: 'matrix',
        joints: ['a', 'b'],
        drives: ['m', 'n'],
        matrix: [
          [1, 2, 3],
          [2, 4],
        ],
      }),
    ).toBe('shape-mismatch');
    expect(code({ ...bar, couplerMm: 300 })).toBe('four-bar-open');
    const points = [0, 10, 5].map((v, k) => ({ driveDeg: 10 * k, joints: [v] }));
    expect(code({ kind: 'table', joints: ['a'], drives: ['m'], points })).toBe('table-not-rising');
  });
});
