import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoRigs } from '../../../demo';
import { FARTHEST } from '../board';
import { commandMaps, hasConstantRatio, isSpin } from '../actuators';
import { spinningDipper } from '../actuators/spin.testkit';
import { compiled } from '../kinematics/arms.testkit';
import { planMotion, planRoutine } from '../routine';
import { between } from '../units/between.testkit';
import { boundsOf } from './bounds';
import { commandTable } from './table';

const arms = [...demoRigs().map(({ rig }) => rig), spinningDipper().rig].map((rig) => {
  const mechanism = compiled(rig.mechanism);
  const [build] = rig.builds;
  return { rig, mechanism, build, maps: commandMaps(rig, mechanism, build), gentle: rig.powerUp.maxDegPerS };
});

describe('what a board holds a channel to', () => {
  it('lets all planned motion of the demo through, at any rate of points', () => {
    let [seen, near] = [0, 0];
    const beyond: string[] = [];
    for (const { rig, mechanism, build, maps, gentle } of arms)
      for (const routine of rig.routines) {
        const plan = planRoutine(rig, mechanism, build, routine);
        const sudden = plan.blocks.some(({ block }) => 'curve' in block && block.curve.kind === 'jump');
        const motion = planMotion(plan);
        for (const hz of [50, 83]) {
          const table = commandTable(mechanism, maps, motion, hz);
          maps.forEach((map, k) => {
            const { low, high, perS } = boundsOf(map, mechanism, gentle, sudden);
            table.natives[k].forEach((value, row, all) => {
              const step = row ? Math.abs(value - all[row - 1]) : 0;
              if (value < low || value > high || step > perS / hz + 1)
                beyond.push(`${map.code} of ${routine.name}: ${value} after ${all[row - 1]}`);
              seen++;
              if (step > 0.5 * (perS / hz)) near++;
            });
          });
        }
      }
    expect(beyond).toEqual([]);
    expect(seen).toBeGreaterThan(10_000);
    // And is no bound in name only: some of it goes at half of that and more.
    expect(near).toBeGreaterThan(100);
  });
  it('is what the speeds of all its joints come to together, where the ratio is constant', () => {
    const constant = arms.flatMap((arm) =>
      arm.maps.flatMap((map) =>
        !isSpin(map) && hasConstantRatio(map) && !map.native.nodes ? [{ ...arm, map }] : [],
      ),
    );
    expect(constant.length).toBeGreaterThan(10);
    fc.assert(
      fc.property(
        fc.constantFrom(...constant),
        fc.infiniteStream(between(-1, 1)),
        between(0, 1),
        (arm, shares, at) => {
          const { map, mechanism } = arm;
          const { perS } = boundsOf(map, mechanism, 0);
          // Anywhere, all joints at some share of their speeds for a while: no faster; at one corner of them nearly as fast.
          const q = mechanism.home.map((v, s) => v + 0.01 * at * (mechanism.upper[s] - mechanism.lower[s] || 0));
          const rate = (speeds: readonly number[]): number => {
            const next = q.slice();
            const dt = 1e-3;
            map.slots.forEach((s, k) => (next[s] += speeds[k] * mechanism.speed[s] * dt));
            const exact = (pose: Float64Array): number =>
              map.native.perDeg *
              map.coupling.toDrives(map.slots.map((s) => pose[s] / mechanism.siPerUnit[s]))![map.index];
            return Math.abs(exact(next) - exact(q)) / dt;
          };
          const some = map.slots.map(() => Number(shares.next().value));
          expect(rate(some)).toBeLessThanOrEqual(perS);
          const corners = [1, -1].flatMap((a) => [1, -1].flatMap((b) => [1, -1].map((c) => [a, b, c])));
          const most = Math.max(...corners.map((corner) => rate(map.slots.map((_, k) => corner[k % 3]))));
          expect(perS).toBeLessThanOrEqual(Math.ceil(1.05 * most) + 1);
        },
      ),
    );
  });
  it('is a jump across the range in 20 ms where places are told at once, the ratio changes, or speeds are sent', () => {
    let others = 0;
    for (const { mechanism, maps, gentle } of arms)
      for (const map of maps) {
        const { low, high, perS, still } = boundsOf(map, mechanism, gentle, true);
        expect(perS).toBe(Math.min(FARTHEST, Math.max(1, Math.ceil((high - low) / 0.02))));
        expect(still).toBe(isSpin(map) ? map.stopUs : undefined);
        if (!isSpin(map) && hasConstantRatio(map)) continue;
        others++;
        expect(boundsOf(map, mechanism, gentle)).toEqual({ low, high, perS, ...(isSpin(map) ? { still } : {}) });
      }
    expect(others).toBeGreaterThan(0);
  });
  it('is at least the gentle speed of being brought up, and between other ends where it is asked to be', () => {
    const { mechanism, maps } = arms[0];
    const [map] = maps;
    if (isSpin(map)) throw new Error('a spin');
    const fast = 4000;
    expect(boundsOf(map, mechanism, fast).perS).toBeGreaterThanOrEqual(fast * Math.abs(map.native.perDeg));
    expect(boundsOf(map, mechanism, 20, false, { low: 1, high: 2 })).toMatchObject({ low: 1, high: 2 });
  });
});
