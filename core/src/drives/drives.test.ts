import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { tileDipper } from '../../../demo';
import { compiled } from '../kinematics/arms.testkit';
import type { Rig } from '../rig';
import { checkDrives, fitLine, fromUs, servoMaps, toUs, toWire } from './index';

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
  const maps = servoMaps(rig, mechanism, rig.builds[0]);
  it('undo themselves, and go through the measured points with the trim added', () => {
    fc.assert(
      fc.property(fc.nat(4), fc.double({ min: -3, max: 3, noNaN: true }), (k, q) => {
        expect(fromUs(maps[k], toUs(maps[k], q))).toBeCloseTo(q, 9);
      }),
    );
    for (const { drive, points } of rig.builds[0].calibrations) {
      const map = maps.find((m) => m.driveId === drive)!;
      for (const { at, us } of points)
        expect(toUs(map, (at * Math.PI) / 180)).toBeCloseTo(us + (rig.builds[0].trims[drive] ?? 0), 6);
    }
  });
  it('never send a pulse past the motor’s or the joint’s limit, after rounding too', () => {
    fc.assert(
      fc.property(fc.nat(4), fc.double({ min: -20, max: 20, noNaN: true }), (k, q) => {
        const map = maps[k];
        const us = toWire(map, q);
        expect(Number.isInteger(us)).toBe(true);
        expect(us).toBeGreaterThanOrEqual(map.drive.minUs);
        expect(us).toBeLessThanOrEqual(map.drive.maxUs);
        const back = fromUs(map, us);
        expect(back).toBeGreaterThanOrEqual(mechanism.lower[map.slot] - 1e-5);
        expect(back).toBeLessThanOrEqual(mechanism.upper[map.slot] + 1e-5);
      }),
    );
  });
  it('carry a reduction through range and speed', () => {
    const geared = change((draft) => void Object.assign(draft.transmissions[0], { reduction: 2 }));
    const [plain, half] = [maps[0], servoMaps(geared, mechanism, { ...geared.builds[0], calibrations: [] })[0]];
    expect(half.speed).toBeCloseTo(plain.speed / 2, 9);
    expect(Math.abs(half.usPerSi)).toBeCloseTo(2 * 10.1 * (180 / Math.PI), 6);
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

describe('checks of motors and wiring', () => {
  it.each<[string, (draft: Rig) => void]>([
    ['joint-without-motor', (d) => (d.transmissions = d.transmissions.slice(1))],
    ['motor-unwired', (d) => (d.wiring = d.wiring.slice(1))],
    ['channel-twice', (d) => (d.wiring[1].channel = 0)],
    ['channel-missing', (d) => (d.wiring[1].channel = 16)],
    ['uncalibrated', (d) => (d.builds[0].calibrations = d.builds[0].calibrations.slice(1))],
    ['pulse-over-limit', (d) => void Object.assign(d.drives[1], { maxUs: 1500 })],
  ])('find: %s', (code, edit) => {
    expect(codes(rig)).toEqual([]);
    expect(codes(change(edit))).toContain(code);
  });
});
