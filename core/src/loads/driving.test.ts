import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { compiled } from '../kinematics/arms.testkit';
import { seededRandom } from '../linear';
import { Dynamics, drivingLoad, fitForDriving, Loading, type Travel } from './index';
import { anyPose, rigs } from './loads.testkit';
import { GRAVITY } from '../units';

const number = (max: number) => fc.integer({ min: 0, max });
const travels = fc.record({ brakeMmPerS2: number(4000), mmPerS: number(1500), turnDegPerS: number(180) });
const standing = rigs.filter(
  ([name, rig]) => !name.includes('with') && new Loading(rig, compiled(rig.mechanism)).support.stands,
);

describe('a base that drives', () => {
  it('bears what a ground that leans by the acceleration would make of its weight', () => {
    expect(standing.length).toBeGreaterThan(1);
    fc.assert(
      fc.property(fc.constantFrom(...standing), travels, fc.nat(1000), ([, rig], travel: Travel, seed) => {
        const mechanism = compiled(rig.mechanism);
        const loading = new Loading(rig, mechanism);
        const q = anyPose(mechanism, seededRandom(seed));
        const found = drivingLoad(loading, travel, q)!;
        loading.rest(q);
        const { wholeMass, borne } = loading.dynamics;
        const base = mechanism.base;
        // The centre of all mass in the base's frame; its inertia force lies as far over the ground as it does.
        const d = [0, 1, 2].map((k) => borne[k] / wholeMass - base[9 + k]);
        const c = [0, 1, 2].map((k) => base[k] * d[0] + base[3 + k] * d[1] + base[6 + k] * d[2]);
        const g = [0, 1, 2].map((k) => base[3 * k + 2] * GRAVITY);
        const a = travel.brakeMmPerS2 / 1000;
        const b = ((travel.mmPerS / 1000) * travel.turnDegPerS * Math.PI) / 180;
        let least = Infinity;
        for (let k = 0; k <= 20; k++)
          for (let n = 0; n <= 20; n++) {
            const f = [g[0] + a * (k / 10 - 1), g[1] + b * (n / 10 - 1), g[2]];
            const at = [c[0] - (c[2] * f[0]) / f[2], c[1] - (c[2] * f[1]) / f[2]];
            for (const { x, y, off } of loading.support.edges) least = Math.min(least, x * at[0] + y * at[1] - off);
          }
        expect(found.margin).toBeCloseTo(least, 9);
        if (a === 0 && b === 0) expect(found.by).toBe('standing');
      }),
      { numRuns: 80 },
    );
  });
  it('tells what it is that tips it: braking forwards throws the load forwards', () => {
    const [, rig] = standing[0];
    const mechanism = compiled(rig.mechanism);
    const loading = new Loading(rig, mechanism);
    const { borne, wholeMass } = new Dynamics(mechanism);
    expect([borne.length, wholeMass > 0]).toEqual([3, true]);
    const found = drivingLoad(loading, { brakeMmPerS2: 3000, mmPerS: 0, turnDegPerS: 0 }, mechanism.home)!;
    expect(['braking', 'speeding-up']).toContain(found.by);
    expect(found.turning).toBeNull();
    const aside = drivingLoad(loading, { brakeMmPerS2: 0, mmPerS: 900, turnDegPerS: 170 }, mechanism.home)!;
    expect(aside.by).toBe('standing');
    expect(aside.turning).not.toBeNull();
    expect(aside.margin).toBeLessThan(drivingLoad(loading, undefined, mechanism.home)!.margin);
  });
  it('is allowed in a pose that says so, within a degree of each of its joints, wheels left out', () => {
    const [, rig] = rigs.find(([name]) => name === 'tile-dipper')!;
    const mechanism = compiled(rig.mechanism);
    const q = mechanism.home;
    const joints = Object.fromEntries(
      mechanism.slotIds.map((id, slot) => [id, q[slot] / mechanism.siPerUnit[slot] + (slot % 2 ? 0.9 : -0.9)]),
    );
    const pose = { id: 'p', name: 'P', note: '', joints };
    const none = new Set<string>();
    expect(fitForDriving(mechanism, [pose], q, none)).toBeNull();
    expect(fitForDriving(mechanism, [{ ...pose, driving: true }], q, none)?.id).toBe('p');
    const off = { ...pose, driving: true, joints: { ...joints, elbow: joints.elbow + 30 } };
    expect(fitForDriving(mechanism, [off], q, none)).toBeNull();
    expect(fitForDriving(mechanism, [off], q, new Set(['elbow']))?.id).toBe('p');
  });
});
