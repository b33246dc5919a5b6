import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { signalPins } from '@cork-elbow/core/commands';
import { standing } from '@cork-elbow/core/admit';
import { parseRig, type Rig } from '@cork-elbow/core/rig';
import { planRoutine } from '@cork-elbow/core/routine';
import { seededRandom } from '@cork-elbow/core/linear';
import { kilnLoader, tileDipper } from '@cork-elbow/demo';
import { bench, type Bench } from './bench.testkit';

type Step = Rig['routines'][number]['steps'][number];
const own = { enabled: true, note: '' };
const move = (id: string, turn: number): Step =>
  ({ ...own, id, kind: 'joint-move', pace: { durationS: 0.9 }, target: { joints: { turn } } }) as Step;
const output = (id: string, signal: string, on: boolean): Step =>
  ({ ...own, id, kind: 'output', signal, on }) as Step;

/** The dipper with a lamp that is on at a high level and a pump that is on at a low one, and a routine of these steps. */
function lit(steps: Step[]): Rig {
  const rig = structuredClone(tileDipper()) as Rig;
  const [board] = rig.boards;
  // A few more like its last pin, which is a plain one.
  const plain = board.pins.at(-1)!;
  const free = [60, 61, 62];
  board.pins.push(...free.map((pin) => ({ ...plain, pin, label: `${pin}` })));
  const signal = (id: string, way: 'in' | 'out', k: number, activeLow: boolean): Rig['signals'][number] =>
    ({
      ...{
        id,
        name: id,
        way,
        board: board.id,
        channel: free[k],
        activeLow,
        pull: activeLow ? 'up' : 'down',
        note: '',
      },
    }) as never;
  const parsed = parseRig({
    ...rig,
    homing: { ...rig.homing, axes: [] },
    signals: [signal('lamp', 'out', 0, false), signal('pump', 'out', 1, true), signal('door', 'in', 2, true)],
    routines: [{ ...rig.routines[0], id: 'lit', name: 'Lit', steps }],
  });
  if (!parsed.ok) throw new Error(parsed.faults[0].message);
  return parsed.value;
}
const run = (b: Bench, rig: Rig, fromStep?: string): void =>
  b.loop.start(
    { id: 'x', rigId: 'r', revision: 1, buildId: 'b1', routineId: 'lit', ...(fromStep ? { fromStep } : {}) },
    rig,
    () => b.now(),
  );
/** Whether signals are on, by telemetry, each time that one of them changes. */
function changes(b: Bench): { at: number; id: string; on: boolean }[] {
  const last = new Map<string, boolean>();
  return b.events.flatMap((event) => {
    if (event.type !== 'telemetry') return [];
    const { signals, runS } = event.telemetry;
    return Object.entries(signals).flatMap(([id, on]) => {
      const before = last.get(id);
      last.set(id, on);
      return before === undefined || before === on ? [] : [{ at: runS, id, on }];
    });
  });
}
const signals = (b: Bench): Record<string, boolean> => {
  b.to(120);
  const last = b.events.findLast((e) => e.type === 'telemetry');
  return last?.type === 'telemetry' ? last.telemetry.signals : {};
};
const end = (b: Bench): void => {
  for (let k = 0; k < 2000 && !['finished', 'failed', 'stopped'].includes(b.loop.state.run); k++) b.to(50);
};

describe('outputs of a run', () => {
  it('are switched when the plan says, each time, whatever the steps; on is on at whichever level', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e9 }), (seed) => {
        const random = seededRandom(seed);
        const steps = Array.from({ length: 12 }, (_, k) => {
          const dice = random();
          if (dice < 0.5) return move(`s${k}`, Math.round(40 * random() - 20));
          return output(`s${k}`, dice < 0.75 ? 'lamp' : 'pump', random() < 0.5);
        });
        const rig = lit([...steps, move('last', 5)]);
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
    const rig = lit([output('a', 'pump', true), move('b', 10), output('c', 'lamp', true), move('d', -10)]);
    const b = bench(rig);
    run(b, rig, 'd');
    end(b);
    expect(signals(b)).toEqual({ lamp: false, pump: false, door: false });
    run(b, rig, 'c');
    end(b);
    expect(signals(b)).toEqual({ lamp: true, pump: false, door: false });
  });

  it('stay as they are when it is stopped, and are off once the board is disarmed', () => {
    const rig = lit([output('a', 'pump', true), move('b', 10), move('c', -10), output('d', 'pump', false)]);
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
      move('b', 6),
      output('c', 'lamp', false),
      move('d', -6),
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
    const rig = lit([output('a', 'lamp', true), move('b', 10)]);
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
    const rig = lit([move('a', 10), wait('w', true), output('c', 'lamp', true), move('d', -10), wait('e', false)]);
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
        move('a', 10),
        wait('w', true, { timeoutS: 2, otherwise }),
        output('c', 'lamp', true),
        move('d', 0),
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
      move('a', 6),
      wait('w', true),
      move('b', -6),
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
    const rig = lit([move('a', 10), wait('w', false), move('d', 0)]);
    const b = bench(rig);
    run(b, rig);
    end(b);
    expect(b.loop.state).toMatchObject({ run: 'finished' });
    const led = lit([move('a', 10), wait('w', true, { timeoutS: 1, otherwise: { jump: 'x' } }), move('d', 0)]);
    run(b, led);
    expect(b.refusals()).toEqual(['run-refused']);
  });
});

describe('inputs and outputs by hand', () => {
  it('are switched while the arm is armed and idle, and held where the board is simulated', () => {
    const rig = lit([move('b', 10)]);
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
    const rig = lit([move('b', 10)]);
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
