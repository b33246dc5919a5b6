import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { tileDipper } from '../../../demo';
import { compiled } from '../kinematics/arms.testkit';
import type { Rig, ServoDrive } from '../rig';
import { checkDrives } from './index';
import {
  driveMaps,
  exactNative,
  fitLine,
  fromNative,
  jointsMeant,
  mapGroups,
  motorName,
  nativeAt,
  poseMeant,
  renamedFor,
} from '../actuators';
import { between } from '../units/between.testkit';

const rig = tileDipper();
const mechanism = compiled(rig.mechanism);
const change = (edit: (draft: Rig) => void): Rig => {
  const copy = structuredClone(rig);
  edit(copy);
  return copy;
};
const codes = (changed: Rig): string[] =>
  checkDrives(changed, compiled(changed.mechanism), changed.builds[0]).map((f) => f.code);

describe('servo maps', () => {
  const maps = driveMaps(rig, mechanism, rig.builds[0]);
  it('undo themselves, and go through the measured points with the trim added', () => {
    fc.assert(
      fc.property(fc.nat(4), between(-170, 170), (k, deg) => {
        expect(fromNative(maps[k].native, exactNative(maps[k].native, deg))).toBeCloseTo(deg, 8);
      }),
    );
    for (const { drive, points } of rig.builds[0].calibrations) {
      const map = maps.find((m) => m.drive.id === drive)!;
      for (const { at, us } of points)
        expect(exactNative(map.native, at)).toBeCloseTo(us + (rig.builds[0].trims[drive] ?? 0), 6);
    }
  });
  it('never send a pulse past the motor’s or the joint’s limit, after rounding too', () => {
    fc.assert(
      fc.property(fc.nat(4), between(-20, 20), (k, q) => {
        const map = maps[k];
        const [slot] = map.slots;
        const pose = mechanism.home.slice();
        pose[slot] = q;
        const us = nativeAt(map, mechanism, pose)!;
        const drive = map.drive as ServoDrive;
        expect(Number.isInteger(us)).toBe(true);
        expect(us).toBeGreaterThanOrEqual(drive.minUs);
        expect(us).toBeLessThanOrEqual(drive.maxUs);
        const [back] = jointsMeant([map], [us])!;
        expect(back * mechanism.siPerUnit[slot]).toBeGreaterThanOrEqual(mechanism.lower[slot] - 1e-5);
        expect(back * mechanism.siPerUnit[slot]).toBeLessThanOrEqual(mechanism.upper[slot] + 1e-5);
      }),
    );
  });
  it('find the pose again that the natives of any pose mean, to half a pulse', () => {
    fc.assert(
      fc.property(fc.array(between(0.02, 0.98), { minLength: 5, maxLength: 5 }), (shares) => {
        const pose = Float64Array.from(
          shares,
          (share, s) => mechanism.lower[s] + share * (mechanism.upper[s] - mechanism.lower[s]),
        );
        const back = poseMeant(
          mapGroups(maps),
          mechanism,
          (map) => nativeAt(map, mechanism, pose),
          mechanism.home.slice(),
        );
        for (const {
          slots: [s],
          native,
        } of maps)
          expect(Math.abs(back[s] - pose[s])).toBeLessThan((0.5 / Math.abs(native.perDeg) + 1e-9) * (Math.PI / 180));
      }),
    );
  });
  it('fit a line through exact points exactly, however many', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.integer({ min: -90, max: 90 }), { minLength: 2, maxLength: 8 }),
        fc.integer({ min: 1000, max: 2000 }),
        fc.integer({ min: -12, max: 12 }),
        (ats, zero, slope) => {
          const line = fitLine({ points: ats.map((at) => ({ at, us: zero + slope * at })) });
          expect(line.atZeroUs).toBeCloseTo(zero, 6);
          expect(line.usPerDeg).toBeCloseTo(slope, 8);
        },
      ),
    );
  });
});

describe('checks of motors', () => {
  it.each<[string, (draft: Rig) => void]>([
    ['joint-without-motor', (d) => (d.transmissions = d.transmissions.slice(1))],
    ['motor-unwired', (d) => (d.wiring = d.wiring.slice(1))],
    ['uncalibrated', (d) => (d.builds[0].calibrations = d.builds[0].calibrations.slice(1))],
    ['pulse-over-limit', (d) => void Object.assign(d.drives[1], { maxUs: 1500 })],
  ])('find: %s', (code, edit) => {
    expect(codes(rig)).toEqual([]);
    expect(codes(change(edit))).toContain(code);
  });
});

describe('the name of a motor', () => {
  const kinds = ['servo', 'continuous-servo', 'bus-servo', 'stepper', 'dc-encoder'] as const;
  it('that nobody chose follows its kind, there and back, and a chosen one stays', () => {
    for (const before of kinds)
      for (const after of kinds) {
        const name = motorName('Forearm twist', before);
        expect(renamedFor(name, before, after)).toBe(motorName('Forearm twist', after));
        expect(renamedFor(renamedFor(name, before, after), after, before)).toBe(name);
        expect(renamedFor('Big Bertha', before, after)).toBe('Big Bertha');
      }
    expect(renamedFor('Elbow servo', 'servo', 'stepper')).toBe('Elbow stepper');
    expect(renamedFor('Servo', 'servo', 'stepper')).toBe('Servo');
  });
});
