import { describe, expect, it } from 'vitest';
import type { Rig } from '@cork-elbow/core/rig';
import { confirmedLimits, fromSlots } from '@cork-elbow/core/mechanism';
import { standing } from '@cork-elbow/core/admit';
import { tileDipper } from '@cork-elbow/demo';
import { toolStep } from './tool-step';
import { bench, driven, type Bench } from './bench.testkit';

const at = (b: Bench, joint: string): number => fromSlots(b.mechanism, b.pose())[joint];

describe('how far a joint goes, being found', () => {
  it.each(driven)(
    '%s: that joint alone goes beyond what is confirmed, to its software limit and no further; the board takes it',
    (_, plain) => {
      const rig = structuredClone(plain) as Rig;
      rig.mechanism.limitRules = [];
      const free = bench(rig);
      const { mechanism } = free;
      const stands = fromSlots(mechanism, free.pose());
      const led = rig.mechanism.joints.filter(
        (j) =>
          'limits' in j &&
          j.limits &&
          'min' in j.limits &&
          stands[j.id] !== undefined &&
          mechanism.slotIds.includes(j.id),
      );
      const limitsOf = (id: string): [number, number] => {
        const slot = mechanism.slotIds.indexOf(id);
        return [mechanism.lower[slot], mechanism.upper[slot]].map((v) => v / mechanism.siPerUnit[slot]) as [
          number,
          number,
        ];
      };
      // A little is confirmed of all of them.
      for (const { id } of led) {
        const [low, high] = limitsOf(id);
        const by = (high - low) / 20;
        rig.builds[0].confirmed[id] = { min: Math.max(low, stands[id] - by), max: Math.min(high, stands[id] + by) };
      }
      for (const { id } of led.slice(0, 2)) {
        const b = bench(rig);
        if (!b.loop.state.armed) return;
        const [, high] = limitsOf(id);
        b.loop.byHand('r', rig, 'b1', b.now(), id);
        const others = led.filter((j) => j.id !== id).slice(0, 1);
        b.loop.guide(
          { joints: { [id]: high + 50, ...Object.fromEntries(others.map((j) => [j.id, 9999])) }, share: 0.5 },
          b.now(),
        );
        if (b.refusals().length) continue;
        for (let k = 0; k < 300 && Math.abs(at(b, id) - high) > 1e-6; k++) b.to(500);
        expect(at(b, id)).toBeCloseTo(high, 6);
        for (const other of others)
          expect(at(b, other.id)).toBeLessThanOrEqual(rig.builds[0].confirmed[other.id].max + 1e-6);
        expect(b.loop.state).toMatchObject({ armed: true, mode: 'by-hand', notice: '' });
        // Back inside, and led by hand as usual it keeps to what is confirmed.
        const { max } = rig.builds[0].confirmed[id];
        b.loop.guide({ joints: { [id]: max - 0.01 }, share: 0.5 }, b.now());
        for (let k = 0; k < 300 && at(b, id) > max; k++) b.to(500);
        b.loop.handOff();
        b.to(500);
        b.loop.byHand('r', rig, 'b1', b.now());
        b.loop.guide({ joints: { [id]: high }, share: 0.5 }, b.now());
        b.to(4000);
        expect(at(b, id)).toBeLessThanOrEqual(max + 1e-6);
        expect(b.refusals()).toEqual([]);
      }
    },
  );
});

describe('a tool led straight while how far a joint goes is being found', () => {
  it('goes as far as the limits that it is given, beyond what is confirmed', () => {
    const rig = structuredClone(tileDipper()) as Rig;
    const known = standing(rig, 'b1');
    if (!known.ok) throw new Error('not admitted');
    const { mechanism, build } = known;
    const stands = fromSlots(mechanism, mechanism.home);
    build.confirmed.turn = { min: stands.turn - 1, max: stands.turn + 1 };
    const to = { ...stands, turn: stands.turn + 5 };
    const led = (arm: typeof mechanism) => toolStep(rig, arm, build, mechanism.home, to, 0.5);
    expect(led(confirmedLimits(mechanism, build, 'turn'))).toHaveProperty('motion');
    expect(led(confirmedLimits(mechanism, build))).toHaveProperty('reason');
  });
});
