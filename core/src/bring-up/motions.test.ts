import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoRigs, tileDipper } from '../../../demo';
import { spinningDipper } from '../actuators/spin.testkit';
import { compiled } from '../kinematics/arms.testkit';
import { fromUnit, type Mechanism } from '../mechanism';
import { poseAt, type Motion } from '../motion';
import { catalogue } from '../actuators';
import type { Drive, Rig } from '../rig';
import { between } from '../units/between.testkit';
import {
  checkDrives,
  homingMotion,
  isLost,
  planHoming,
  planPowerUp,
  powerUpMotion,
  proposeHoming,
  restPose,
  wayDown,
} from './index';
import { atLeast, atMost } from '../units/held.testkit';

const rigs = demoRigs().map(({ rig }) => ({ rig, mechanism: compiled(rig.mechanism) }));
const someRig = fc.constantFrom(...rigs);
const share = between(0.02, 0.98);
const poseIn = (mechanism: Mechanism, shares: readonly number[]): Float64Array =>
  mechanism.home.map((v, s) => {
    const [low, high] = [mechanism.lower[s], mechanism.upper[s]];
    return Number.isFinite(high - low) ? low + shares[s % shares.length] * (high - low) : v;
  });
const shares = fc.array(share, { minLength: 9, maxLength: 9 });

/** Speeds are how positions change, at any moment that is not a corner of the steady pieces. */
function movesAsItSays(motion: Motion, mechanism: Mechanism, t: number): void {
  const m = mechanism.m;
  const at = (time: number): [Float64Array, Float64Array] => {
    const [q, speed, accel] = [0, 1, 2].map(() => new Float64Array(m).fill(7));
    motion.sampleInto(q, speed, accel, time);
    expect([...accel]).toEqual(Array.from({ length: m }, () => 0));
    return [q, speed];
  };
  const d = 1e-6 * Math.max(1, motion.durationS);
  const [[before], [, speed], [after]] = [at(t - d), at(t), at(t + d)];
  const [, early] = at(t - d);
  const [, later] = at(t + d);
  for (let s = 0; s < m; s++)
    if (early[s] === later[s]) expect(speed[s]).toBeCloseTo((after[s] - before[s]) / (2 * d), 5);
}

describe('an arm as it comes in', () => {
  it('has the speeds with which its joints move, and none before and after', () => {
    fc.assert(
      fc.property(someRig, shares, fc.boolean(), between(0, 1), ({ rig, mechanism }, from, planned, f) => {
        const rest = poseIn(mechanism, from);
        const plan = planPowerUp(rig, mechanism, rig.builds[0], planned, rest);
        const motion = powerUpMotion(plan);
        movesAsItSays(motion, mechanism, f * plan.durationS);
        movesAsItSays(motion, mechanism, plan.durationS + 1);
        const [q, speed, accel] = [0, 1, 2].map(() => new Float64Array(mechanism.m).fill(7));
        for (const t of [-1, plan.durationS + 1]) {
          motion.sampleInto(q, speed, accel, t);
          expect([...speed].every((v) => v === 0)).toBe(true);
        }
        // In the middle of each way that takes time it moves.
        for (const { atS, seconds, slots, from: a, to } of plan.starts) {
          motion.sampleInto(q, speed, accel, atS + seconds / 2);
          slots.forEach((slot, k) => {
            if (seconds > 0) expect(speed[slot]).toBeCloseTo((to[k] - a[k]) / seconds, 9);
          });
        }
      }),
      { numRuns: 60 },
    );
  });
  it('rests where it is said to rest, inside its limits, else at home', () => {
    const { rig, mechanism } = rigs.find(({ rig: r }) => r.poses.length > 1)!;
    for (const pose of rig.poses) {
      const { rest } = planPowerUp({ ...rig, powerUp: { ...rig.powerUp, rest: pose.id } }, mechanism, rig.builds[0]);
      mechanism.slotIds.forEach((id, s) => {
        const asked = fromUnit(mechanism, s, pose.joints[id] ?? 0);
        if (id in pose.joints)
          expect(rest[s]).toBeCloseTo(Math.min(mechanism.upper[s], Math.max(mechanism.lower[s], asked)), 12);
      });
    }
    const none = planPowerUp({ ...rig, powerUp: { ...rig.powerUp, rest: null } }, mechanism, rig.builds[0]);
    expect(none.rest).toEqual(mechanism.home);
    expect(none.rest).not.toBe(mechanism.home);
  });
  it('switches on in the order that is asked, what moves together as soon as its first', () => {
    fc.assert(
      fc.property(
        someRig.chain(({ rig, mechanism }) =>
          fc.tuple(fc.constant({ rig, mechanism }), fc.shuffledSubarray(rig.drives.map(({ id }) => id))),
        ),
        ([{ rig, mechanism }, order]) => {
          const plan = planPowerUp({ ...rig, powerUp: { ...rig.powerUp, order } }, mechanism, rig.builds[0]);
          const place = (id: string): number => (order.includes(id) ? order.indexOf(id) : order.length);
          const firsts = plan.starts.map(({ maps }) => Math.min(...maps.map(({ drive }) => place(drive.id))));
          expect(firsts).toEqual([...firsts].sort((a, b) => a - b));
          // Those that nobody named keep the order that they stand in.
          const unnamed = (starts: typeof plan.starts): string[] =>
            starts
              .filter(({ maps }) => maps.every(({ drive }) => !order.includes(drive.id)))
              .map(({ maps }) => maps[0].drive.id);
          const plain = planPowerUp({ ...rig, powerUp: { ...rig.powerUp, order: [] } }, mechanism, rig.builds[0]);
          expect(unnamed(plan.starts)).toEqual(unnamed(plain.starts));
        },
      ),
    );
  });
});

describe('an arm as it lies down', () => {
  it('goes from where it stands to where it rests, one motor’s joints at a time, gently, inside its limits', () => {
    fc.assert(
      fc.property(someRig, shares, between(0, 1), ({ rig, mechanism }, from, f) => {
        const stands = poseIn(mechanism, from);
        const motion = wayDown(rig, mechanism, rig.builds[0], stands);
        movesAsItSays(motion, mechanism, f * motion.durationS);
        expect(poseAt(motion, 0)).toEqual(stands);
        const rest = restPose(rig, mechanism);
        poseAt(motion, motion.durationS).forEach((v, s) => expect(v).toBeCloseTo(rest[s], 12));
        const { starts } = planPowerUp(rig, mechanism, rig.builds[0]);
        const [q, speed, accel] = [0, 1, 2].map(() => new Float64Array(mechanism.m));
        const order: number[] = [];
        for (let k = 1; k < 400; k++) {
          motion.sampleInto(q, speed, accel, (motion.durationS * k) / 400);
          const moving = [...speed.keys()].filter((s) => speed[s] !== 0);
          for (const s of moving) {
            atMost(Math.abs(speed[s]) / mechanism.siPerUnit[s], rig.powerUp.maxDegPerS + 1e-9);
            atLeast(q[s], mechanism.lower[s] - 1e-12);
            atMost(q[s], mechanism.upper[s] + 1e-12);
          }
          const groups = starts.flatMap(({ slots }, g) => (moving.some((s) => slots.includes(s)) ? [g] : []));
          expect(groups.length).toBeLessThanOrEqual(1);
          if (groups.length && order.at(-1) !== groups[0]) order.push(groups[0]);
        }
        // What came on last goes first.
        expect(order).toEqual([...order].sort((a, b) => b - a));
      }),
      { numRuns: 40 },
    );
  });
});

describe('an axis that finds its place', () => {
  const axisOf = (rig: Rig, joint: string, more: object): Rig => ({
    ...rig,
    homing: {
      ...rig.homing,
      axes: [
        {
          joint,
          by: 'switch',
          at: 0,
          end: 'min',
          fast: 20,
          slow: 2,
          backOff: 3,
          together: false,
          waits: {},
          ...more,
        },
      ],
    } as Rig['homing'],
  });
  it('moves as its speeds say; joints that wait go at a quarter of what they may', () => {
    fc.assert(
      fc.property(someRig, shares, between(0, 1), ({ rig, mechanism }, from, f) => {
        const [first, second] = mechanism.slotIds;
        const changed = axisOf(rig, first, { waits: { [second]: mechanism.home[1] / mechanism.siPerUnit[1] + 1 } });
        const start = poseIn(mechanism, from);
        const plan = planHoming(changed, mechanism, start);
        movesAsItSays(homingMotion(plan, mechanism), mechanism, f * plan.durationS);
        const wait = plan.moves.find(({ act }) => act === 'wait pose')!;
        const speed = Math.abs(wait.to - wait.from) / wait.seconds;
        if (wait.seconds > 0) expect(speed).toBeCloseTo((0.25 * mechanism.speed[1]) / mechanism.siPerUnit[1], 6);
      }),
      { numRuns: 60 },
    );
  });
  it('is asked of motors that forget where they stand, and reads a sensor on its own joint only', () => {
    const kinds = catalogue.map(({ figures }) => figures.kind);
    expect(new Set(kinds.filter((kind) => isLost({ kind } as Drive)))).toEqual(new Set(['stepper', 'dc-encoder']));
    expect(isLost(undefined)).toBe(false);
    const rig = structuredClone(tileDipper()) as Rig;
    const mechanism = compiled(rig.mechanism);
    const [joint, other] = mechanism.slotIds;
    const on = (joint: string, side: 'joint' | 'motor'): Rig => ({
      ...rig,
      sensors: [{ id: 's', name: 'S', joint, side } as unknown as Rig['sensors'][number]],
      signals: [],
    });
    expect(proposeHoming(on(joint, 'joint'), mechanism, joint).by).toBe('sensor');
    for (const elsewhere of [on(joint, 'motor'), on(other, 'joint')])
      expect(proposeHoming(elsewhere, mechanism, joint).by).toBe('cradle');
  });
});

describe('a motor that is sent speeds', () => {
  it('is told where its joint may be faster than it goes, in the joint’s own unit', () => {
    const { rig, mechanism } = spinningDipper();
    const quick = {
      ...mechanism,
      speed: mechanism.speed.map((v, s) => (mechanism.slotIds[s] === 'turn' ? 100 * v : v)),
    } as Mechanism;
    const found = checkDrives(rig, quick, rig.builds[0]).filter(({ code }) => code === 'spin-past-motor');
    expect(found).toHaveLength(1);
    expect(found[0].data).toMatchObject({ unit: '°/s', speed: expect.closeTo(20000, 6) });
    expect(checkDrives(rig, mechanism, rig.builds[0]).map(({ code }) => code)).not.toContain('spin-past-motor');
    // The same motor that moves a slide.
    const units = mechanism.units.map((unit, j) => (mechanism.ids[j] === 'turn' ? ('mm' as const) : unit));
    const sliding = { ...quick, units } as Mechanism;
    expect(
      checkDrives(rig, sliding, rig.builds[0]).find(({ code }) => code === 'spin-past-motor')!.data,
    ).toMatchObject({ unit: 'mm/s' });
  });
});
