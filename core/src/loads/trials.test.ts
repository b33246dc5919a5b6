import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { compiled } from '../kinematics/arms.testkit';
import { seededRandom } from '../linear';
import { inUnit, rulesExcess } from '../mechanism';
import type { Lift, Rig } from '../rig';
import {
  aKilogram,
  correctedBy,
  foretell,
  heldBy,
  Loading,
  massBounds,
  outcomeAt,
  shareOf,
  stallBounds,
  stallOf,
  strengthened,
  trialSteps,
  usableNm,
} from './index';
import { anyPose, point, rigs } from './loads.testkit';

const lossy = rigs.filter(([name]) => !name.endsWith('giants'));
const opened = (rig: Rig) => {
  const mechanism = compiled(rig.mechanism);
  const [where] = point(mechanism, 0);
  return { mechanism, where, own: new Loading(rig, mechanism), more: aKilogram(rig, mechanism, where) };
};
const holding = (rig: Rig, kg: number): Loading => {
  const mechanism = compiled(rig.mechanism);
  return new Loading(rig, mechanism, point(mechanism, 1000 * kg));
};

describe('lifts to try', () => {
  it.each(lossy)('%s: ask of a motor what is said, rise, and let nothing else give way', (_, rig) => {
    const { mechanism, own, more } = opened(rig);
    const random = seededRandom(5);
    let seen = 0;
    for (let i = 0; i < 60; i++) {
      const q = anyPose(mechanism, random);
      if (rulesExcess(mechanism, q) > 1e-9) continue;
      own.motors.forEach((_motor, k) => {
        const { steps, ends } = trialSteps(own, more, k, q);
        steps.forEach((step, n) => {
          expect(step.kg).toBeGreaterThan(n ? steps[n - 1].kg : 0);
          if (!Number.isFinite(step.kg) || step.kg > 1e4) return;
          seen++;
          const held = holding(rig, step.kg);
          const asks = held.rest(q);
          expect(asks[k].needNm / step.needNm).toBeCloseTo(1, 6);
          expect(foretell(held, k, q)!.outcome).toBe(step.outcome);
          asks.forEach((ask, j) => j !== k && expect(shareOf(ask) ?? 0).toBeLessThanOrEqual(1 + 1e-6));
          if (held.support.stands) expect(held.restMargin()!).toBeGreaterThanOrEqual(-1e-6);
        });
        if (!steps.length) return;
        // What is said to end it does, a little past the last that was proposed at the latest.
        if (ends?.kind === 'motor') expect(ends.index).not.toBe(k);
      });
    }
    expect(seen).toBeGreaterThan(0);
  });
});

describe('what trials say of a motor', () => {
  /** Trials as they go with the torque, or the masses, that an arm really has. */
  const tried = (rig: Rig, k: number, strength: number, seed: number): Lift[] => {
    const { mechanism, own, more } = opened(rig);
    const random = seededRandom(seed);
    return Array.from({ length: 12 }).flatMap((): Lift[] => {
      const q = anyPose(mechanism, random);
      const { steps } = trialSteps(own, more, k, q);
      return steps
        .filter(({ kg }) => Number.isFinite(kg))
        .map(({ kg, needNm, stallNm }) => ({
          drive: own.motors[k].drive.id,
          joints: Object.fromEntries(mechanism.slotIds.map((id, slot) => [id, inUnit(mechanism, slot, q[slot])])),
          payloadG: 1000 * kg,
          needNm,
          hasNm: stallNm,
          result: outcomeAt(needNm / (strength * stallNm)),
          note: '',
          takenOn: '',
        }));
    });
  };
  it('are bounds that the torque it really has lies within, and nothing is corrected that agrees', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...lossy),
        fc.nat(20),
        fc.double({ min: 0.3, max: 1.4, noNaN: true }),
        fc.nat(1000),
        ([, rig], pick, strength, seed) => {
          const { own } = opened(rig);
          const k = pick % own.motors.length;
          const stall = stallOf(own.motors[k]);
          if (!stall) return;
          const bounds = stallBounds(tried(rig, k, strength, seed));
          expect(bounds.least).toBeLessThanOrEqual(strength * stall * (1 + 1e-9));
          expect(bounds.most).toBeGreaterThanOrEqual(strength * stall * (1 - 1e-9));
          const corrected = correctedBy(stall, bounds)!;
          // Never further from the truth than what was believed.
          expect(Math.abs(corrected - strength * stall)).toBeLessThanOrEqual(
            Math.abs(stall - strength * stall) + 1e-9,
          );
        },
      ),
      { numRuns: 60 },
    );
  });
  it('are bounds of its own masses too: arms so many times as heavy as they were entered behave like that', () => {
    const [, rig] = rigs.find(([name]) => name === 'tile-dipper')!;
    const heavy = (times: number): Rig => {
      const other = structuredClone(rig);
      other.mechanism.joints.forEach((joint) => joint.type !== 'fixed' && joint.link && (joint.link.massG *= times));
      other.mechanism.tools.forEach((tool) => (tool.massG *= times));
      return other;
    };
    const { mechanism, own, more } = opened(rig);
    const k = own.motors.findIndex(({ slots }) => mechanism.slotIds[slots[0]] === 'shoulder');
    for (const times of [0.6, 1.7, 2.5]) {
      const real = opened(heavy(times));
      const random = seededRandom(3);
      const lifts = Array.from({ length: 60 }, () => {
        const q = anyPose(mechanism, random);
        const payloadG = 400 * random();
        const held = new Loading(heavy(times), real.mechanism, [
          heldBy(real.mechanism.tools[0], { massG: payloadG, comMm: [0, 0, 10], inertiaKgM2: null }),
        ]);
        return {
          payloadG,
          joints: Object.fromEntries(mechanism.slotIds.map((id, slot) => [id, inUnit(mechanism, slot, q[slot])])),
          result: foretell(held, k, q)!.outcome,
        };
      });
      const { least, most } = massBounds(own, more, k, lifts);
      expect(least).toBeLessThanOrEqual(times + 1e-9);
      expect(most).toBeGreaterThanOrEqual(times - 1e-9);
      expect(most).toBeLessThan(20);
    }
  });
  it('that came off slowly bound the masses on both sides', () => {
    const [, rig] = rigs.find(([name]) => name === 'tile-dipper')!;
    const { mechanism, own, more } = opened(rig);
    const k = own.motors.findIndex(({ slots }) => mechanism.slotIds[slots[0]] === 'shoulder');
    const joints = { shoulder: 90, elbow: 0, wrist: 0 };
    const { least, most } = massBounds(own, more, k, [{ joints, payloadG: 100, result: 'slowly' }]);
    expect(least).toBeGreaterThan(1);
    expect(most).toBeGreaterThan(least);
    expect(massBounds(own, more, k, [{ joints, payloadG: 100, result: 'lifted' }])).toEqual({ least: 0, most });
  });
  it('contradict each other where a light load stalled and a heavy one was lifted', () => {
    const bounds = stallBounds([
      { needNm: 1, result: 'lifted' },
      { needNm: 0.5, result: 'stalled' },
    ]);
    expect(correctedBy(0.7, bounds)).toBeNull();
    expect(correctedBy(0.7, stallBounds([]))).toBe(0.7);
    expect(stallBounds([{ needNm: 1, result: 'slowly' }])).toEqual({ least: 1, most: 1.25 });
  });
  it('make a motor stronger in all its torques', () => {
    const [, rig] = lossy[0];
    const { own } = opened(rig);
    const [{ drive }] = own.motors;
    const twice = { ...rig, drives: rig.drives.map((d) => strengthened(d, 2)) };
    const other = new Loading(twice, own.mechanism);
    own.motors.forEach((motor, k) => {
      for (const speed of [0, 10, 40])
        expect(usableNm(other.motors[k], speed)).toBeCloseTo(2 * usableNm(motor, speed)!, 9);
    });
    expect(strengthened({ ...drive, stallNm: 1, holdNm: undefined, torqueAtSpeed: undefined }, 3)).toMatchObject({
      stallNm: 3,
    });
  });
});
