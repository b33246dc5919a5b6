import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { signalPins } from '@cork-elbow/core/commands';
import { standing } from '@cork-elbow/core/admit';
import type { Rig } from '@cork-elbow/core/rig';
import { planRoutine } from '@cork-elbow/core/routine';
import { seededRandom } from '@cork-elbow/core/linear';
import { kilnLoader } from '@cork-elbow/demo';
import { bench, changes, end, lit, output, own, signals, turnTo, type Bench, type Step } from './bench.testkit';

const run = (b: Bench, rig: Rig, fromStep?: string): void =>
  b.loop.start(
    { id: 'x', rigId: 'r', revision: 1, buildId: 'b1', routineId: 'lit', ...(fromStep ? { fromStep } : {}) },
    rig,
    () => b.now(),
  );
describe('outputs of a run', () => {
  it('are switched when the plan says, each time, whatever the steps; on is on at whichever level', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e9 }), (seed) => {
        const random = seededRandom(seed);
        const steps = Array.from({ length: 12 }, (_, k) => {
          const dice = random();
          if (dice < 0.5) return turnTo(`s${k}`, Math.round(40 * random() - 20));
          return output(`s${k}`, dice < 0.75 ? 'lamp' : 'pump', random() < 0.5);
        });
        const rig = lit([...steps, turnTo('last', 5)]);
        const known = standing(rig, 'b1');
        if (!known.ok) throw new Error('not admitted');
        const { events } = planRoutine(rig, known.mechanism, known.build, rig.routines[0]);
        const b = bench(rig);
        expect(signals(b)).toEqual({ lamp: false, pump: false, door: false });
        b.loop.tellEvery = 2;
        run(b, rig);
        expect(b.events.filter((e) => e.type === 'refused')).toEqual([]);
        end(b);
        expect(b.loop.state).toMatchObject({ run: 'finished', notice: '' });
        // What the plan would be seen to do: of what happens at one moment only what differs.
        const state: Record<string, boolean> = { lamp: false, pump: false };
        const wanted = events.flatMap((event) => {
          if (event.kind !== 'output' || state[event.signal] === event.on) return [];
          state[event.signal] = event.on;
          return [{ timeS: event.timeS, id: event.signal, on: event.on }];
        });
        const seen = changes(b);
        for (const id of ['lamp', 'pump']) {
          const asked = wanted.filter((e) => e.id === id);
          const done = seen.filter((e) => e.id === id);
          expect(done.map(({ on }) => on)).toEqual(asked.map(({ on }) => on));
          // Within the queue, its reports, and points that what switches twice at one moment waits for.
          done.forEach(({ at }, k) => {
            const { timeS } = asked[k];
            expect(at).toBeGreaterThan(timeS - 0.05);
            if (timeS < done.at(-1)!.at - 1) expect(at).toBeLessThan(timeS + 0.35);
          });
        }
        expect(signals(b)).toMatchObject(state);
      }),
      { numRuns: 12 },
    );
  });

  it('begun at a step, does not do again what was before it', () => {
    const rig = lit([output('a', 'pump', true), turnTo('b', 10), output('c', 'lamp', true), turnTo('d', -10)]);
    const b = bench(rig);
    run(b, rig, 'd');
    end(b);
    expect(signals(b)).toEqual({ lamp: false, pump: false, door: false });
    run(b, rig, 'c');
    end(b);
    expect(signals(b)).toEqual({ lamp: true, pump: false, door: false });
  });

  it('stay as they are when it is stopped, and are off once the board is disarmed', () => {
    const rig = lit([output('a', 'pump', true), turnTo('b', 10), turnTo('c', -10), output('d', 'pump', false)]);
    const b = bench(rig);
    run(b, rig);
    for (let k = 0; k < 400 && !signals(b).pump; k++) b.to(20);
    b.loop.stop(b.now());
    end(b);
    expect(b.loop.state.run).toBe('stopped');
    expect(signals(b).pump).toBe(true);
    b.loop.disarm(b.now());
    expect(signals(b).pump).toBe(false);
  });

  it('go round with a routine that has no end', () => {
    const rig = lit([
      { ...own, id: 'r', kind: 'repeat', times: null } as never,
      output('a', 'lamp', true),
      turnTo('b', 6),
      output('c', 'lamp', false),
      turnTo('d', -6),
      { ...own, id: 'e', kind: 'end' } as never,
    ]);
    const b = bench(rig);
    run(b, rig);
    expect(b.refusals()).toEqual([]);
    b.to(20_000);
    const lamp = changes(b).filter(({ id }) => id === 'lamp');
    expect(lamp.length).toBeGreaterThan(12);
    lamp.forEach(({ on }, k) => expect(on).toBe(k % 2 === 0));
  });

  it('on no pin are told of before it begins', () => {
    const rig = lit([output('a', 'lamp', true), turnTo('b', 10)]);
    const off = { ...rig, signals: rig.signals.map((s) => (s.id === 'lamp' ? { ...s, channel: null } : s)) };
    const b = bench(off);
    run(b, off);
    expect(b.refusals()).toEqual(['run-refused']);
    expect(signals(b)).toEqual({ pump: false, door: false });
  });
});

describe('waits of a run', () => {
  const wait = (id: string, is: boolean, more: object = {}): Step =>
    ({ ...own, id, kind: 'wait-input', signal: 'door', is, timeoutS: null, otherwise: 'stop', ...more }) as Step;
  /** Time of the run in which it waits: only then may it stand. */
  const waits = (b: Bench): boolean => b.loop.state.waits !== null;

  it('hold it where it is until the input is there, and nothing behind them is done before', () => {
    const rig = lit([
      turnTo('a', 10),
      wait('w', true),
      output('c', 'lamp', true),
      turnTo('d', -10),
      wait('e', false),
    ]);
    const b = bench(rig);
    run(b, rig);
    expect(b.refusals()).toEqual([]);
    for (let k = 0; k < 400 && !waits(b); k++) b.to(20);
    expect(b.loop.state).toMatchObject({ run: 'running', waits: { signal: 'door', is: true } });
    b.to(5000);
    const stood = b.pose();
    expect(b.loop.state.runS).toBeCloseTo(0.9, 1);
    expect(signals(b).lamp).toBe(false);
    expect([...b.pose()]).toEqual([...stood]);
    b.loop.force('door', true);
    b.to(500);
    expect(signals(b).lamp).toBe(true);
    for (let k = 0; k < 400 && !waits(b); k++) b.to(20);
    // The last step waits: the run is not over before it is there.
    b.to(3000);
    expect(b.loop.state).toMatchObject({ run: 'running', waits: { signal: 'door', is: false } });
    b.loop.force('door', null);
    end(b);
    expect(b.loop.state).toMatchObject({ run: 'finished', waits: null, notice: '' });
  });

  it('are over after their time, and the run goes on or ends as was chosen; paused, no time goes by', () => {
    for (const otherwise of ['go-on', 'stop'] as const) {
      const rig = lit([
        turnTo('a', 10),
        wait('w', true, { timeoutS: 2, otherwise }),
        output('c', 'lamp', true),
        turnTo('d', 0),
      ]);
      const b = bench(rig);
      run(b, rig);
      for (let k = 0; k < 400 && !waits(b); k++) b.to(20);
      b.loop.pause();
      b.to(6000);
      expect(b.loop.state.run).toBe('paused');
      b.loop.resume(b.now());
      b.to(1000);
      expect(waits(b)).toBe(true);
      end(b);
      expect(b.loop.state.run).toBe(otherwise === 'go-on' ? 'finished' : 'stopped');
      expect(signals(b).lamp).toBe(otherwise === 'go-on');
      if (otherwise === 'stop') expect(b.loop.state.notice).toMatch(/“door” was not on within 2 s/);
      expect(b.loop.state.armed).toBe(true);
    }
  });

  it('may be stopped, and come again each time round', () => {
    const rig = lit([
      { ...own, id: 'r', kind: 'repeat', times: null } as never,
      turnTo('a', 6),
      wait('w', true),
      turnTo('b', -6),
      wait('v', false),
      { ...own, id: 'e', kind: 'end' } as never,
    ]);
    const b = bench(rig);
    run(b, rig);
    expect(b.refusals()).toEqual([]);
    for (let k = 0; k < 9; k++) {
      for (let i = 0; i < 400 && b.loop.state.waits?.is !== (k % 2 === 0); i++) b.to(20);
      expect(b.loop.state.waits).toEqual({ signal: 'door', is: k % 2 === 0 });
      b.loop.force('door', k % 2 === 0);
      b.to(100);
    }
    for (let i = 0; i < 400 && !waits(b); i++) b.to(20);
    b.loop.stop(b.now());
    end(b);
    expect(b.loop.state).toMatchObject({ run: 'stopped', waits: null, armed: true });
  });

  it('for what is there already, take no time; those that lead elsewhere are refused before anything moves', () => {
    const rig = lit([turnTo('a', 10), wait('w', false), turnTo('d', 0)]);
    const b = bench(rig);
    run(b, rig);
    end(b);
    expect(b.loop.state).toMatchObject({ run: 'finished' });
    const led = lit([turnTo('a', 10), wait('w', true, { timeoutS: 1, otherwise: { jump: 'x' } }), turnTo('d', 0)]);
    run(b, led);
    expect(b.refusals()).toEqual(['run-refused']);
  });
});

describe('inputs and outputs by hand', () => {
  it('are switched while the arm is armed and idle, and held where the board is simulated', () => {
    const rig = lit([turnTo('b', 10)]);
    const b = bench(rig, false);
    const press = (signal: string, on: boolean): void => b.loop.switch(signal, on, b.now());
    press('lamp', true);
    expect(signals(b).lamp).toBe(false);
    b.loop.force('door', true);
    expect(signals(b).door).toBe(true);
    b.loop.force('door', null);
    expect(signals(b).door).toBe(false);
    b.loop.arm('hold', b.now());
    b.to(3000);
    press('lamp', true);
    press('pump', true);
    expect(signals(b)).toMatchObject({ lamp: true, pump: true });
    press('lamp', false);
    expect(signals(b)).toMatchObject({ lamp: false, pump: true });
    press('door', true);
    b.loop.force('lamp', true);
    run(b, rig);
    b.to(300);
    press('lamp', true);
    expect(b.refusals()).toEqual(['signal-busy', 'signal-unknown', 'force-real', 'signal-busy']);
  });

  it('that nothing holds at a level change at random', () => {
    const rig = lit([turnTo('b', 10)]);
    const floating = {
      ...rig,
      signals: rig.signals.map((s) => (s.id === 'door' ? { ...s, pull: 'none' as const } : s)),
    };
    const b = bench(floating, false);
    b.to(4000);
    expect(changes(b).filter(({ id }) => id === 'door').length).toBeGreaterThan(5);
    b.loop.force('door', true);
    b.to(200);
    const before = b.events.length;
    b.to(3000);
    const later = b.events.slice(before).flatMap((e) => (e.type === 'telemetry' ? [e.telemetry.signals.door] : []));
    expect(new Set(later)).toEqual(new Set([true]));
  });

  it('of the demo loader are all on pins', () => {
    const loader = kilnLoader();
    expect(signalPins(loader)).toHaveLength(loader.signals.length);
    const b = bench(loader, false);
    expect(Object.keys(signals(b)).sort()).toEqual(loader.signals.map(({ id }) => id).sort());
  });
});
