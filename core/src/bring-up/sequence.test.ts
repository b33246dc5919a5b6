import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoRigs, kilnLoader, tileDipper } from '../../../demo';
import { spinningDipper } from '../actuators/spin.testkit';
import { compiled } from '../kinematics/arms.testkit';
import type { Mechanism } from '../mechanism';
import { poseAt } from '../motion';
import type { HomingAxis, Rig } from '../rig';
import {
  checkDrives,
  homingMotion,
  homingWhatIf,
  jointsToHome,
  planHoming,
  planPowerUp,
  powerUpMotion,
  proposeHoming,
  restPose,
} from './index';
import { between } from '../units/between.testkit';

const arms = [...demoRigs().map(({ rig }) => rig), spinningDipper().rig].map((rig) => ({
  rig,
  mechanism: compiled(rig.mechanism),
}));
const share = between(0.05, 0.95);
const limited = (mechanism: Mechanism): number[] =>
  mechanism.slotIds.flatMap((_, s) => (Number.isFinite(mechanism.upper[s] - mechanism.lower[s]) ? [s] : []));
const within = (mechanism: Mechanism, s: number, f: number): number =>
  mechanism.lower[s] + f * (mechanism.upper[s] - mechanism.lower[s]);

/** An arm, one of its joints with limits, a pose to begin from and an axis of any kind. */
const axes = fc
  .constantFrom(...arms.filter(({ mechanism }) => limited(mechanism).length))
  .chain(({ rig, mechanism }) =>
    fc.record({
      rig: fc.constant(rig),
      mechanism: fc.constant(mechanism),
      slot: fc.constantFrom(...limited(mechanism)),
      starts: fc.array(share, { minLength: mechanism.m, maxLength: mechanism.m }),
      by: fc.constantFrom<HomingAxis['by']>('switch', 'end-stop', 'sensor', 'cradle', 'neutral'),
      end: fc.constantFrom<HomingAxis['end']>('min', 'max'),
      atShare: share,
      fast: fc.integer({ min: 5, max: 60 }),
      slow: fc.integer({ min: 1, max: 5 }),
      backOff: fc.integer({ min: 1, max: 5 }),
    }),
  );
const axisOf = (joint: string, at: number, more: Partial<HomingAxis> = {}): HomingAxis => ({
  ...{ joint, by: 'switch', end: 'min', signal: null, switchKind: 'mechanical', fast: 20, slow: 2, backOff: 3 },
  ...{ at, spread: 0, waits: {}, together: false },
  ...more,
});
const poseOf = (mechanism: Mechanism, starts: readonly number[]): Float64Array =>
  mechanism.home.map((v, s) => (limited(mechanism).includes(s) ? within(mechanism, s, starts[s]) : v));

describe('an axis that finds its place', () => {
  it('goes what its kind goes, at the speeds it was given, in its own unit', () => {
    fc.assert(
      fc.property(axes, ({ rig, mechanism, slot, starts, by, end, atShare, fast, slow, backOff }) => {
        const unit = mechanism.siPerUnit[slot];
        const joint = mechanism.slotIds[slot];
        const at = within(mechanism, slot, atShare) / unit;
        const start = poseOf(mechanism, starts);
        const untouched = start.slice();
        const axis = axisOf(joint, at, { by, end, fast, slow, backOff });
        const plan = planHoming({ ...rig, homing: { ...rig.homing, axes: [axis] } }, mechanism, start);
        expect(start).toEqual(untouched);
        const away = end === 'min' ? at + backOff : at - backOff;
        const from = by === 'cradle' || by === 'neutral' ? at : start[slot] / unit;
        const ways: Record<HomingAxis['by'], [string, number, number][]> = {
          switch: [
            ['seek', at, fast],
            ['back off', away, fast],
            ['seek slowly', at, slow],
          ],
          'end-stop': [
            ['seek slowly', at, slow],
            ['back off', away, fast],
          ],
          sensor: [['read', from, 0]],
          cradle: [['set down', from, 0]],
          neutral: [['set down', from, 0]],
        };
        let [time, now] = [0, from];
        expect(plan.moves).toHaveLength(ways[by].length);
        plan.moves.forEach((move, k) => {
          const [act, to, speed] = ways[by][k];
          // Reading takes a fifth of a second.
          const seconds = speed ? Math.abs(to - now) / speed : 0.2;
          expect(move).toMatchObject({ axis: joint, joint, act });
          expect(move.startS).toBeCloseTo(time, 9);
          expect(move.seconds).toBeCloseTo(seconds, 9);
          expect([move.from, move.to].every((v, i) => Math.abs(v - [now, to][i]) < 1e-9)).toBe(true);
          time += seconds;
          now = to;
        });
        expect(plan.durationS).toBeCloseTo(time, 9);
        expect(plan.axes).toEqual([{ joint, startS: 0, seconds: expect.closeTo(time, 9) }]);
        // And so it is shown: each joint but this one stays, this one goes from move to move.
        const motion = homingMotion(plan, mechanism);
        for (const f of [0, 0.13, 0.5, 0.77, 1]) {
          const t = f * time;
          const q = poseAt(motion, t);
          const move = plan.moves.findLast((m) => m.startS <= t)!;
          const part = move.seconds > 0 ? Math.min(1, (t - move.startS) / move.seconds) : 1;
          q.forEach((v, s) => {
            const expected = s === slot ? (move.from + part * (move.to - move.from)) * unit : start[s];
            expect(v).toBeCloseTo(expected, 9);
          });
        }
      }),
      { numRuns: 120 },
    );
  });
  it('of a joint that is not there is left out, and waits of nobody or of itself are none', () => {
    const { rig, mechanism } = arms.find(({ mechanism: m }) => limited(m).length > 2)!;
    const [a, b] = limited(mechanism);
    const [one, two] = [mechanism.slotIds[a], mechanism.slotIds[b]];
    const at = within(mechanism, a, 0.4) / mechanism.siPerUnit[a];
    const plan = planHoming(
      {
        ...rig,
        homing: {
          ...rig.homing,
          axes: [
            axisOf('nobody', 0),
            axisOf(one, at, { waits: { nobody: 3, [one]: 5, [two]: mechanism.home[b] / mechanism.siPerUnit[b] } }),
          ],
        },
      },
      mechanism,
      mechanism.home,
    );
    expect(plan.axes.map((axis) => axis.joint)).toEqual([one]);
    expect(plan.moves.filter((m) => m.act === 'wait pose').map((m) => m.joint)).toEqual([two]);
  });
});

describe('axes one after the other', () => {
  it('begin when all before are done, or with the one before; what if is the same with the flags set by hand', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...arms.filter(({ mechanism }) => limited(mechanism).length > 2)),
        fc.array(fc.boolean(), { minLength: 9, maxLength: 9 }),
        fc.array(share, { minLength: 9, maxLength: 9 }),
        ({ rig, mechanism }, flags, shares) => {
          const slots = limited(mechanism).slice(0, 9);
          const own = slots.map((s, k) =>
            axisOf(mechanism.slotIds[s], within(mechanism, s, shares[k]) / mechanism.siPerUnit[s], {
              together: flags[k],
              fast: 5 + 10 * k,
            }),
          );
          const planned = (list: HomingAxis[]) =>
            planHoming({ ...rig, homing: { ...rig.homing, axes: list } }, mechanism, mechanism.home);
          const plan = planned(own);
          let [begun, done] = [0, 0];
          // Joints of one transmission share their motors: one after the other, whatever is wished.
          const tieOf = (joint: string): string | undefined =>
            rig.transmissions.find((t) => (t.joints as readonly string[]).includes(joint))?.id;
          let ties: (string | undefined)[] = [];
          plan.axes.forEach((axis, k) => {
            const tie = tieOf(axis.joint);
            if (k === 0 || !own[k].together || (tie !== undefined && ties.includes(tie))) {
              begun = done;
              ties = [];
            }
            ties.push(tie);
            expect(axis.startS).toBeCloseTo(begun, 9);
            const last = plan.moves.filter((m) => m.axis === axis.joint).at(-1)!;
            expect(axis.startS + axis.seconds).toBeCloseTo(last.startS + last.seconds, 9);
            done = Math.max(done, axis.startS + axis.seconds);
          });
          expect(plan.durationS).toBeCloseTo(done, 9);
          const whole = { ...rig, homing: { ...rig.homing, axes: own } };
          const all = (together: boolean) => planned(own.map((axis) => ({ ...axis, together }))).durationS;
          expect(homingWhatIf(whole, mechanism, mechanism.home)).toEqual({
            oneByOne: all(false),
            asSet: plan.durationS,
            together: all(true),
          });
        },
      ),
      { numRuns: 40 },
    );
  });
});

describe('homing as it is proposed', () => {
  it('seeks at a quarter of the joint’s speed and an eighth of that, the end nearer to rest, one by one', () => {
    for (const { rig, mechanism } of arms)
      for (const id of mechanism.slotIds) {
        const slot = mechanism.slotOf.get(id)!;
        const unit = mechanism.siPerUnit[slot];
        const axis = proposeHoming(rig, mechanism, id);
        const speed = mechanism.speed[slot] / unit / 4;
        expect(Math.abs(axis.fast - speed)).toBeLessThanOrEqual(speed < 1 ? 1 : 0.5 + 1e-9);
        expect(Math.abs(axis.slow - axis.fast / 8)).toBeLessThanOrEqual(axis.fast < 4 ? 0.5 : 0.05 + 1e-9);
        expect(axis).toMatchObject({ joint: id, spread: 0, waits: {}, together: false, switchKind: 'mechanical' });
        const rest = restPose(rig, mechanism)[slot] / unit;
        const [low, high] = [mechanism.lower[slot] / unit, mechanism.upper[slot] / unit];
        if (axis.by === 'switch' && Number.isFinite(high - low)) {
          expect(axis.end).toBe(high - rest < rest - low ? 'max' : 'min');
          expect(axis.at).toBeCloseTo(axis.end === 'min' ? low : high, 3);
        }
      }
  });
  it('by the switch that carries the joint’s name and goes in, whichever others there are', () => {
    const rig = structuredClone(kilnLoader()) as Rig;
    const mechanism = compiled(rig.mechanism);
    const input = rig.signals.find((s) => s.way === 'in')!;
    const signal = (id: string, way: 'in' | 'out') => ({ ...input, id, name: id, way });
    rig.signals = [signal('turn-lamp', 'out'), signal('elbow-end', 'in'), signal('turn-end', 'in')];
    rig.sensors = [];
    expect(proposeHoming(rig, mechanism, 'turn')).toMatchObject({ by: 'switch', signal: 'turn-end' });
    expect(proposeHoming(rig, mechanism, 'elbow')).toMatchObject({ by: 'switch', signal: 'elbow-end' });
    expect(proposeHoming(rig, mechanism, 'nod').signal).toBeNull();
    rig.signals = [signal('turn-lamp', 'out')];
    expect(proposeHoming(rig, mechanism, 'turn').signal).toBeNull();
  });
  it('is asked of every joint that has one motor which only counts', () => {
    const rig = structuredClone(kilnLoader()) as Rig;
    const mechanism = compiled(rig.mechanism);
    const servo = tileDipper().drives.find((d) => d.kind === 'servo')!;
    const counts = (id: string): boolean =>
      rig.transmissions.some(
        (t) =>
          (t.joints as readonly string[]).includes(id) &&
          t.drives.some((d) => ['stepper', 'dc-encoder'].includes(rig.drives.find((o) => o.id === d)!.kind)),
      );
    for (let k = 0; k <= rig.drives.length; k++) {
      expect(jointsToHome(rig, mechanism)).toEqual([...mechanism.slotIds].filter(counts).reverse());
      if (k < rig.drives.length) rig.drives[k] = { ...servo, id: rig.drives[k].id, name: rig.drives[k].name };
    }
    expect(jointsToHome({ ...rig, drives: [], transmissions: [] }, mechanism)).toEqual([]);
  });
});

describe('what a supply gives while motors come on', () => {
  /** Amps of a motor `t` s after its own power came. */
  const draws = (drive: Rig['drives'][number], t: number, seconds: number, limp: boolean): number => {
    const full = drive.stallA ?? drive.movingA ?? 0;
    if (t < 0) return 0;
    if (limp) return drive.idleA ?? 0;
    return t < 0.15 ? full : t < seconds ? (drive.movingA ?? 0) : (drive.idleA ?? 0);
  };
  const amps = fc.constantFrom(null, 0, 0.2, 0.7, 1.4, 2.1);
  it('is at most what is said: by the plan at every moment, and all at once', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...arms.filter(({ rig }) => rig.drives.length && rig.rails.length)),
        fc.array(fc.record({ stallA: amps, movingA: amps, idleA: amps }), { minLength: 12, maxLength: 12 }),
        fc.array(fc.constantFrom('neutral', 'limp', 'hold'), { minLength: 12, maxLength: 12 }),
        fc.constantFrom(20, 100, 400),
        fc.integer({ min: 0, max: 3 }),
        ({ rig, mechanism }, figures, does, gapMs, off) => {
          const own: Rig = {
            ...rig,
            drives: rig.drives.map((d, k) => ({ ...d, ...figures[k % 12] }) as Rig['drives'][number]),
            wiring: rig.wiring.map((w, k) => (k === off ? { ...w, rail: null } : w)),
            powerUp: {
              ...rig.powerUp,
              gapMs,
              at: Object.fromEntries(rig.drives.map((d, k) => [d.id, does[k % 12]])) as Rig['powerUp']['at'],
            },
          };
          const plan = planPowerUp(own, mechanism, own.builds[0]);
          own.rails.forEach((rail, r) => {
            const on = plan.starts.flatMap((start) =>
              start.maps
                .filter(({ drive }) => own.wiring.find((w) => w.drive === drive.id)?.rail === rail.id)
                .map(({ drive }) => ({ drive, ...start })),
            );
            const at = (t: number): number =>
              on.reduce((sum, m) => sum + draws(m.drive, t - m.atS, m.seconds, m.does === 'limp'), 0);
            const said = plan.rails[r];
            let most = 0;
            for (let t = 0; t <= plan.durationS + 0.5; t += 0.01) most = Math.max(most, at(t));
            for (const m of on) for (const t of [0, 0.15, m.seconds]) most = Math.max(most, at(m.atS + t));
            expect(said.plannedA).toBeCloseTo(most, 9);
            const once = on.reduce(
              (sum, m) => sum + (m.does === 'limp' ? (m.drive.idleA ?? 0) : (m.drive.stallA ?? m.drive.movingA ?? 0)),
              0,
            );
            expect(said.atOnceA).toBeCloseTo(once, 9);
            expect(said).toMatchObject({ railId: rail.id, name: rail.name, givesA: rail.amps, fuseA: rail.fuseA });
            const silent = on.filter(({ drive }) => !((drive.stallA ?? drive.movingA ?? 0) > 0));
            expect(said.unknown).toEqual(silent.map(({ drive }) => drive.name));
          });
        },
      ),
      { numRuns: 60 },
    );
  });
});

describe('joints as they come in', () => {
  it('take the time of their way at the speed that was set, the furthest joint of a motor counting', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...arms.filter(({ rig }) => rig.drives.length)),
        fc.array(share, { minLength: 16, maxLength: 16 }),
        fc.integer({ min: 5, max: 60 }),
        ({ rig, mechanism }, starts, maxDegPerS) => {
          const own = { ...rig, powerUp: { ...rig.powerUp, maxDegPerS } };
          const rest = poseOf(mechanism, [...starts, ...starts]);
          const plan = planPowerUp(own, mechanism, own.builds[0], true, rest);
          const motion = powerUpMotion(plan);
          for (const { atS, seconds, slots, from, to, does } of plan.starts) {
            slots.forEach((s, k) => expect(from[k]).toBe(rest[s]));
            const way = Math.max(...slots.map((s, k) => Math.abs(to[k] - from[k]) / mechanism.siPerUnit[s]));
            expect(seconds).toBeCloseTo(way / maxDegPerS, 9);
            if (does !== 'neutral') expect(to).toEqual(from);
            for (const f of [-0.2, 0, 0.3, 0.8, 1, 1.5]) {
              const q = poseAt(motion, atS + f * seconds);
              const part = seconds === 0 ? 1 : Math.min(1, Math.max(0, f));
              slots.forEach((s, k) => expect(q[s]).toBeCloseTo(from[k] + part * (to[k] - from[k]), 9));
            }
          }
          expect(plan.durationS).toBeCloseTo(Math.max(0, ...plan.starts.map((s) => s.atS + s.seconds)), 9);
        },
      ),
      { numRuns: 40 },
    );
  });
});

describe('findings of motors', () => {
  it('are told where they are, in the joint’s own unit', () => {
    const rig = structuredClone(kilnLoader()) as Rig;
    const mechanism = compiled(rig.mechanism);
    const slides = rig.transmissions.filter((t) =>
      t.joints.some((id) => mechanism.units[mechanism.index.get(id)!] === 'mm'),
    );
    expect(slides.length).toBeGreaterThan(0);
    const fast = { ...rig, drives: rig.drives.map((d) => (d.kind === 'stepper' ? { ...d, maxStepHz: 10 } : d)) };
    const over = checkDrives(fast, mechanism, fast.builds[0]).filter((f) => f.code === 'step-rate-over');
    expect(over.length).toBeGreaterThan(3);
    for (const { data, place } of over) {
      const j = mechanism.index.get(place.joint!)!;
      const slot = mechanism.slotOf.get(place.joint!)!;
      const drive = fast.drives.find((d) => d.id === place.drive)!;
      expect(place.station).toBe('motors');
      expect(data).toMatchObject({ joint: mechanism.names[j], drive: drive.name, max: 10 });
      expect(data.unit).toBe(mechanism.units[j] === 'mm' ? 'mm/s' : '°/s');
      // At the speed it names the steps would come at the most there may be.
      const own = mechanism.speed[slot] / mechanism.siPerUnit[slot];
      expect((data.speed as number) / own).toBeCloseTo(10 / (data.value as number), 9);
    }
    const none = { ...rig, transmissions: [], drives: [], wiring: [] };
    const without = checkDrives(none, mechanism, none.builds[0]).filter((f) => f.code === 'joint-without-motor');
    expect(without.map((f) => f.place)).toEqual(mechanism.slotIds.map((joint) => ({ station: 'motors', joint })));
  });
});
