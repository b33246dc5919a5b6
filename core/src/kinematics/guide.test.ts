import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { seededRandom } from '../linear';
import { limitExcess, rulesExcess, type Mechanism } from '../mechanism';
import { between } from '../units/between.testkit';
import { allowedPose, armOf, families } from './families.testkit';
import { brakingSpeed, brakingWay, Guide } from './guide';
import { atMost } from '../units/held.testkit';

const DT = 0.02;
/** Any arm of any family, a pose that it may take, and dice. */
const led = fc
  .record({ family: fc.constantFrom(...Object.keys(families)), seed: fc.integer({ min: 1, max: 1e9 }) })
  .map(({ family, seed }) => {
    const random = seededRandom(seed);
    const mechanism = armOf(family, random);
    const start = allowedPose(mechanism, random);
    return { family, random, mechanism, start };
  })
  .filter((led): led is typeof led & { start: Float64Array } => led.start !== null);
const anywhere = (mechanism: Mechanism, slot: number, random: () => number): number => {
  const [low, high] = [mechanism.lower[slot], mechanism.upper[slot]].map((v) => Math.min(9, Math.max(-9, v)));
  return low - 0.3 + random() * (high - low + 0.6);
};

describe('braking', () => {
  it('uses the whole way and no more, slowing by no more than it may each step', () => {
    fc.assert(
      fc.property(between(1e-6, 3), between(0.1, 40), (way, accel) => {
        let v = brakingSpeed(way, accel, DT);
        expect(brakingWay(v, accel, DT)).toBeCloseTo(way - v * DT, 9);
        let gone = 0;
        for (; v > 1e-12; v = Math.max(0, v - accel * DT)) gone += v * DT;
        expect(gone).toBeCloseTo(way, 9);
      }),
    );
  });
});

describe('an arm led by hand', () => {
  it('stays inside limits and rules, and inside its share of the speed, whatever is wished and whenever', () => {
    fc.assert(
      fc.property(led, between(0.02, 1), ({ mechanism, start, random }, share) => {
        const guide = new Guide(mechanism, start, share);
        const before = rulesExcess(mechanism, start);
        for (let k = 0; k < 200; k++) {
          if (random() < 0.1) {
            const slot = Math.floor(random() * mechanism.m);
            guide.lead(slot, anywhere(mechanism, slot, random));
          }
          if (random() < 0.01) guide.stop(DT);
          const from = guide.pose.slice();
          guide.step(DT);
          atMost(limitExcess(mechanism, guide.pose).by, 1e-12);
          atMost(rulesExcess(mechanism, guide.pose), Math.max(1e-9, before) + 1e-12);
          guide.pose.forEach((v, s) =>
            atMost(Math.abs(v - from[s]) / DT, share * mechanism.speed[s] * (1 + 1e-9) + 1e-9),
          );
        }
      }),
    );
  });

  it('comes to its wish, where one joint alone is led, and stands there; speeds up and slows by what it may', () => {
    fc.assert(
      fc.property(led, between(0.05, 1), ({ mechanism, start, random }, share) => {
        const guide = new Guide(mechanism, start, share);
        const slot = Math.floor(random() * mechanism.m);
        guide.lead(slot, anywhere(mechanism, slot, random));
        const wish = guide.wish[slot];
        let v = 0;
        for (let k = 0; k < 20_000 && !guide.isStill; k++) {
          const from = guide.pose[slot];
          guide.step(DT);
          const now = (guide.pose[slot] - from) / DT;
          atMost(Math.abs(now - v), 0.5 * mechanism.accel[slot] * DT * (1 + 1e-6) + 1e-7);
          v = now;
        }
        expect(guide.isStill).toBe(true);
        expect(guide.pose[slot]).toBeCloseTo(wish, 7);
        start.forEach((was, s) => s !== slot && expect(guide.pose[s]).toBe(was));
      }),
    );
  });

  it('stopped, slows to a stand and forgets its wish; led on, goes on from there', () => {
    fc.assert(
      fc.property(led, ({ mechanism, start, random }) => {
        const guide = new Guide(mechanism, start, 0.5);
        for (let s = 0; s < mechanism.m; s++) guide.lead(s, anywhere(mechanism, s, random));
        for (let k = 0; k < 10; k++) guide.step(DT);
        guide.stop(DT);
        const speed = guide.speed.slice();
        const steps = Math.max(...speed.map((v, s) => Math.abs(v) / (0.5 * mechanism.accel[s] * DT)));
        for (let k = 0; k < Math.ceil(steps) + 1; k++) guide.step(DT);
        expect(guide.isStill).toBe(true);
        const stands = guide.pose.slice();
        for (let k = 0; k < 20; k++) guide.step(DT);
        expect([...guide.pose]).toEqual([...stands]);
        // Another one led afterwards does not set them off again.
        const slot = Math.floor(random() * mechanism.m);
        guide.lead(slot, anywhere(mechanism, slot, random));
        for (let k = 0; k < 20; k++) guide.step(DT);
        stands.forEach((v, s) => s !== slot && expect(guide.pose[s]).toBeCloseTo(v, 7));
      }),
    );
  });
});
