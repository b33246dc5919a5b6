import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { tableToCsv } from '../commands';
import { planMotion, planRoutine } from '../routine';
import { checkDrives } from '../bring-up/checks';
import { driveMaps } from './drive-map';
import { planPowerUp } from '../bring-up/power-up';
import { jointSpeedMeant, pulseAtSpeed, speedAtPulse, spinMaps, spinPulse } from './spin-map';
import { spinningDipper } from './spin.testkit';
import type { Build } from '../rig';
import { sampleBuffers } from '../motion';
import { commandTable } from '../commands';
import { between } from '../units/between.testkit';

const number = between;
/** What somebody measured: speeds that rise with the pulse, off the figures by something. */
const measured = fc.record({
  stopUs: fc.integer({ min: 1470, max: 1530 }),
  slope: number(0.6, 2),
  steps: fc.uniqueArray(fc.integer({ min: -6, max: 6 }), { minLength: 0, maxLength: 8 }),
});
const buildWith = (
  build: Build,
  { stopUs, slope, steps }: { stopUs: number; slope: number; steps: number[] },
): Build => ({
  ...build,
  speeds: {
    'm-turn': {
      stopUs,
      takenOn: '',
      points: steps.filter((k) => k !== 0).map((k) => ({ us: stopUs + k * 20, degPerS: k * 20 * slope })),
    },
  },
});

describe('motors that are sent speeds', () => {
  const { rig, mechanism } = spinningDipper();
  it('stand at their stop pulse, turn the faster the further from it, and never leave their range', () => {
    fc.assert(
      fc.property(measured, number(-400, 400), number(-400, 400), (readings, a, b) => {
        const [map] = spinMaps(rig, mechanism, buildWith(rig.builds[0], readings));
        expect(pulseAtSpeed(map, 0)).toBe(readings.stopUs);
        expect(speedAtPulse(map, readings.stopUs)).toBe(0);
        const [pa, pb] = [pulseAtSpeed(map, a), pulseAtSpeed(map, b)];
        for (const us of [pa, pb]) {
          expect(Number.isInteger(us)).toBe(true);
          expect(us).toBeGreaterThanOrEqual(map.low);
          expect(us).toBeLessThanOrEqual(map.high);
        }
        const way = Math.sign(map.nodes.at(-1)!.us - map.nodes[0].us);
        if (a < b && a !== 0 && b !== 0) expect(way * pa).toBeLessThanOrEqual(way * pb);
        // Back within one pulse's worth, where it was not held.
        if (pa !== map.low && pa !== map.high && a !== 0) {
          const next = speedAtPulse(map, pa + 1) - speedAtPulse(map, pa);
          const last = speedAtPulse(map, pa) - speedAtPulse(map, pa - 1);
          expect(Math.abs(speedAtPulse(map, pa) - a)).toBeLessThanOrEqual(
            Math.max(Math.abs(next), Math.abs(last)) + 1e-9,
          );
        }
      }),
    );
  });
  it('keep to the joint’s own limit of speed', () => {
    fc.assert(
      fc.property(
        number(20, 400),
        fc.constantFrom(1 as const, -1 as const),
        number(0.3, 3),
        (speed, direction, reduction) => {
          const slow = spinningDipper((drive, changed) => {
            drive.direction = direction;
            const turn = changed.mechanism.joints.find((j) => j.id === 'turn')!;
            if (turn.type === 'continuous') turn.limits = { maxSpeed: speed };
            const tie = changed.transmissions.find((t) => t.joints[0] === 'turn')!;
            if (tie.kind === 'ratio') tie.reduction = reduction;
          });
          const [map] = spinMaps(slow.rig, slow.mechanism, slow.rig.builds[0]);
          for (const us of [map.low, map.high])
            expect(Math.abs(jointSpeedMeant(map, slow.mechanism, slow.mechanism.home, us)!)).toBeLessThanOrEqual(
              speed + 1e-6,
            );
          const q = slow.mechanism.home;
          const v = new Float64Array(slow.mechanism.m);
          v[map.slots[0]] = 1;
          // The joint turns the way it is asked to.
          const meant = jointSpeedMeant(map, slow.mechanism, q, spinPulse(map, slow.mechanism, q, v))!;
          expect(meant).toBeGreaterThan(0);
        },
      ),
      { numRuns: 40 },
    );
  });
  it('get no pulse outside the motor’s own range, though its figures reach further', () => {
    fc.assert(
      fc.property(fc.integer({ min: 20, max: 250 }), fc.integer({ min: 20, max: 250 }), (below, above) => {
        const narrow = spinningDipper((drive, changed) => {
          Object.assign(drive, { stopUs: 1500, fullUs: 300, minUs: 1500 - below, maxUs: 1500 + above });
          const turn = changed.mechanism.joints.find((j) => j.id === 'turn')!;
          // Faster than the motor: only its own range holds it.
          if (turn.type === 'continuous') turn.limits = { maxSpeed: 100_000 };
        });
        const [map] = spinMaps(narrow.rig, narrow.mechanism, narrow.rig.builds[0]);
        expect([map.low, map.high]).toEqual([1500 - below, 1500 + above]);
        expect(pulseAtSpeed(map, 0)).toBe(1500);
        for (const speed of [-1e5, 1e5]) expect([map.low, map.high]).toContain(pulseAtSpeed(map, speed));
      }),
      { numRuns: 40 },
    );
  });
  it('are in the command table with the pulses of their spins, and stand at its end', () => {
    const plan = planRoutine(rig, mechanism, rig.builds[0], rig.routines.at(-1)!);
    expect(plan.findings.filter((f) => f.severity === 'stop')).toEqual([]);
    const [map] = spinMaps(rig, mechanism, rig.builds[0]);
    const maps = [...driveMaps(rig, mechanism, rig.builds[0]), map];
    const table = commandTable(mechanism, maps, planMotion(plan), 50);
    const pulses = table.natives.at(-1)!;
    const [p, v, a] = sampleBuffers(mechanism.m);
    table.timeS.forEach((t, i) => {
      planMotion(plan).sampleInto(p, v, a, t);
      expect(pulses[i]).toBe(spinPulse(map, mechanism, p, v));
    });
    expect(new Set(pulses).size).toBeGreaterThan(2);
    expect(pulses.at(-1)).toBe(map.stopUs);
    const perPulse = Math.abs(jointSpeedMeant(map, mechanism, mechanism.home, map.stopUs + 1)!);
    const fast = table.spun[0].speeds.findIndex((s) => s > 80);
    expect(Math.abs(table.spun[0].speeds[fast + 20] - 90)).toBeLessThanOrEqual(perPulse);
    const csv = tableToCsv(rig, mechanism, table, { delimiter: ',', columns: 'both' }).split('\r\n');
    expect(csv[0]).toContain(`turn_us (${rig.boards[0].name}: pin 0)`);
    expect(csv[0]).toMatch(/,turn_deg_per_s$/);
    expect(csv[fast + 21].split(',')[5]).toBe(String(pulses[fast + 20]));
  });
  it('come on with the others, in the plan’s order, and move nothing', () => {
    const ordered = { ...rig, powerUp: { ...rig.powerUp, order: ['m-elbow', 'm-turn'] } };
    const plan = planPowerUp(ordered, mechanism, rig.builds[0]);
    expect(plan.starts.map((s) => s.maps[0].drive.id).slice(0, 2)).toEqual(['m-elbow', 'm-turn']);
    const turn = plan.starts.find((s) => s.maps[0].drive.id === 'm-turn')!;
    expect(turn).toMatchObject({ seconds: 0, from: turn.to, atS: rig.powerUp.gapMs / 1000 });
  });
  it('are told where they have no pin, no stop measured, or are slower than their joint may be', () => {
    const codes = (change: Parameters<typeof spinningDipper>[0]): string[] => {
      const made = spinningDipper(change);
      return checkDrives(made.rig, made.mechanism, made.rig.builds[0])
        .filter((f) => f.place.drive === 'm-turn')
        .map((f) => f.code);
    };
    const stop = { stopUs: 1500, points: [], takenOn: '' };
    const fine = (_: unknown, changed: typeof rig): void => void (changed.builds[0].speeds['m-turn'] = stop);
    expect(codes(fine)).toEqual([]);
    expect(codes(undefined)).toEqual(['stop-unmeasured']);
    expect(
      codes((drive, changed) => {
        fine(drive, changed);
        changed.wiring = changed.wiring.filter((w) => w.drive !== 'm-turn');
      }),
    ).toEqual(['motor-unwired']);
    expect(
      codes((drive, changed) => {
        fine(drive, changed);
        drive.speedDegPerS = 100;
      }),
    ).toEqual(['spin-past-motor']);
  });
});
