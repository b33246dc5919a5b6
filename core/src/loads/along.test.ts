import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoRigs } from '../../../demo';
import { torqueAt, torqueLine, type TorqueLine } from '../actuators';
import { admit } from '../admit';
import { finish } from '../jobs';
import { sampleBuffers, type SteppedMotion } from '../motion';
import { driveSchema, type Rig } from '../rig';
import { heldAlong, planMotion, planRoutine } from '../routine';
import { between } from '../units/between.testkit';
import { alongJob, Loading, paceLeft, shareOf, type LoadsAlong, type Moment } from './index';

const routines = demoRigs().flatMap(({ id, rig: document }) => {
  const made = admit(document);
  if (!made.ok) throw new Error(id);
  const { rig, mechanism } = made;
  return rig.routines.map((routine) => {
    const plan = planRoutine(rig, mechanism, rig.builds[0], routine);
    return { name: `${id} ${routine.id}`, rig, mechanism, plan, motion: planMotion(plan) };
  });
});
const along = ({ mechanism, plan }: (typeof routines)[number], rig: Rig, motion: SteppedMotion): LoadsAlong =>
  finish(alongJob(rig, mechanism, motion, heldAlong(rig, mechanism, plan)));

describe('what a motor has at a speed', () => {
  const drive = (more: object) =>
    driveSchema.parse({
      ...{ kind: 'servo', id: 'd', name: 'd', direction: 1, travelDeg: 180, centreUs: 1500, usPerDeg: 10 },
      ...{ speedDegPerS: 300, minUs: 500, maxUs: 2500, stallNm: 2, holdNm: 0.8, ...more },
    });
  it('falls from what it may hold to nothing at its own top speed, or along what was measured of it', () => {
    const plain = torqueLine(drive({}))!;
    expect([0, 150, -150, 300, 400].map((v) => torqueAt(plain, v))).toEqual([0.8, 0.4, 0.4, 0, 0]);
    const measured = torqueLine(
      drive({
        torqueAtSpeed: [
          { degPerS: 100, nm: 1.5 },
          { degPerS: 200, nm: 0.5 },
        ],
      }),
    )!;
    expect([0, 50, 100, 150, 200, 201].map((v) => torqueAt(measured, v))).toEqual(
      [0.8, 0.7, 0.6, 0.4, 0.2, 0].map((v) => expect.closeTo(v, 12)),
    );
    expect(torqueLine(drive({ stallNm: 0, holdNm: undefined }))).toBeNull();
    expect(torqueLine(drive({ holdNm: undefined }))![0].nm).toBeCloseTo(0.8, 12);
    expect(torqueLine(drive({ stallNm: 0 }))![0].nm).toBe(0.8);
  });
});

describe('how much faster it may be', () => {
  const lines: fc.Arbitrary<TorqueLine> = fc
    .array(fc.tuple(between(20, 120), between(-0.6, 0.3)), { minLength: 1, maxLength: 4 })
    .map((steps) => {
      const points = [{ degPerS: 0, nm: 1 }];
      for (const [by, nm] of steps) {
        const last = points[points.length - 1];
        points.push({ degPerS: last.degPerS + by, nm: Math.max(0, last.nm + nm) });
      }
      return points;
    });
  const moments: fc.Arbitrary<Moment> = fc.record({
    rest: between(-1.2, 1.2),
    adds: fc.oneof(fc.constant(0), between(-3, 3)),
    degPerS: fc.oneof(fc.constant(0), between(-200, 200)),
    efficiency: between(0.4, 1),
    friction: fc.oneof(fc.constant(0), between(0, 0.3)),
  });
  it('is where stepping through paces finds that it is asked for more than it has', () => {
    const seen = { never: 0, atRest: 0, at: 0 };
    fc.assert(
      fc.property(lines, moments, (line, moment) => {
        const { rest, adds, degPerS, efficiency, friction } = moment;
        const isOver = (k: number, slack: number): boolean => {
          const nm = rest + k * k * adds;
          const has = torqueAt(line, k * degPerS) + slack;
          const left = Math.abs(nm) - friction;
          const need = nm * degPerS < 0 ? (left > 0 ? left * efficiency : 0) : (Math.abs(nm) + friction) / efficiency;
          return need > has;
        };
        const pace = paceLeft(line, moment);
        if (pace === 0) seen.atRest++;
        else if (pace === Infinity) seen.never++;
        else seen.at++;
        for (let k = 0.001; k < Math.min(pace * 0.9999, 30); k += 0.01)
          if (isOver(k, 1e-6)) expect.fail(`over at ${k} of ${pace}`);
        if (pace > 0 && pace < 1000) expect(isOver(pace * 1.0001 + 1e-6, -1e-6)).toBe(true);
      }),
      { numRuns: 200 },
    );
    expect(Math.min(seen.atRest, seen.at)).toBeGreaterThan(30);
  });
});

describe('losses', () => {
  it('stand against a joint that goes up, and help one that comes down', () => {
    const { mechanism, rig: document } = routines.find(({ name }) => name === 'tile-dipper dip')!;
    const rig = structuredClone(document);
    const tie = rig.transmissions.find(({ joints }) => joints.includes('shoulder'))!;
    tie.efficiency = 0.8;
    const joint = rig.mechanism.joints.find(({ id }) => id === 'shoulder')!;
    if (joint.type !== 'fixed') joint.friction = 0.01;
    const loading = new Loading(rig, mechanism);
    const k = loading.motors.findIndex(({ slots }) => slots[0] === mechanism.slotOf.get('shoulder'));
    const [none, v] = [new Float64Array(mechanism.m), new Float64Array(mechanism.m)];
    const { nm } = loading.rest(mechanism.home)[k];
    expect(Math.abs(nm)).toBeGreaterThan(0.02);
    // So slow that only the way counts: with the torque that it gives it goes up.
    const per = Math.sign(loading.motors[k].perJoint!);
    for (const way of [1, -1]) {
      v[mechanism.slotOf.get('shoulder')!] = 1e-9 * way * per * Math.sign(nm);
      const { needNm } = loading.moving(mechanism.home, v, none).asks[k];
      const size = Math.abs(nm);
      expect(needNm).toBeCloseTo(way > 0 ? (size + 0.01) / 0.8 : (size - 0.01) * 0.8, 6);
    }
  });
});

describe('loads along a routine', () => {
  it.each(routines)('$name: are at every moment what a look at that moment alone says', (of) => {
    const { rig, mechanism, motion, plan } = of;
    const found = along(of, rig, motion);
    const holds = heldAlong(rig, mechanism, plan);
    const [q, v, a] = sampleBuffers(mechanism.m);
    const every = Math.max(1, Math.floor(found.timeS.length / 40));
    for (let i = 0; i < found.timeS.length; i += every) {
      const t = found.timeS[i];
      const { held, mounted } = holds.findLast(({ fromS }) => fromS <= t)!;
      const tools = mechanism.tools.map((tool) => ({ ...tool, mounted: mounted!.has(tool.id) }));
      const loading = new Loading(rig, { ...mechanism, tools }, held);
      motion.sampleInto(q, v, a, t);
      const { asks, wrench } = loading.moving(q, v, a);
      asks.forEach((ask, k) => {
        expect(found.needs[k][i]).toBe(ask.needNm);
        expect(found.shares[k][i]).toBe(shareOf(ask) ?? NaN);
        expect(found.worst[k].ask.usableNm === null || shareOf(found.worst[k].ask)! >= shareOf(ask)!).toBe(true);
      });
      if (found.tip) {
        expect(found.tip[i]).toBe(loading.support.marginOf(wrench));
        expect(found.tipWorst!.margin).toBeLessThanOrEqual(found.tip[i]);
      }
    }
  });
  it('give way just past the pace that is said, and not before', () => {
    let [motors, bases] = [0, 0];
    for (const of of routines.filter(({ name }) => /dip$|round$|paint|greet/.test(name))) {
      const { rig, motion } = of;
      const { pace } = along(of, rig, motion);
      const at = (k: number): LoadsAlong =>
        along(of, rig, {
          durationS: motion.durationS,
          start: motion.start,
          stretches: motion.stretches,
          // The same moments, with the speeds of another pace.
          sampleInto(q, v, a, t) {
            motion.sampleInto(q, v, a, t);
            for (let s = 0; s < q.length; s++) {
              v[s] *= k;
              a[s] *= k * k;
            }
          },
        });
      const worst = ({ worst: list }: LoadsAlong): number => Math.max(...list.map(({ ask }) => shareOf(ask) ?? 0));
      if (pace.motors && pace.motors.share > 0 && pace.motors.share < 50) {
        motors++;
        expect(worst(at(pace.motors.share * 0.999))).toBeLessThanOrEqual(1 + 1e-9);
        expect(shareOf(at(pace.motors.share * 1.001 + 1e-6).worst[pace.motors.motor].ask)!).toBeGreaterThan(1);
      }
      if (pace.base && pace.base.share > 0 && pace.base.share < 50) {
        bases++;
        expect(at(pace.base.share * 0.999).tipWorst!.margin).toBeGreaterThan(-1e-9);
        expect(at(pace.base.share * 1.001).tipWorst!.margin).toBeLessThan(0);
      }
    }
    expect(motors).toBeGreaterThan(0);
    expect(bases).toBeGreaterThan(0);
  });
  it('tell stretches that are got down into and not up from, by how much is missing', () => {
    const of = routines.find(({ name }) => name === 'tile-dipper dip')!;
    const shoulder = of.rig.transmissions.find((t) => t.joints.includes('shoulder'))!;
    const strong = along(of, of.rig, of.motion);
    expect(strong.weak).toEqual([]);
    const k = strong.worst.findIndex((_, i) => i === of.rig.transmissions.indexOf(shoulder));
    const most = Math.max(...strong.needs[k]);
    // A gear that loses a third, and friction: down it is helped, up it is not.
    const weak = structuredClone(of.rig);
    const drive = weak.drives.find(({ id }) => id === shoulder.drives[0])!;
    Object.assign(drive, {
      stallNm: 1.08 * most,
      holdNm: 1.08 * most,
      torqueAtSpeed: [{ degPerS: 5000, nm: 1.08 * most }],
    });
    weak.transmissions.find(({ id }) => id === shoulder.id)!.efficiency = 0.66;
    const found = along(of, weak, of.motion).weak.filter(({ motor }) => motor === k);
    expect(found.map(({ kind }) => kind)).toContain('down-only');
    for (const { kind, fromS, toS, atS, missingNm } of found) {
      expect(missingNm).toBeGreaterThan(0);
      expect(fromS <= atS && atS <= toS).toBe(true);
      const [q, v, a] = sampleBuffers(of.mechanism.m);
      of.motion.sampleInto(q, v, a, atS);
      const holds = heldAlong(weak, of.mechanism, of.plan).findLast((h) => h.fromS <= atS)!;
      const loading = new Loading(weak, of.mechanism, holds.held);
      const rest = loading.rest(q)[k];
      const moving = loading.moving(q, v, a).asks[k];
      if (kind === 'down-only') {
        expect(moving.needNm).toBeLessThanOrEqual(moving.usableNm!);
        expect(missingNm).toBeCloseTo(rest.needNm - rest.usableNm!, 12);
      } else expect(missingNm).toBeCloseTo(moving.needNm - moving.usableNm!, 12);
    }
  });
});
