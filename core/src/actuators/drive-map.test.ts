import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { tileDipper } from '../../../demo';
import { presetById, rigFromPreset } from '../presets';
import { compile, type Mechanism } from '../mechanism';
import { buildSchema, parseRig, type Drive, type Rig, type ServoDrive, type Transmission } from '../rig';
import {
  catalogue,
  driveMaps,
  driveSpeed,
  exactNative,
  farPoints,
  fromNative,
  geared,
  jointsMeant,
  nativeAt,
  nativeOf,
  pulseForms,
  pulseFrom,
  resolutionAt,
  shaftSpeed,
  speedOnlySlots,
  toNative,
} from './index';
import { checkDrives } from '../bring-up';
import { fitHorn, hornTrim } from '../calibration';
import { between } from '../units/between.testkit';

const build = buildSchema.parse({ id: 'b', name: 'b' });
const number = between;

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
          // Half a unit each, and a whole one at a limit, where it is rounded inward.
          const fine = belt.reduce((sum, m) => sum + resolutionAt(m, mechanism, q)![k], 0);
          expect(Math.abs(meant[k] - q[s] / mechanism.siPerUnit[s])).toBeLessThanOrEqual(fine + 1e-9);
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
    ['count-over-limit', (d, drive) => put(d, drive('turn'), 'bus-55', { minCount: 2000, maxCount: 2100 })],
    ['step-rate-over', (d, drive) => put(d, drive('shoulder'), 'stepper-42', { maxStepHz: 500 })],
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

describe('readings far off the nominal line', () => {
  const drive = tileDipper().drives[0];
  if (drive.kind !== 'servo') throw new Error('not a servo');
  const usAt = (deg: number): number => drive.centreUs + drive.direction * drive.usPerDeg * deg;
  const reading = (deg: number, off = 0): { at: number; us: number } => ({ at: deg + off, us: usAt(deg) });
  it('are told one by one, and a horn that sits some degrees on is no such thing', () => {
    for (const shift of [0, 9, -13]) {
      const good = [-40, -10, 20, 50].map((deg) => reading(deg, shift));
      expect(farPoints(drive, good)).toEqual([]);
      for (let k = 0; k < good.length; k++) {
        // A nought too many, or the wrong sign.
        const slip = good.map((p, i) => (i === k ? { ...p, at: p.at + 60 } : p));
        const [far, ...more] = farPoints(drive, slip);
        expect([far.index, more]).toEqual([k, []]);
        expect(far.byDeg).toBeCloseTo(60, 6);
      }
    }
  });
  it('of two that do not agree the further one is meant; both far away are both told', () => {
    expect(farPoints(drive, [reading(-40), reading(40, 55)]).map((f) => f.index)).toEqual([1]);
    expect(farPoints(drive, [reading(-40, 80), reading(40, 80)]).map((f) => f.index)).toContain(0);
    expect(farPoints(drive, [reading(-40), reading(40)])).toEqual([]);
  });
});

describe('a trim', () => {
  it('adds its pulse to every angle, of a straight map and of one with many points, and both ways', () => {
    const rig = tileDipper();
    const drive = rig.drives.find((d) => d.id === 'm-elbow')!;
    if (drive.kind !== 'servo') throw new Error('not a servo');
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.integer({ min: -80, max: 80 }), { minLength: 2, maxLength: 8 }),
        fc.constantFrom('line' as const, 'monotone' as const),
        number(-3, 3),
        number(-150, 150),
        number(-90, 90),
        (angles, fit, noise, trim, deg) => {
          const points = angles.map((at, k) => ({ at, us: 1480 + 9.7 * at + (k % 2 ? noise : -noise) }));
          const calibrations = [{ drive: drive.id, points, fit, takenOn: '' }];
          const [bare, trimmed] = [0, trim].map((us) =>
            nativeOf(drive, { ...rig.builds[0], calibrations, trims: { [drive.id]: us } })!,
          );
          expect(exactNative(trimmed, deg) - exactNative(bare, deg)).toBeCloseTo(trim, 6);
          expect(fromNative(trimmed, exactNative(bare, deg) + trim)).toBeCloseTo(deg, 6);
          expect(Boolean(bare.nodes)).toBe(fit === 'monotone' && points.length > 2);
        },
      ),
    );
  });
});

describe('horn fitting', () => {
  it('leaves at most half a tooth, which its pulse takes away', () => {
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
            native: { unit: 'µs', perDeg: usPerDeg, atZero: 1500, low: 500, high: 2500 },
            lowDeg,
            highDeg: lowDeg + span,
            atCentreDeg,
          });
          expect(Math.abs(fit.leftDeg)).toBeLessThanOrEqual(180 / teeth + 1e-9);
          // At centre pulse plus trim the joint stands in the middle of its range.
          expect(fit.atCentreDeg + fit.leftUs / usPerDeg).toBeCloseTo(lowDeg + span / 2, 9);
          expect((fit.highUs - fit.lowUs) / usPerDeg).toBeCloseTo(span, 9);
          expect(fit.lostLowDeg + fit.lostHighDeg).toBe(0);
        },
      ),
    );
  });
  it('the trim starts from the build’s own line: at the centre pulse it then says where the joint stands', () => {
    const rig = tileDipper();
    const drive = rig.drives.find((d) => d.id === rig.transmissions[0].drives[0])!;
    if (drive.kind !== 'servo') throw new Error('not a servo');
    const [build] = rig.builds;
    const points = (list: [number, number][]): typeof build => ({
      ...build,
      calibrations: [{ drive: drive.id, points: list.map(([at, us]) => ({ at, us })) }] as typeof build.calibrations,
    });
    const calibrated = [
      points([
        [-46.5, 1000],
        [44, 2000],
      ]),
      { ...build, calibrations: [] },
      points([
        [-40, 900],
        [-10, 1230],
        [20, 1620],
        [52, 1900],
      ]),
    ];
    for (const own of calibrated)
      for (const [standsDeg, before] of [
        [6, 0],
        [-21.5, 35],
        [0, -60],
      ]) {
        const was = { ...own, trims: { ...own.trims, [drive.id]: before } };
        const trimUs = hornTrim(drive, was, standsDeg);
        const trimmed = { ...was, trims: { ...was.trims, [drive.id]: trimUs } };
        expect(fromNative(nativeOf(drive, trimmed)!, drive.centreUs)).toBeCloseTo(standsDeg, 9);
        // Taken again it is the same.
        expect(hornTrim(drive, trimmed, standsDeg)).toBeCloseTo(trimUs, 9);
      }
  });
  it('says the very range that is sent once its trim is taken, whatever the map', () => {
    const rig = tileDipper();
    const { mechanism } = compile(rig.mechanism) as { mechanism: Mechanism };
    const map = driveMaps(rig, mechanism, rig.builds[0])[0];
    const drive = map.drive as ServoDrive;
    const [slot] = map.slots;
    const ends = [mechanism.lower[slot], mechanism.upper[slot]].map(
      (v) => map.coupling.toDrives([v / mechanism.siPerUnit[slot]])![0],
    );
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.integer({ min: -60, max: 60 }), { minLength: 2, maxLength: 6 }),
        fc.constantFrom('line' as const, 'monotone' as const),
        number(-4, 4),
        number(-200, 200),
        (angles, fit, off, before) => {
          const points = angles.map((at, k) => ({ at, us: 1500 + 10.3 * at + (k % 2 ? off : -off) }));
          const build = {
            ...rig.builds[0],
            calibrations: [{ drive: drive.id, points, fit, takenOn: '' }],
            trims: { [drive.id]: before },
          };
          const standsDeg = ends[0] + (ends[1] - ends[0]) / 2 + off / 2;
          const horn = fitHorn({
            teeth: 25,
            centreUs: drive.centreUs,
            native: nativeOf(drive, build)!,
            lowDeg: Math.min(...ends),
            highDeg: Math.max(...ends),
            atCentreDeg: standsDeg,
          });
          const taken = { ...build, trims: { [drive.id]: hornTrim(drive, build, horn.atCentreDeg) } };
          const { low, high } = driveMaps(rig, mechanism, taken)[0].native;
          expect(horn.sent).toEqual({ low, high });
          if (horn.lostLowDeg + horn.lostHighDeg > 0)
            expect([low, high].some((v) => v === drive.minUs || v === drive.maxUs)).toBe(true);
        },
      ),
    );
  });
  it('says what is lost where the range does not fit', () => {
    const fit = fitHorn({
      teeth: 25,
      centreUs: 1500,
      native: { unit: 'µs', perDeg: 10, atZero: 1437, low: 900, high: 2100 },
      lowDeg: -80,
      highDeg: 80,
      atCentreDeg: 0,
    });
    expect(fit.lostLowDeg).toBeCloseTo(20, 9);
    expect(fit.lostHighDeg).toBeCloseTo(20, 9);
  });
});
