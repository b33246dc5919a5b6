import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { presetById, rigFromPreset } from '../mechanism/presets';
import { compile } from '../mechanism';
import type { Build, Drive, Rig, Transmission } from '../rig';
import { parseRig } from '../rig';
import {
  catalogue,
  checkDrives,
  couplingOf,
  driveMaps,
  driveSpeed,
  fitHorn,
  fromNative,
  geared,
  jointsMeant,
  nativeAt,
  nativeOf,
  pulseForms,
  pulseFrom,
  resolutionAt,
  shaftSpeed,
  shaftTorques,
  speedOnlySlots,
  toNative,
  type Coupling,
} from './index';

const build: Build = {
  id: 'b',
  name: 'b',
  mounting: null,
  calibrations: [],
  trims: {},
  confirmed: {},
  firmware: null,
};
const number = (min: number, max: number): fc.Arbitrary<number> => fc.double({ min, max, noNaN: true });
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
    a.forEach((v, k) => expect((b[k] - v) / (2 * h)).toBeCloseTo(rates[k][m], 4));
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
        fc.array(number(-3, 3), { minLength: 4, maxLength: 4 }),
        number(-90, 90),
        number(-90, 90),
        (m, a, b) => {
          fc.pre(Math.abs(m[0] * m[3] - m[1] * m[2]) > 0.2);
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
          expect(torques[0] * turn[0] + torques[1] * turn[1]).toBeCloseTo(1.3 * moved[0] - 0.4 * moved[1], 8);
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

describe('native numbers', () => {
  it('there and back within half a unit, never outside the drive’s range, for every motor of the catalogue', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...catalogue),
        number(-2000, 2000),
        fc.constantFrom(1, -1),
        (entry, deg, direction) => {
          const drive = { ...entry.figures, direction, id: 'm', name: 'm' } as Drive;
          const native = nativeOf(drive, build);
          if (drive.kind === 'continuous-servo') {
            expect(native).toBeNull();
            return;
          }
          const sent = toNative(native!, deg);
          expect(Number.isInteger(sent)).toBe(true);
          expect(sent).toBeGreaterThanOrEqual(native!.low);
          expect(sent).toBeLessThanOrEqual(native!.high);
          const back = fromNative(native!, sent);
          if (sent > native!.low && sent < native!.high)
            expect(Math.abs(back - deg)).toBeLessThanOrEqual(0.5001 / Math.abs(native!.perDeg));
          expect(driveSpeed(drive)).toBeGreaterThan(0);
        },
      ),
    );
  });
  it('a pulse in its other forms and back', () => {
    const drive = { updateHz: 50, minUs: 500, maxUs: 2500 };
    fc.assert(
      fc.property(number(400, 2600), (us) => {
        const forms = pulseForms(drive, us);
        for (const form of ['us', 'dutyPercent', 'ticks', 'fraction'] as const)
          expect(pulseFrom(drive, form, forms[form])).toBeCloseTo(us, 8);
      }),
    );
    expect(pulseForms(drive, 1500)).toMatchObject({ dutyPercent: 7.5, ticks: 307.2, fraction: 0.5 });
  });
  it('a gear changes range, speed, torque and resolution together', () => {
    const servo = catalogue.find((e) => e.id === 'servo-55')!.figures;
    if (servo.kind !== 'servo') throw new Error();
    const twice = geared({ ...servo, id: 'm', name: 'm' }, 2, 0.9);
    expect(twice).toMatchObject({ travelDeg: 90, usPerDeg: 20, speedDegPerS: 175 });
    expect(twice.stallNm).toBeCloseTo(1.8, 9);
  });
  it('every motor of the catalogue passes the document’s checks', () => {
    const rig = rigFromPreset(presetById('servo-arm-4'), 'x');
    if (!rig.ok) throw new Error();
    for (const entry of catalogue) {
      const next = structuredClone(rig.value) as Rig;
      next.drives[0] = { ...entry.figures, id: next.drives[0].id, name: 'm' } as Drive;
      expect(parseRig(next).ok).toBe(true);
    }
  });
});

describe('maps of mixed drives', () => {
  const rig = rigFromPreset(presetById('servo-arm-4'), 'x');
  if (!rig.ok) throw new Error();
  const mixed = structuredClone(rig.value) as Rig;
  // Shoulder and elbow by two steppers with a belt carried through the shoulder; the wrist by a bus servo.
  const [shoulder, elbow, wrist] = ['shoulder', 'elbow', 'wrist'].map(
    (id) => mixed.transmissions.find((t) => t.joints[0] === id)!.drives[0],
  );
  const become = (id: string, entry: string, over: object = {}): void => {
    const k = mixed.drives.findIndex((d) => d.id === id);
    mixed.drives[k] = { ...catalogue.find((e) => e.id === entry)!.figures, ...over, id, name: id } as Drive;
  };
  become(shoulder, 'stepper-42');
  become(elbow, 'stepper-42');
  become(wrist, 'bus-55');
  mixed.transmissions = [
    ...mixed.transmissions.filter((t) => !['shoulder', 'elbow'].includes(t.joints[0])),
    {
      id: 'belt',
      kind: 'matrix',
      joints: ['shoulder', 'elbow'],
      drives: [shoulder, elbow],
      matrix: [
        [20, 0],
        [15, 15],
      ],
    },
  ];
  const parsed = parseRig(mixed);
  if (!parsed.ok) throw new Error(parsed.faults[0].message);
  const compiled = compile(parsed.value.mechanism);
  if (!compiled.ok) throw new Error();
  const { mechanism } = compiled;
  const maps = driveMaps(parsed.value, mechanism, parsed.value.builds[0]);

  it('say in whole numbers where the joints are, within their resolution', () => {
    const belt = maps.filter((m) => m.transmission.id === 'belt');
    expect(belt.map((m) => m.native.unit)).toEqual(['steps', 'steps']);
    expect(maps.find((m) => m.drive.id === wrist)!.native.unit).toBe('counts');
    fc.assert(
      fc.property(number(0, 1), number(0, 1), (a, b) => {
        const q = mechanism.home.slice();
        for (const [map, f] of [
          [0, a],
          [1, b],
        ] as const) {
          const s = belt[0].slots[map];
          q[s] = mechanism.lower[s] + f * (mechanism.upper[s] - mechanism.lower[s]);
        }
        const meant = jointsMeant(
          belt,
          belt.map((m) => nativeAt(m, mechanism, q)!),
        )!;
        belt[0].slots.forEach((s, k) => {
          const fine = belt.reduce((sum, m) => sum + resolutionAt(m, mechanism, q)![k], 0);
          expect(Math.abs(meant[k] - q[s] / mechanism.siPerUnit[s])).toBeLessThanOrEqual(0.51 * fine);
        });
      }),
    );
  });
  it('carry joint speeds to the motors', () => {
    const belt = maps.filter((m) => m.transmission.id === 'belt');
    const speeds = new Float64Array(mechanism.m);
    speeds[belt[0].slots[0]] = 10 * (Math.PI / 180);
    // The shoulder's turn drags the elbow's belt along: that motor has to run too.
    expect(shaftSpeed(belt[0], mechanism, mechanism.home, speeds)!.degPerS).toBeCloseTo(200, 6);
    expect(shaftSpeed(belt[1], mechanism, mechanism.home, speeds)!.degPerS).toBeCloseTo(150, 6);
  });
  it('know the joints that can only be told how fast to turn', () => {
    const next = structuredClone(parsed.value) as Rig;
    const turn = next.transmissions.find((t) => t.joints[0] === 'turn')!.drives[0];
    const k = next.drives.findIndex((d) => d.id === turn);
    const figures = catalogue.find((e) => e.id === 'continuous-45')!.figures;
    next.drives[k] = { ...figures, id: turn, name: 'm' } as Drive;
    expect([...speedOnlySlots(next, mechanism)]).toEqual([mechanism.slotOf.get('turn')]);
    next.drives[k] = { ...figures, feedback: true, id: turn, name: 'm' } as Drive;
    expect(speedOnlySlots(next, mechanism).size).toBe(0);
  });
  it('refuse a joint or a motor in two transmissions', () => {
    const twice = structuredClone(parsed.value) as Rig;
    twice.transmissions.push({ ...twice.transmissions[0], id: 'again' });
    const refused = parseRig(twice);
    expect(!refused.ok && refused.faults.map((f) => f.code)).toContain('tied-twice');
  });
});

describe('checks of other motors', () => {
  const rig = rigFromPreset(presetById('servo-arm-4'), 'x');
  if (!rig.ok) throw new Error();
  const found = (edit: (draft: Rig, drive: (joint: string) => number) => void): string[] => {
    const draft = structuredClone(rig.value) as Rig;
    edit(draft, (joint) => {
      const id = draft.transmissions.find((t) => t.joints[0] === joint)!.drives[0];
      return draft.drives.findIndex((d) => d.id === id);
    });
    const parsed = parseRig(draft);
    if (!parsed.ok) throw new Error(parsed.faults[0].message);
    const compiled = compile(parsed.value.mechanism);
    if (!compiled.ok) throw new Error();
    return checkDrives(parsed.value, compiled.mechanism, parsed.value.builds[0]).map((f) => f.code);
  };
  const put = (draft: Rig, k: number, entry: string, over: object = {}): void => {
    const { id, name } = draft.drives[k];
    draft.drives[k] = { ...catalogue.find((e) => e.id === entry)!.figures, ...over, id, name } as Drive;
  };
  it.each<[string, (draft: Rig, drive: (joint: string) => number) => void]>([
    [
      'address-twice',
      (d, drive) => {
        put(d, drive('turn'), 'bus-55', { address: 4 });
        put(d, drive('wrist'), 'bus-55', { address: 4 });
        d.wiring = [];
      },
    ],
    ['count-over-limit', (d, drive) => put(d, drive('turn'), 'bus-55', { minCount: 2000, maxCount: 2100 })],
    ['step-rate-over', (d, drive) => put(d, drive('shoulder'), 'stepper-42', { maxStepHz: 500 })],
    ['drive-not-live', (d, drive) => put(d, drive('shoulder'), 'stepper-42')],
    [
      'linkage-short',
      (d) => {
        const k = d.transmissions.findIndex((t) => t.joints[0] === 'shoulder');
        const { id, joints, drives } = d.transmissions[k] as Extract<Transmission, { kind: 'ratio' }>;
        d.transmissions[k] = {
          id,
          kind: 'four-bar',
          joints,
          drives,
          crankMm: 14,
          couplerMm: 60,
          rockerMm: 40,
          groundMm: 60,
          crankZeroDeg: 90,
          rockerZeroDeg: 90,
          branch: 1,
          marginDeg: 15,
        };
      },
    ],
  ])('find: %s', (code, edit) => {
    expect(found(() => undefined)).not.toContain(code);
    expect(found(edit)).toContain(code);
  });
});

describe('horn fitting', () => {
  it('leaves at most half a tooth, and the trim takes it away', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 15, max: 30 }),
        number(-90, 90),
        number(-60, 0),
        number(20, 90),
        fc.constantFrom(10, -10),
        (teeth, atCentreDeg, lowDeg, span, usPerDeg) => {
          const fit = fitHorn({
            teeth,
            centreUs: 1500,
            usPerDeg,
            minUs: 500,
            maxUs: 2500,
            lowDeg,
            highDeg: lowDeg + span,
            atCentreDeg,
          });
          expect(Math.abs(fit.leftDeg)).toBeLessThanOrEqual(180 / teeth + 1e-9);
          // At centre pulse plus trim the joint stands in the middle of its range.
          expect(fit.atCentreDeg + fit.trimUs / usPerDeg).toBeCloseTo(lowDeg + span / 2, 9);
          expect((fit.highUs - fit.lowUs) / usPerDeg).toBeCloseTo(span, 9);
          expect(fit.lostLowDeg + fit.lostHighDeg).toBe(0);
        },
      ),
    );
  });
  it('says what is lost where the range does not fit', () => {
    const fit = fitHorn({
      teeth: 25,
      centreUs: 1500,
      usPerDeg: 10,
      minUs: 900,
      maxUs: 2100,
      lowDeg: -80,
      highDeg: 80,
      atCentreDeg: 0,
    });
    expect(fit.lostLowDeg).toBeCloseTo(20, 9);
    expect(fit.lostHighDeg).toBeCloseTo(20, 9);
  });
});
