import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { tileDipper } from '../../../demo';
import { finish } from '../jobs';
import { compiled } from '../kinematics/arms.testkit';
import { seededRandom } from '../linear';
import { rulesExcess } from '../mechanism';
import { mechanismSchema, rigSchema } from '../rig';
import { presetById, rigFromPreset } from '../presets';
import { GRAVITY } from '../units';
import { anyPose, point, rigs } from './loads.testkit';
import { aKilogram, heaviestAt, heldBy, Loading, shareOf, worstJob } from './index';
import { atLeast, atMost, below } from '../units/held.testkit';

const request = { samples: 6000, seed: 1, accelerating: 'all' as const };
describe('the worst of an arm', () => {
  it.each(rigs.filter(([name]) => !name.endsWith('giants')))(
    '%s: no pose of another sequence is worse than what was found, and what was found is so',
    (_, rig) => {
      const mechanism = compiled(rig.mechanism);
      const held = point(mechanism, 80);
      const [where] = held;
      const worst = finish(worstJob(rig, mechanism, held, where ?? null, request));
      const loading = new Loading(rig, mechanism, held);
      const kilogram = where && aKilogram(rig, mechanism, where);
      const empty = new Loading(rig, mechanism);
      const random = seededRandom(99);
      const [still, unit] = [new Float64Array(mechanism.m), new Float64Array(mechanism.m)];
      // What a motor needs to start its joint is in no pose more than was said.
      for (let i = 0; i < 150; i++) {
        const q = anyPose(mechanism, random);
        if (rulesExcess(mechanism, q) > 1e-9) continue;
        loading.motors.forEach(({ perJoint, slots: [slot] }, k) => {
          if (perJoint === null) return;
          for (const way of [1, -1]) {
            unit.fill(0);
            unit[slot] = way * mechanism.accel[slot];
            loading.dynamics.torquesInto(loading.torques, q, still, unit);
            if (loading.dynamics.gap > 0) return;
            const need = loading.against(k, perJoint * loading.torques[slot]);
            atMost(need, worst.starting![k] * (1 + 1e-6) + 1e-9);
          }
        });
      }
      const off = 1 + 1e-6;
      for (let i = 0; i < 1500; i++) {
        const q = anyPose(mechanism, random);
        if (rulesExcess(mechanism, q) > 1e-9) continue;
        const asks = loading.rest(q);
        if (loading.dynamics.gap > 0) continue;
        loading.torques.forEach((nm, s) => atMost(Math.abs(nm), Math.abs(worst.joints[s].value) * off + 1e-9));
        asks.forEach(({ needNm }, k) => atMost(needNm, worst.motors[k].value.needNm * off + 1e-9));
        if (worst.tip) {
          atLeast(loading.restMargin()!, worst.tip.value - 1e-9);
          const { x, y } = loading.support.restPress(loading.dynamics.wholeMass, loading.dynamics.borne)!;
          loading.support.edges.forEach((edge, k) => {
            const far = (at: { x: number; y: number }): number => edge.x * at.x + edge.y * at.y - edge.off;
            atLeast(far({ x, y }), far(worst.edges[k].value!) - 1e-9);
          });
        }
        if (kilogram) atLeast(heaviestAt(empty, kilogram, q).kg, worst.heaviest!.value.kg / off - 1e-9);
      }
      if (kilogram) expect(heaviestAt(empty, kilogram, worst.heaviest!.q)).toEqual(worst.heaviest!.value);
      for (const { q } of [...worst.joints, ...worst.motors, ...worst.edges]) below(rulesExcess(mechanism, q), 1e-6);
      worst.joints.forEach(({ q, value }, s) => {
        loading.rest(q);
        expect(loading.torques[s]).toBe(value);
        q.forEach((v, slot) => {
          atLeast(v, mechanism.lower[slot]);
          atMost(v, mechanism.upper[slot]);
        });
      });
    },
  );
  it('is the same for all three motors of a delta, which are alike, along the bound where its rods are stretched too', () => {
    for (const [baseRadius, upper, forearm, platformRadius] of [
      [85, 95, 215, 35],
      [95, 120, 260, 40],
      [60, 80, 150, 30],
    ]) {
      const made = rigFromPreset(presetById('rotary-delta')!, 'Delta', {
        baseRadius,
        upper,
        forearm,
        platformRadius,
      });
      if (!made.ok) throw new Error(made.faults[0].message);
      const rig = made.value;
      const mechanism = compiled(rig.mechanism);
      const { motors } = finish(worstJob(rig, mechanism, point(mechanism, 50), null, { samples: 20_000, seed: 1 }));
      const needs = motors.map(({ value }) => value.needNm);
      expect(Math.min(...needs) / Math.max(...needs)).toBeGreaterThan(0.99);
    }
  });
  it('is the stretched arm, as every textbook has it', () => {
    const doc = mechanismSchema.parse({
      family: 'tree',
      base: {
        feet: [
          [100, 100],
          [-100, 100],
          [-100, -100],
          [100, -100],
        ],
        massG: 2000,
      },
      joints: [
        {
          id: 'a',
          type: 'revolute',
          origin: { xyzMm: [0, 0, 200] },
          axis: [0, 1, 0],
          limits: { min: -90, max: 80 },
          link: { massG: 300, comMm: [150, 0, 0] },
        },
        {
          id: 'b',
          parent: 'a',
          type: 'revolute',
          origin: { xyzMm: [300, 0, 0] },
          axis: [0, 1, 0],
          limits: { min: -150, max: 150 },
          link: { massG: 200, comMm: [100, 0, 0] },
        },
      ],
      tools: [{ id: 't', parent: 'b', origin: { xyzMm: [200, 0, 0] } }],
    });
    const mechanism = compiled(doc);
    const rig = rigSchema.parse({
      ...tileDipper(),
      mechanism: doc,
      drives: [],
      transmissions: [],
      wiring: [],
      sensors: [],
      leaders: [],
      poses: [],
      routines: [],
      homing: { axes: [], parked: null },
      powerUp: { rest: null, gapMs: 300, maxDegPerS: 20, order: [], at: {} },
      builds: [{ id: 'b1', name: 'b' }],
    });
    const { joints, tip, heaviest } = finish(worstJob(rig, mechanism, [], point(mechanism, 0)[0], request));
    const second = 0.2 * GRAVITY * 0.1;
    const first = 0.3 * GRAVITY * 0.15 + 0.2 * GRAVITY * 0.4;
    expect(Math.abs(joints[0].value)).toBeCloseTo(first, 8);
    expect(Math.abs(joints[1].value)).toBeCloseTo(second, 8);
    // 0.125 kg·m over 2.5 kg: the middle is 50 mm out, the feet reach 100.
    expect(tip!.value).toBeCloseTo(0.1 - (0.3 * 0.15 + 0.2 * 0.4) / 2.5, 8);
    // Without motors it is the base alone: M·(100 − 50 mm) bears kg·(500 mm + 10 along the tool − 100).
    const { kg, by } = heaviest!.value;
    expect(by).toEqual({ kind: 'base' });
    expect(kg).toBeCloseTo((2.5 * 0.1 - 0.125) / (Math.hypot(0.5, 0.01) - 0.1), 3);
  });
});

describe('the heaviest at a pose', () => {
  it('is borne, and a thousandth more is not, by just what is said to give way', () => {
    const found = { motor: 0, base: 0 };
    fc.assert(
      fc.property(fc.constantFrom(...rigs), fc.integer({ min: 1, max: 1e9 }), ([, rig], seed) => {
        const mechanism = compiled(rig.mechanism);
        const [where] = point(mechanism, 0);
        if (!where) return;
        const q = anyPose(mechanism, seededRandom(seed));
        const own = new Loading(rig, mechanism);
        own.rest(q);
        if (own.dynamics.gap > 0) return;
        const { kg, by } = heaviestAt(own, aKilogram(rig, mechanism, where), q);
        const bears = (mass: number): { motors: (number | null)[]; margin: number | null } => {
          const loading = new Loading(rig, mechanism, [
            heldBy(where.tool, { massG: 1000 * mass, comMm: [0, 0, 10], inertiaKgM2: null }),
          ]);
          return { motors: loading.rest(q).map(shareOf), margin: loading.restMargin() };
        };
        const isBorne = ({ motors, margin }: ReturnType<typeof bears>): boolean =>
          motors.every((share) => share === null || share <= 1 + 1e-9) && (margin === null || margin >= -1e-9);
        if (kg === Infinity) return expect(isBorne(bears(1e4))).toBe(true);
        if (kg > 0) for (const share of [0, 0.4, 0.999]) expect(isBorne(bears(share * kg))).toBe(true);
        const over = bears(1.001 * kg + 1e-7);
        expect(isBorne(over)).toBe(false);
        found[by!.kind]++;
        if (by!.kind === 'motor') expect(over.motors[by!.index]!).toBeGreaterThan(1);
        else expect(over.margin!).toBeLessThan(0);
      }),
      { numRuns: 150 },
    );
    expect(Math.min(found.motor, found.base)).toBeGreaterThan(5);
  });
});
