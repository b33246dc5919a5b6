import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { tileDipper } from '../../../demo';
import { compiled } from '../kinematics/arms.testkit';
import {
  driveMaps,
  exactNative,
  fitCalibration,
  fitMonotone,
  fromNative,
  nodesAt,
  nodesUs,
  toNative,
  type Node,
} from './index';
import { between } from '../units/between.testkit';

const angles = fc.uniqueArray(fc.integer({ min: -90, max: 90 }), { minLength: 3, maxLength: 12 });

describe('a map of many pieces', () => {
  it('goes through readings that rise, and inverts everywhere', () => {
    fc.assert(
      fc.property(angles, fc.constantFrom(1, -1), between(-200, 200), (ats, sense, at) => {
        const points = ats.map((a) => ({ at: a, us: 1500 + sense * (10 * a + 80 * Math.sin(a / 40)) }));
        const nodes = fitMonotone(points);
        for (const p of points) expect(nodesUs(nodes, p.at)).toBeCloseTo(p.us, 6);
        expect(nodesAt(nodes, nodesUs(nodes, at))).toBeCloseTo(at, 6);
      }),
    );
  });
  it('never turns back and never stands still, whatever the readings', () => {
    fc.assert(
      fc.property(
        angles,
        fc.array(between(-150, 150), { minLength: 12, maxLength: 12 }),
        fc.constantFrom(1, -1),
        (ats, noise, sense) => {
          const points = ats.map((at, k): Node => ({ at, us: 1500 + sense * 9 * at + noise[k] }));
          const nodes = fitMonotone(points);
          const rises = Math.sign(nodes.at(-1)!.us - nodes[0].us);
          for (let k = 1; k < nodes.length; k++) expect(rises * (nodes[k].us - nodes[k - 1].us)).toBeGreaterThan(0);
        },
      ),
    );
  });
});

describe('how well readings agree', () => {
  const straight = (at: number): Node => ({ at, us: 1500 + 10 * at });
  it('a reading far off is named, and only that one', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 6 }),
        fc.constantFrom(-14, 14, 30),
        fc.array(between(-0.3, 0.3), { minLength: 7, maxLength: 7 }),
        (bad, by, noise) => {
          const points = [-60, -40, -20, 0, 20, 40, 60].map((at, k) => ({
            at: at + noise[k] + (k === bad ? by : 0),
            us: straight(at).us,
          }));
          expect(fitCalibration({ points, fit: 'line' }).outliers).toEqual([bad]);
        },
      ),
    );
    const four = [-60, -20, 20, 60].map(straight);
    expect(fitCalibration({ points: [...four.slice(0, 3), { at: 75, us: 2100 }], fit: 'line' }).outliers).toEqual([]);
  });
  it('backlash is the gap between both ways, and the map lies in the middle', () => {
    fc.assert(
      fc.property(between(0.2, 6), (gap) => {
        const ways = (['below', 'above'] as const).flatMap((from) =>
          [-50, -20, 10, 50].map((at) => ({
            at: at + (from === 'below' ? -gap / 2 : gap / 2),
            us: straight(at).us,
            from,
          })),
        );
        const fit = fitCalibration({ points: ways, fit: 'line' });
        expect(fit.backlashDeg).toBeCloseTo(gap, 6);
        expect((1500 - fit.line.atZeroUs) / fit.line.usPerDeg).toBeCloseTo(0, 1);
      }),
    );
    expect(fitCalibration({ points: [straight(-10), straight(30)], fit: 'line' })).toMatchObject({
      backlashDeg: null,
      nodes: null,
    });
  });
  it('exact readings leave nothing over', () => {
    const fit = fitCalibration({ points: [-60, -20, 20, 60].map(straight), fit: 'monotone' });
    expect(fit.rmsDeg).toBeCloseTo(0, 9);
    expect(fit.worstDeg).toBeCloseTo(0, 9);
  });
});

describe('a servo with a bent map', () => {
  const rig = structuredClone(tileDipper());
  const mechanism = compiled(rig.mechanism);
  const [build] = rig.builds;
  const k = build.calibrations.findIndex(
    (c) => c.drive === rig.transmissions.find((t) => t.joints[0] === 'shoulder')!.drives[0],
  );
  build.calibrations[k] = {
    ...build.calibrations[k],
    fit: 'monotone',
    points: [-40, 0, 45, 95].map((at) => ({ at, us: 1240 + 9.4 * at + 0.02 * at * at })),
  };
  const map = driveMaps(rig, mechanism, build).find((m) => m.code === 'shoulder')!;
  const [slot] = map.slots;
  it('is sent pulses on the bend, there and back, never past a limit', () => {
    const trim = build.trims[map.drive.id] ?? 0;
    for (const { at, us } of build.calibrations[k].points)
      expect(exactNative(map.native, at)).toBeCloseTo(us + trim, 6);
    fc.assert(
      fc.property(between(-170, 170), (deg) => {
        expect(fromNative(map.native, exactNative(map.native, deg))).toBeCloseTo(deg, 8);
        const back = (fromNative(map.native, toNative(map.native, deg)) * Math.PI) / 180;
        expect(back).toBeGreaterThanOrEqual(mechanism.lower[slot] - 1e-4);
        expect(back).toBeLessThanOrEqual(mechanism.upper[slot] + 1e-4);
      }),
    );
  });
});
