import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { standing } from '@cork-elbow/core/admit';
import { Channels } from '@cork-elbow/core/commands';
import { seededRandom } from '@cork-elbow/core/linear';
import { poseAt } from '@cork-elbow/core/motion';
import { RoutineRun } from './activities/routine';
import {
  asked,
  bench,
  changes,
  end,
  extremes,
  lit,
  moving,
  output,
  rigs,
  step,
  turnTo,
  type Bench,
} from './bench.testkit';
import { PERIOD } from './pacer';
import { prepareRun } from './prepare';

describe('a run gone through step by step', () => {
  it('stands where steps end, keeps to its way and to every joint’s limits, however it is stepped, and ends as it would have', () => {
    let [runs, backs] = [0, 0];
    fc.assert(
      fc.property(fc.nat(rigs.length - 1), fc.integer({ min: 1, max: 1e9 }), fc.boolean(), (k, seed, blends) => {
        const random = seededRandom(seed);
        const [name, plain] = rigs[k];
        const rig = moving(plain, random, false);
        if (blends) for (const each of rig.routines[0].steps) Object.assign(each, { blendMm: 25 });
        const stands = standing(rig, rig.builds[0].id);
        if (!stands.ok) return;
        const course = prepareRun(asked(rig), rig, () => stands.mechanism.home);
        if (!course.ok) return;
        runs++;
        const { mechanism, motion, plan, lead } = course;
        const run = new RoutineRun(
          'x',
          'moves',
          course,
          new Channels(rig, mechanism, course.build),
          [],
          undefined,
          undefined,
          true,
        );
        const ends = [lead, ...plan.steps.map(({ endS }) => lead + endS)];
        let now = 0;
        const poses: Float64Array[] = [run.pointAt(now).pose!.slice()];
        const beat = (): void => {
          now += PERIOD;
          if (run.isMoving) run.beat(now);
          poses.push(run.pointAt(now).pose!.slice());
        };
        const timeOf = (): number => run.planTime() + lead;
        for (let k = 0; run.outcome(now) === null && k < 60_000; k++) {
          const may = run.steps;
          if (may) {
            const at = timeOf();
            if (run.planTime() > 0) expect(Math.min(...ends.map((e) => Math.abs(e - at)))).toBeLessThan(1e-6);
            // It stands.
            const before = poses.at(-1)!;
            beat();
            expect(poses.at(-1)).toEqual(before);
            const draw = random();
            if (draw < 0.1) run.resume();
            else if (draw < 0.45 && may.back) {
              backs++;
              expect(run.step(-1)).toBe(true);
            } else expect(run.step(1)).toBe(true);
            if (!may.back) expect(at).toBeLessThanOrEqual(lead + 1e-6);
          } else beat();
          // Wherever it goes, it is on the way that was planned.
          const there = poseAt(motion, Math.min(motion.durationS, run.planTime() > 0 ? timeOf() : lead));
          if (run.planTime() > 0)
            for (let s = 0; s < mechanism.m; s++) expect(poses.at(-1)![s]).toBeCloseTo(there[s], 9);
        }
        expect(run.outcome(now)).toBe('finished');
        expect([...poses.at(-1)!]).toEqual([...poseAt(motion, motion.durationS)]);
        for (let s = 0; s < mechanism.m; s++) {
          const [speed, accel] = extremes(poses, s);
          expect(speed, `${name} ${s}`).toBeLessThanOrEqual(mechanism.speed[s] * 1.001 + 1e-9);
          // As where it is paused: what slows down adds to what the motion itself asks for.
          expect(accel, `${name} ${s}`).toBeLessThanOrEqual(2.3 * mechanism.accel[s] + 1e-6);
        }
      }),
      { numRuns: 24 },
    );
    expect(runs).toBeGreaterThan(8);
    expect(backs).toBeGreaterThan(10);
  });

  const stands = (b: Bench): void => {
    for (let k = 0; k < 500 && !b.loop.state.steps; k++) b.to(20);
    expect(b.loop.state.steps, b.loop.state.notice).not.toBeNull();
  };
  const started = (rig: ReturnType<typeof lit>): Bench => {
    const b = bench(rig);
    b.loop.start({ ...asked(rig, 'lit'), stepwise: true }, rig, b.now);
    stands(b);
    return b;
  };
  const go = (b: Bench, way: 'on' | 'back'): void => {
    b.loop.step(way, b.now());
    b.to(40);
    stands(b);
    // What rides on the last point is done as that is reached.
    b.to(200);
  };

  it('switches outputs as it comes by, each time anew, and undoes none on its way back', () => {
    const rig = lit([
      turnTo('a', 10),
      output('o', 'lamp', true),
      turnTo('c', -10),
      output('p', 'lamp', false),
      turnTo('q', 0),
    ]);
    const b = started(rig);
    expect(b.loop.state.steps).toEqual({ on: true, back: false });
    b.loop.step('back', b.now());
    expect(b.refusals()).toEqual(['step-no-back']);
    go(b, 'on');
    go(b, 'on');
    expect(changes(b).map(({ id, on }) => [id, on])).toEqual([
      ['lamp', true],
      ['lamp', false],
    ]);
    go(b, 'back');
    go(b, 'back');
    expect(b.loop.state.steps).toEqual({ on: true, back: false });
    expect(changes(b)).toHaveLength(2);
    b.loop.resume(b.now());
    end(b);
    expect(b.loop.state.run).toBe('finished');
    expect(changes(b).filter(({ id }) => id === 'lamp')).toHaveLength(4);
  });
  it('comes by again and again where it goes round for ever', () => {
    const rig = lit([
      step('r', 'repeat', { times: null }),
      turnTo('a', 10),
      output('o', 'lamp', true),
      turnTo('b', -10),
      output('p', 'lamp', false),
      step('e', 'end'),
    ]);
    const b = started(rig);
    const stood: number[] = [];
    for (let k = 0; k < 9; k++) {
      go(b, 'on');
      stood.push(b.pose()[0]);
    }
    // To and fro, one stand a step.
    const [first, second] = [Math.max(...stood), Math.min(...stood)];
    expect(first - second).toBeCloseTo((20 * Math.PI) / 180, 3);
    stood.forEach((at, k) => expect(at).toBeCloseTo(k % 2 ? second : first, 6));
    go(b, 'back');
    expect(b.pose()[0]).toBeCloseTo(second, 6);
    expect(changes(b).filter(({ id }) => id === 'lamp').length).toBeGreaterThanOrEqual(9);
  });
  it('does not go back behind what was let go, swapped or decided by an input', () => {
    const rig = lit([
      turnTo('a', 10),
      step('l', 'let-go', { joints: ['elbow'] }),
      step('h', 'hold', { joints: ['elbow'] }),
      turnTo('b', -10),
      step('i', 'if', { when: { signal: 'door', is: true } }),
      step('e', 'end'),
      turnTo('c', 5),
    ]);
    const b = started(rig);
    go(b, 'on');
    go(b, 'on');
    go(b, 'back');
    expect(b.loop.state.steps?.back).toBe(false);
    b.loop.step('back', b.now());
    expect(b.refusals()).toEqual(['step-no-back']);
    go(b, 'on');
    // What comes next is planned by what the input says, and begins with a stand.
    go(b, 'on');
    expect(b.loop.state.steps?.back).toBe(false);
    b.loop.step('on', b.now());
    end(b);
    expect(b.refusals()).toEqual(['step-no-back']);
  });
  it('is asked for only while it stands, and is stopped on its way like any other', () => {
    const rig = lit([turnTo('a', 15), turnTo('b', -15)]);
    const b = started(rig);
    b.loop.step('on', b.now());
    b.to(200);
    b.loop.step('on', b.now());
    b.loop.step('back', b.now());
    expect(b.refusals()).toEqual(['step-not-now', 'step-not-now']);
    stands(b);
    b.loop.step('back', b.now());
    b.to(300);
    expect(b.loop.state.steps).toBeNull();
    b.loop.stop(b.now());
    end(b);
    expect(b.loop.state).toMatchObject({ run: 'stopped', latched: true, steps: null });
    b.loop.step('on', b.now());
    expect(b.refusals().at(-1)).toBe('step-not-now');
  });
  it('paused on its way back stands, and goes on forwards from there', () => {
    const rig = lit([turnTo('a', 15), turnTo('b', -15)]);
    const b = started(rig);
    go(b, 'on');
    b.loop.step('back', b.now());
    b.to(300);
    b.loop.pause();
    b.to(20);
    b.loop.resume(b.now());
    stands(b);
    const at = b.loop.state.runS;
    expect(at).toBeGreaterThan(0.05);
    expect(at).toBeLessThan(0.88);
    b.loop.resume(b.now());
    end(b);
    expect(b.loop.state.run).toBe('finished');
  });
});
