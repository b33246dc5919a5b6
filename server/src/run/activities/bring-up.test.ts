import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { driveMaps, isSpin, nativeAt, spinMaps, type CommandMap } from '@cork-elbow/core/actuators';
import { planPowerUp, restPose } from '@cork-elbow/core/bring-up';
import { compile, type Mechanism } from '@cork-elbow/core/mechanism';
import type { Rig } from '@cork-elbow/core/rig';
import { kilnLoader, tileDipper } from '@cork-elbow/demo';
import { spinningDipper } from '../../../../core/src/actuators/spin.testkit';
import { bringUp, BringUpUnderway, type BringUp } from './bring-up';
import { Channels } from '@cork-elbow/core/commands';

const rigs: [string, Rig][] = [
  ['dipper', tileDipper()],
  ['loader', kilnLoader()],
  ['spinning dipper', spinningDipper().rig],
];
const made = (
  rig: Rig,
): { mechanism: Mechanism; wire: Channels; maps: readonly CommandMap[]; rest: Float64Array } => {
  const compiled = compile(rig.mechanism);
  if (!compiled.ok) throw new Error(compiled.faults[0].message);
  const wire = new Channels(rig, compiled.mechanism, rig.builds[0]);
  return { mechanism: compiled.mechanism, wire, maps: wire.all, rest: restPose(rig, compiled.mechanism) };
};
const hows = ['hold', 'power-up', 'neutral'] as const;

describe('the wire', () => {
  it.each(rigs)(
    'of the %s has every drive with a pin, and gives for a pose and its speeds what each is sent',
    (_, rig) => {
      const { mechanism, wire } = made(rig);
      const all = [...driveMaps(rig, mechanism, rig.builds[0]), ...spinMaps(rig, mechanism, rig.builds[0])];
      expect(wire.all.map((m) => m.drive.id).sort()).toEqual(all.map((m) => m.drive.id).sort());
      const still = wire.values(mechanism.home, new Float64Array(mechanism.m));
      for (const [map, value] of still)
        expect(value).toBe(isSpin(map) ? map.stopUs : nativeAt(map, mechanism, mechanism.home));
      const byDrive = new Map(still.map(([map, value]) => [map.drive.id, value]));
      // And back: what is read from these numbers is the pose, as far as whole numbers can tell.
      const q = wire.poseInto(new Float64Array(mechanism.m), byDrive);
      for (const slot of wire.known(byDrive))
        expect(Math.abs(q[slot] - mechanism.home[slot]) / mechanism.siPerUnit[slot]).toBeLessThan(0.2);
      expect(wire.known(new Map())).toEqual(new Set());
      const spun = wire.spins.flatMap((map) => [...map.slots]);
      for (const slot of spun) expect(wire.known(byDrive).has(slot)).toBe(false);
    },
  );
  it.each(rigs)('of the %s knows where a joint is only by all of its motors, whichever have a value', (_, rig) => {
    const { mechanism, wire } = made(rig);
    const ids = wire.maps.map(({ drive }) => drive.id);
    fc.assert(
      fc.property(fc.subarray(ids), (some) => {
        const joints = rig.transmissions
          .filter(({ drives }) => drives.every((id) => some.includes(id)))
          .flatMap((transmission): readonly string[] => transmission.joints);
        const known = wire.known(new Map(some.map((id) => [id, 1500])));
        expect(new Set([...known].map((slot) => mechanism.slotIds[slot]))).toEqual(new Set(joints));
      }),
    );
  });
  it('leaves out a transmission that is only partly on pins', () => {
    const rig = structuredClone(kilnLoader()) as Rig;
    rig.wiring = rig.wiring.filter((w) => w.drive !== 'm-nod');
    const { wire } = made(rig);
    expect(wire.all.map((m) => m.drive.id)).not.toContain('m-spin');
    expect(wire.all.map((m) => m.drive.id)).toContain('m-twist');
  });
});

describe('switching on', () => {
  it.each(rigs.flatMap(([name, rig]) => hows.map((how) => [name, how, rig] as const)))(
    'the %s to %s: one after the other in the plan’s order, each inside its range at every moment',
    (_, how, rig) => {
      const { mechanism, maps, rest } = made(rig);
      const plan = bringUp(how, rig, mechanism, rig.builds[0], maps, rest, new Map());
      const order = planPowerUp(rig, mechanism, rig.builds[0]).starts.flatMap((s) => s.maps.map((m) => m.drive.id));
      const starts = maps.map((map) => ({ id: map.drive.id, at: plan.startOf(map) }));
      for (const { at } of starts) expect(at % rig.powerUp.gapMs).toBe(0);
      const sorted = [...starts].sort((a, b) => a.at - b.at || order.indexOf(a.id) - order.indexOf(b.id));
      expect(sorted.map((s) => s.id)).toEqual(order);
      expect(plan.durationMs).toBeGreaterThanOrEqual(Math.max(...starts.map((s) => s.at)));
      for (let t = 0; t <= plan.durationMs + 100; t += 50)
        for (const map of maps) {
          const value = plan.valueAt(map, t);
          expect(Number.isInteger(value)).toBe(true);
          const { low, high } = isSpin(map) ? map : map.native;
          if (how === 'neutral') continue;
          expect(value).toBeGreaterThanOrEqual(low);
          expect(value).toBeLessThanOrEqual(high);
        }
    },
  );
  it('to hold asks for what was read back, as far as it is allowed, and moves nothing', () => {
    const rig = tileDipper();
    const { mechanism, maps, rest } = made(rig);
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 400, max: 2700 }), { minLength: 5, maxLength: 5 }), (read) => {
        const readBack = new Map(maps.map((map, k) => [map.drive.id, read[k]]));
        const plan = bringUp('hold', rig, mechanism, rig.builds[0], maps, rest, readBack);
        expect(plan.moves).toBe(false);
        maps.forEach((map, k) => {
          if (isSpin(map)) return;
          const kept = Math.min(map.native.high, Math.max(map.native.low, read[k]));
          for (const t of [0, 100, 5000]) expect(plan.valueAt(map, t)).toBe(kept);
        });
        expect(plan.poseAt(100)).toBeNull();
      }),
    );
  });
  it('to neutral goes from where each stands to its own middle, gently, and no further', () => {
    const rig = tileDipper();
    const { mechanism, maps, rest } = made(rig);
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 600, max: 2400 }), { minLength: 5, maxLength: 5 }), (read) => {
        const readBack = new Map(maps.map((map, k) => [map.drive.id, read[k]]));
        const plan = bringUp('neutral', rig, mechanism, rig.builds[0], maps, rest, readBack);
        maps.forEach((map, k) => {
          if (isSpin(map) || map.drive.kind !== 'servo') return;
          const begin = plan.startOf(map);
          expect(plan.valueAt(map, begin)).toBe(read[k]);
          expect(plan.valueAt(map, plan.durationMs + 1)).toBe(Math.round(map.drive.centreUs));
          const perMs = (Math.abs(map.native.perDeg) * rig.powerUp.maxDegPerS) / 1000;
          for (let t = begin; t < begin + 2000; t += 100)
            expect(Math.abs(plan.valueAt(map, t + 100) - plan.valueAt(map, t))).toBeLessThanOrEqual(100 * perMs + 1);
        });
      }),
      { numRuns: 30 },
    );
  });
});

describe('a bring-up under way', () => {
  const rig = tileDipper();
  const { mechanism, maps, rest } = made(rig);
  const rising = (how: BringUp['how'], began = 1000): BringUpUnderway =>
    new BringUpUnderway(bringUp(how, rig, mechanism, rig.builds[0], maps, rest, new Map()), maps, began);
  it('wakes each drive once, at its time and no earlier', () => {
    const up = rising('hold');
    const woken: { at: number; id: string; value: number }[] = [];
    for (let now = 1000; now < 4000; now += 7)
      for (const [map, value] of up.wakes(now)) woken.push({ at: now - 1000, id: map.drive.id, value });
    expect(woken.map((w) => w.id).sort()).toEqual(maps.map((m) => m.drive.id).sort());
    for (const { at, id, value } of woken) {
      const map = maps.find((m) => m.drive.id === id)!;
      expect(at).toBeGreaterThanOrEqual(up.plan.startOf(map));
      expect(at).toBeLessThan(up.plan.startOf(map) + 7);
      expect(value).toBe(up.plan.valueAt(map, up.plan.startOf(map)));
    }
    expect(up.wakes(9000)).toEqual([]);
  });
  it('has points only where something moves, for those that are on', () => {
    const still = rising('hold');
    still.wakes(1000);
    for (let now = 1000; now < 3000; now += 5) expect([still.isMoving, still.pointAt(now)]).toEqual([false, null]);
    const up = rising('power-up');
    const on = new Set<string>();
    for (let now = 1000; now < 4000; now += 3) {
      for (const [map] of up.wakes(now)) on.add(map.drive.id);
      const { values, pose } = up.pointAt(now)!;
      expect(new Set(values.map(([map]) => map.drive.id))).toEqual(on);
      expect(pose).toEqual(up.plan.poseAt(now - 1000));
      for (const [map, value] of values) expect(value).toBe(up.plan.valueAt(map, now - 1000));
    }
    expect(up.pointAt(1000)!.pose).toEqual(rest);
  });
  it('is done when all are on, and where something moves when it has come to rest', () => {
    const still = rising('hold');
    const last = Math.max(...maps.map((m) => still.plan.startOf(m)));
    expect(still.outcome(1000 + last - 1)).toBeNull();
    expect(still.outcome(1000 + last)).toBe('finished');
    const up = rising('power-up');
    expect(up.outcome(1000 + up.plan.durationMs)).toBeNull();
    expect(up.outcome(1000 + up.plan.durationMs + 60)).toBe('finished');
  });
});
