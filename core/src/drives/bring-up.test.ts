import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { kilnLoader, tileDipper } from '../../../demo';
import { compiled } from '../kinematics/arms.testkit';
import { buildSchema, leaderSchema, sensorSchema, type Rig } from '../rig';
import {
  homingPose,
  homingWhatIf,
  knobOf,
  knobShare,
  matchLeader,
  planHoming,
  planPowerUp,
  powerUpPose,
  proposeLeader,
  restPose,
  sensorAngle,
  zeroFrom,
} from './index';

const number = (min: number, max: number): fc.Arbitrary<number> => fc.double({ min, max, noNaN: true });

describe('power-up', () => {
  const rig: Rig = {
    ...tileDipper(),
    powerUp: { rest: 'rest', gapMs: 300, maxDegPerS: 20, order: ['m-wrist', 'm-turn'], at: {} },
  };
  const mechanism = compiled(rig.mechanism);
  const plan = planPowerUp(rig, mechanism, rig.builds[0]);
  it('switches drives on in their order and apart, the named ones first', () => {
    expect(plan.starts.map((s) => s.maps[0].drive.id).slice(0, 2)).toEqual(['m-wrist', 'm-turn']);
    plan.starts.slice(1).forEach((s, k) => expect(s.atS - plan.starts[k].atS).toBeCloseTo(0.3, 9));
  });
  it('moves no joint faster than asked, begins at rest and ends at neutral or a limit', () => {
    const out = mechanism.home.slice();
    const before = mechanism.home.slice();
    powerUpPose(plan, 0, before);
    expect([...before]).toEqual([...restPose(rig, mechanism)]);
    const dt = 0.01;
    for (let t = dt; t < plan.durationS + dt; t += dt) {
      powerUpPose(plan, t, out);
      for (let s = 0; s < mechanism.m; s++)
        expect(Math.abs(out[s] - before[s]) / mechanism.siPerUnit[s]).toBeLessThanOrEqual(20 * dt + 1e-9);
      before.set(out);
    }
    for (let s = 0; s < mechanism.m; s++) {
      expect(out[s]).toBeGreaterThanOrEqual(mechanism.lower[s] - 1e-12);
      expect(out[s]).toBeLessThanOrEqual(mechanism.upper[s] + 1e-12);
    }
  });
  it('draws less at once than without a plan, and a limp or holding drive stays', () => {
    const [servos] = plan.rails;
    expect(servos.plannedA).toBeLessThan(servos.atOnceA);
    const limp = planPowerUp(
      { ...rig, powerUp: { ...rig.powerUp, at: { 'm-turn': 'limp' } } },
      mechanism,
      rig.builds[0],
    );
    const turn = limp.starts.find((s) => s.maps[0].drive.id === 'm-turn')!;
    expect(turn.to).toEqual(turn.from);
    expect(limp.rails[0].atOnceA).toBeLessThan(servos.atOnceA);
  });
  it('a jump takes as long as the slowest motor at its own speed', () => {
    const jump = planPowerUp(rig, mechanism, rig.builds[0], false);
    for (const { maps, seconds, from, to, slots } of jump.starts) {
      const { drive } = maps[0];
      if (drive.kind !== 'servo' || to[0] === from[0]) continue;
      const deg = Math.abs(to[0] - from[0]) / mechanism.siPerUnit[slots[0]];
      expect(seconds).toBeCloseTo(Math.max(0.01, deg / drive.speedDegPerS), 6);
    }
  });
});

describe('homing', () => {
  const rig = kilnLoader();
  const mechanism = compiled(rig.mechanism);
  const start = mechanism.home.slice();
  const plan = planHoming(rig, mechanism, start);
  it('ends with every axis where its switch trips, one axis beginning when those before are done unless together', () => {
    const end = homingPose(plan, mechanism, plan.durationS + 1);
    rig.homing.axes.forEach((axis, k) => {
      const waitsLater = rig.homing.axes.slice(k + 1).some((later) => Object.hasOwn(later.waits, axis.joint));
      const slot = mechanism.slotOf.get(axis.joint)!;
      if (!waitsLater) expect(end[slot] / mechanism.siPerUnit[slot]).toBeCloseTo(axis.at, 9);
      if (k > 0 && !axis.together)
        expect(plan.axes[k].startS).toBeGreaterThanOrEqual(plan.axes[k - 1].startS + plan.axes[k - 1].seconds - 1e-9);
      if (axis.together) expect(plan.axes[k].startS).toBe(plan.axes[k - 1].startS);
    });
  });
  it('moves without a jump', () => {
    const before = homingPose(plan, mechanism, 0);
    const dt = 0.02;
    const out = before.slice();
    for (let t = dt; t <= plan.durationS; t += dt) {
      homingPose(plan, mechanism, t, out);
      for (let s = 0; s < mechanism.m; s++) {
        const axis = rig.homing.axes.find((a) => a.joint === mechanism.slotIds[s])!;
        const top = Math.max(axis.fast, (0.25 * mechanism.speed[s]) / mechanism.siPerUnit[s]);
        // Two moves may meet inside one look.
        expect(Math.abs(out[s] - before[s]) / mechanism.siPerUnit[s]).toBeLessThanOrEqual(top * dt + 1e-9);
      }
      before.set(out);
    }
  });
  it('takes no longer together than one by one', () => {
    const { oneByOne, asSet, together } = homingWhatIf(rig, mechanism, start);
    expect(asSet).toBeCloseTo(plan.durationS, 9);
    expect(together).toBeLessThan(asSet);
    expect(asSet).toBeLessThan(oneByOne);
  });
});

describe('leader and follower', () => {
  const leader = leaderSchema.parse({
    id: 'l',
    name: 'l',
    sensor: 's',
    joint: 'j',
    scale: 1,
    offset: 0,
    low: -60,
    high: 60,
  });
  it('share what both reach, and the proposal shares it all', () => {
    fc.assert(
      fc.property(number(-180, 0), number(1, 180), number(-3, 3), number(-90, 90), (low, span, scale, offset) => {
        const high = low + span;
        const match = matchLeader({ ...leader, scale, offset }, low, high);
        expect(match.share).toBeGreaterThanOrEqual(0);
        expect(match.share).toBeLessThanOrEqual(1 + 1e-12);
        expect(match.share + match.lost).toBeCloseTo(1, 12);
        const proposed = proposeLeader({ ...leader, scale }, low, high, 25);
        const after = matchLeader({ ...leader, ...proposed }, low, high);
        expect(after.share).toBeCloseTo(1, 9);
        expect(after.idle).toBeCloseTo(0, 9);
        expect(Math.sign(proposed.scale)).toBe(scale < 0 ? -1 : 1);
      }),
    );
  });
  it('share nothing where the ranges do not meet', () => {
    expect(matchLeader({ ...leader, offset: 500 }, -90, 90)).toMatchObject({ common: null, share: 0, idle: 1 });
  });
});

describe('sensors', () => {
  const build = buildSchema.parse({ id: 'b', name: 'b' });
  const sensor = sensorSchema.parse({ id: 's', name: 's', kind: 'encoder', countsPerTurn: 4096, wraps: true });
  it('read the angle again that zero and sense were taken from, across the wrap too', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 4095 }),
        number(-170, 170),
        number(2, 60),
        fc.constantFrom(1, -1),
        (raw, angle, way, sense) => {
          fc.pre(Math.abs(angle + way) < 179);
          const counts = Math.round((sense * way * 4096) / 360);
          const after = { raw: (((raw + counts) % 4096) + 4096) % 4096, angle: angle + way };
          const taken = zeroFrom(sensor, { raw, angle }, after)!;
          expect(taken.direction).toBe(sense);
          const measured = { ...build, sensors: { s: { ...taken, takenOn: '' } } };
          expect(sensorAngle(measured, sensor, raw)).toBeCloseTo(angle, 9);
          expect(Math.abs(sensorAngle(measured, sensor, after.raw) - after.angle)).toBeLessThan(360 / 4096);
        },
      ),
    );
    expect(zeroFrom(sensor, { raw: 5, angle: 0 }, { raw: 5, angle: 30 })).toBeNull();
  });
  it('a knob goes from −1 over 0 to 1 and rests in its dead band', () => {
    const ends = knobOf({ low: [12, 14], high: [1010, 1009], centre: [498, 503, 500] })!;
    expect(ends.noise).toBe(5);
    expect(knobShare(ends, ends.low)).toBeCloseTo(-1, 9);
    expect(knobShare(ends, ends.high)).toBeCloseTo(1, 9);
    for (const raw of [498, 500, 503]) expect(knobShare(ends, raw)).toBe(0);
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 1022 }), (raw) => {
        expect(knobShare(ends, raw + 1)).toBeGreaterThanOrEqual(knobShare(ends, raw));
      }),
    );
    expect(knobOf({ low: [500], high: [501], centre: [500, 505] })).toBeNull();
    expect(knobOf({ low: [10], high: [900], centre: [950] })).toBeNull();
  });
});
