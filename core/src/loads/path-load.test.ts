import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { tileDipper } from '../../../demo';
import { admit } from '../admit';
import { lineSegment, pathMove, wholePath } from '../motion';
import type { Mechanism } from '../mechanism';
import type { Rig } from '../rig';
import { Loading, LoadsOnPath } from './index';
import { anyPose, point, rigs } from './loads.testkit';

const opened = (document: Rig) => {
  const admitted = admit(document);
  if (!admitted.ok) throw new Error(admitted.faults[0].message);
  return admitted;
};
const stands = rigs.map(([name, rig]) => [name, opened(rig)] as const);
/** Shares between 0 and 1 for slot after slot. */
const randomly = (shares: readonly number[]) => {
  let at = 0;
  return () => shares[at++ % shares.length];
};
const signed = fc.integer({ min: -1000, max: 1000 }).map((n) => n / 1000);
const shares = fc.array(
  fc.integer({ min: 0, max: 1000 }).map((n) => n / 1000),
  { minLength: 9, maxLength: 9 },
);
const rates = fc.array(signed, { minLength: 24, maxLength: 24 });

describe('what loads leave a motion along a path', () => {
  it.each(stands)('%s: rows hold just where motors and base have what they need', (_, { rig, mechanism }) => {
    let [kept, broken] = [0, 0];
    fc.assert(
      fc.property(shares, rates, rates, signed, signed, fc.boolean(), (at, one, two, s, u, tip) => {
        const loading = new Loading(rig, mechanism, point(mechanism, 60));
        const load = new LoadsOnPath(loading, [tip ? 'tip' : 'torque'], new Set());
        const q = anyPose(mechanism, randomly(at));
        const first = Float64Array.from({ length: mechanism.m }, (__, k) => mechanism.speed[k] * one[k]);
        const second = Float64Array.from({ length: mechanism.m }, (__, k) => mechanism.accel[k] * two[k]);
        // Bases tip only by much more than what joints are meant for.
        const hard = tip ? 40 : 1;
        const x = 4 * hard * s * s;
        const by = 20 * hard * u;
        const rest = loading.rest(q);
        const margin = loading.restMargin();
        const rows = load.rowsAt(q, first, second);
        const { asks, wrench } = loading.moving(
          q,
          first.map((v) => v * Math.sqrt(x)),
          first.map((v, k) => v * by + second[k] * x),
        );
        const lefts = rows.map((row) => {
          const [room] = row.roomAt(x);
          return {
            left: room - row.p * by - row.r * x,
            of: Math.abs(room) + Math.abs(row.p * by) + Math.abs(row.r * x),
          };
        });
        // A hair's breadth from a bound rounding decides.
        if (lefts.some(({ left, of }) => Math.abs(left) < 1e-7 + 1e-7 * of)) return;
        const isKept = lefts.every(({ left }) => left > 0);
        const hasAll = tip
          ? margin === null || margin <= 0.0001 || loading.support.marginOf(wrench) >= 0
          : asks.every(
              ({ needNm, usableNm }, k) =>
                // Those with less than a twentieth left at rest are left out, either way they go.
                usableNm === null || needNm <= usableNm || rest[k].needNm > 0.95 * rest[k].usableNm! - 1e-9,
            );
        if (isKept) expect(hasAll).toBe(true);
        const isWeakSomewhere = rest.some((ask) => ask.needNm > 0.95 * (ask.usableNm ?? Infinity) - 1e-9);
        if (!isKept && !isWeakSomewhere) expect(hasAll).toBe(false);
        if (isKept) kept++;
        else broken++;
      }),
      { numRuns: 150 },
    );
    expect(kept).toBeGreaterThan(0);
    if (!rig.drives.every(({ stallNm }) => stallNm === 900)) expect(broken).toBeGreaterThan(0);
  });
  it.each(stands)(
    '%s: room changes with the speed as it is said to, and there is room at rest',
    (_, { rig, mechanism }) => {
      fc.assert(
        fc.property(shares, rates, fc.integer({ min: 1, max: 95 }), (at, one, share) => {
          const load = new LoadsOnPath(new Loading(rig, mechanism), ['torque', 'tip'], new Set());
          const first = Float64Array.from({ length: mechanism.m }, (__, k) => mechanism.speed[k] * one[k]);
          for (const row of load.rowsAt(
            anyPose(mechanism, randomly(at)),
            first,
            first.map(() => 0),
          )) {
            expect(row.roomAt(0)[0]).toBeGreaterThan(0);
            if (!Number.isFinite(row.most)) continue;
            const x = (row.most * share) / 100;
            const h = 1e-6 * x;
            const [[low], [room, slope], [high]] = [x - h, x, x + h].map((it) => row.roomAt(it));
            expect(slope).toBeLessThanOrEqual(0);
            // Not across a corner of the motor's line.
            if (Math.abs(high - 2 * room + low) < 1e-9 * Math.abs(room) + 1e-15)
              expect((high - low) / (2 * h)).toBeCloseTo(
                slope,
                4 + Math.max(0, Math.ceil(-Math.log10(1 + Math.abs(slope)))),
              );
            expect(row.roomAt(row.most * 0.9999)[0]).toBeGreaterThan(-1e-9);
          }
        }),
        { numRuns: 40 },
      );
    },
  );

  const turning = (change: (nm: number) => Rig['drives'][number]['torqueAtSpeed']) => {
    const document = tileDipper();
    for (const joint of document.mechanism.joints) if (joint.type !== 'fixed') joint.friction = 0;
    for (const tie of document.transmissions) tie.efficiency = 1;
    const drive = document.drives[0];
    Object.assign(drive, { stallNm: 0.04, holdNm: 0.04, torqueAtSpeed: change(0.04) });
    const { rig, mechanism: given } = opened(document);
    // The joints' own limits are far off.
    const mechanism: Mechanism = { ...given, speed: given.speed.map(() => 1e4), accel: given.accel.map(() => 1e6) };
    const loading = new Loading(rig, mechanism);
    const [turn] = loading.motors[0].slots;
    const to = mechanism.home.slice();
    to[turn] = 1.4;
    const from = mechanism.home.slice();
    from[turn] = -1.4;
    const zero = new Float64Array(mechanism.m);
    loading.dynamics.torquesInto(
      loading.torques,
      from,
      zero,
      to.map((_, s) => (s === turn ? 1 : 0)),
    );
    const inertia = loading.torques[turn];
    const { duration } = pathMove(mechanism, from, to, wholePath(lineSegment(from, to)), {
      profile: 'trapezoid',
      load: new LoadsOnPath(loading, ['torque'], new Set()),
    });
    return {
      duration,
      inertia,
      way: 2.8,
      ratio: (drive.kind === 'servo' && loading.motors[0].rates![0][0]) as number,
    };
  };
  it('a turntable speeds up for half of its way and slows down for the other, with all the torque there is', () => {
    const { duration, inertia, way, ratio } = turning((nm) => [
      { degPerS: 0, nm },
      { degPerS: 1e6, nm },
    ]);
    expect(duration).toBeCloseTo(2 * Math.sqrt((way * inertia) / (0.04 / ratio)), 2);
  });
  it('and where its torque falls in a straight line with its speed, by the exponential that this makes of it', () => {
    const { duration, inertia, way, ratio } = turning((nm) => [
      { degPerS: 0, nm },
      { degPerS: 200, nm: 0 },
    ]);
    const top = ((200 * Math.PI) / 180) * ratio;
    const tau = (inertia * top) / (0.04 / ratio);
    const gone = (t: number): number => top * (t + tau * Math.expm1(-t / tau));
    let [low, high] = [0, 100];
    for (let i = 0; i < 60; i++) {
      const middle = (low + high) / 2;
      if (gone(middle) < way / 2) low = middle;
      else high = middle;
    }
    expect(duration / (2 * low)).toBeGreaterThan(0.995);
    expect(duration / (2 * low)).toBeLessThan(1.03);
  });
});
