import fc from 'fast-check';
import { describe, expect, it, vi } from 'vitest';
import { standing } from '@cork-elbow/core/admit';
import { seededRandom } from '@cork-elbow/core/linear';
import { poseAt } from '@cork-elbow/core/motion';
import { planMotion, planRoutine, type PlanEvent } from '@cork-elbow/core/routine';
import type { Rig } from '@cork-elbow/core/rig';
import { kilnLoader } from '@cork-elbow/demo';
import { bench, changes, end, lit, output, signals, step, turnTo, type Bench, type Step } from './bench.testkit';

const either = (id: string, is: boolean) => step(id, 'if', { when: { signal: 'door', is } });
const otherwise = (id: string) => step(id, 'else');
const stop = (id: string) => step(id, 'end');
const begin = (b: Bench, rig: Rig, routineId = 'lit', fromStep?: string): void =>
  b.loop.start(
    { id: 'x', rigId: 'r', revision: 1, buildId: 'b1', routineId, ...(fromStep ? { fromStep } : {}) },
    rig,
    () => b.now(),
  );
const hold = (b: Bench, on: boolean): void => {
  b.loop.force('door', on);
  b.to(120);
};

/** Steps with ways of their own by the door, a lamp that says which was taken, repeats and counters. */
function ways(random: () => number, prefix: string, depth = 0): Rig['routines'][number]['steps'] {
  const pick = (n: number): number => Math.floor(random() * n);
  return Array.from({ length: 1 + pick(3) }, (_, k) => {
    const id = `${prefix}${k}`;
    switch (pick(depth < 2 ? 5 : 2)) {
      case 0:
        return [turnTo(id, Math.round(30 * (random() - 0.5)))];
      case 1:
        return [output(id, random() < 0.5 ? 'lamp' : 'pump', random() < 0.5)];
      case 2:
        return [either(id, random() < 0.5), ...ways(random, `${id}-`, depth + 1), stop(`${id}e`)];
      case 3:
        return [
          either(id, random() < 0.5),
          ...ways(random, `${id}-`, depth + 1),
          otherwise(`${id}o`),
          ...ways(random, `${id}_`, depth + 1),
          stop(`${id}e`),
        ];
      default:
        return [step(id, 'repeat', { times: 2 }), ...ways(random, `${id}-`, depth + 1), stop(`${id}e`)];
    }
  }).flat();
}
/** Levels of outputs one after the other, each only where it changes; off as it begins. */
function switchedBy(events: readonly PlanEvent[]): string[] {
  const at = new Map<string, boolean>();
  return events.flatMap((event) => {
    if (event.kind !== 'output' || (at.get(event.signal) ?? false) === event.on) return [];
    at.set(event.signal, event.on);
    return [`${event.signal} ${event.on}`];
  });
}

describe('a run whose way depends on an input', () => {
  it('takes the way that is planned for what the input says, whatever the steps', () => {
    let asked = 0;
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e9 }), fc.boolean(), (seed, door) => {
        const rig = lit([...ways(seededRandom(seed), 's'), turnTo('last', 12)]);
        const stands = standing(rig, 'b1');
        if (!stands.ok) throw new Error('not admitted');
        const { mechanism, build } = stands;
        const plan = planRoutine(rig, mechanism, build, rig.routines[0], { inputs: { door } });
        asked += plan.events.filter(({ kind }) => kind === 'input').length;
        const b = bench(rig);
        hold(b, door);
        begin(b, rig);
        end(b);
        expect([b.refusals(), b.loop.state.notice]).toEqual([[], '']);
        expect(b.loop.state.run).toBe('finished');
        const there = poseAt(planMotion(plan), plan.durationS);
        b.pose().forEach((v, s) => expect(v).toBeCloseTo(there[s], 3));
        expect(b.loop.state.runS).toBeCloseTo(plan.durationS, 6);
        // What came and went between two looks is not seen: only the last of each counts then.
        const last = new Map(switchedBy(plan.events).map((word) => word.split(' ') as [string, string]));
        const now = signals(b);
        for (const [id, on] of last) expect(`${now[id]}`, id).toBe(on);
      }),
      { numRuns: 14 },
    );
    expect(asked).toBeGreaterThan(10);
  });
  it('reads the input once the arm stands where it is asked, not before', () => {
    const rig = lit([turnTo('a', 30), either('i', true), output('on', 'lamp', true), stop('e'), turnTo('b', 0)]);
    for (const late of [false, true]) {
      const b = bench(rig);
      hold(b, !late);
      begin(b, rig);
      // It changes while the last of the way there is queued and the arm still moves.
      const run = b.loop['run']!;
      while (run['askedAt'] === null) b.to(2);
      b.to(40);
      b.loop.force('door', late);
      end(b);
      expect(changes(b).some(({ id, on }) => id === 'lamp' && on)).toBe(late);
    }
  });
  it('polls an input for as long as it takes, lap after lap, and goes on', () => {
    const polling = (...pause: Step[]): Rig =>
      lit([
        step('m', 'marker', { name: 'again' }),
        ...pause,
        either('i', false),
        step('j', 'jump', { to: 'again' }),
        stop('e'),
        turnTo('a', 25),
      ]);
    // What asks without a pause is said to go round without waiting, and is not run.
    const rig = polling();
    const bare = bench(rig);
    begin(bare, rig);
    expect(bare.refusals()).toEqual(['run-refused']);
    const patient = polling(step('w', 'wait', { durationS: 0.1 }));
    const b = bench(patient);
    hold(b, false);
    begin(b, patient);
    b.to(20_000);
    expect(b.loop.state).toMatchObject({ run: 'running', notice: '' });
    b.loop.force('door', true);
    end(b);
    expect(b.loop.state.run).toBe('finished');
    expect(b.mechanism.slotIds.map((_, s) => b.pose()[s])[b.mechanism.slotOf.get('turn')!]).toBeCloseTo(
      (25 * Math.PI) / 180,
      2,
    );
  });
  const jumps = (): Rig =>
    lit([
      step('w', 'wait-input', { signal: 'door', is: true, timeoutS: 2, otherwise: { jump: 'no' } }),
      turnTo('a', 30),
      step('r', 'return'),
      step('m', 'marker', { name: 'no' }),
      turnTo('b', -30),
    ]);
  it.each([
    [true, 30],
    [false, -30],
  ])('jumps when the time of a wait is up, and not when it comes in time: door %s', (comes, to) => {
    const rig = jumps();
    const b = bench(rig);
    hold(b, false);
    begin(b, rig);
    while (!b.loop.state.waits) b.to(20);
    expect(b.loop.state).toMatchObject({ waits: { signal: 'door', is: true }, stepId: 'w' });
    b.to(1500);
    if (comes) b.loop.force('door', true);
    const before = b.now();
    while (b.loop.state.waits) b.to(20);
    if (!comes) expect(b.now() - before).toBeGreaterThan(300);
    end(b);
    expect(b.loop.state.run).toBe('finished');
    expect((b.pose()[b.mechanism.slotOf.get('turn')!] * 180) / Math.PI).toBeCloseTo(to, 1);
  });
  it('stands while it is paused where it waits, however long, and goes on from there', () => {
    const rig = jumps();
    const b = bench(rig);
    hold(b, false);
    begin(b, rig);
    while (!b.loop.state.waits) b.to(20);
    b.loop.pause();
    b.to(10_000);
    expect(b.loop.state.run).toBe('paused');
    // What comes and goes meanwhile is nothing to it.
    b.loop.force('door', true);
    b.to(1000);
    b.loop.force('door', false);
    b.to(200);
    b.loop.resume(b.now());
    b.to(1000);
    expect(b.loop.state).toMatchObject({ run: 'running', waits: { signal: 'door' } });
    b.loop.force('door', true);
    end(b);
    expect((b.pose()[b.mechanism.slotOf.get('turn')!] * 180) / Math.PI).toBeCloseTo(30, 1);
  });
  it('is not late for having planned what comes next', () => {
    const rig = jumps();
    const b = bench(rig);
    hold(b, false);
    begin(b, rig);
    while (!b.loop.state.waits) b.to(20);
    const run = b.loop['run']!;
    const goOn = vi.spyOn(run, 'goOn');
    b.loop.force('door', true);
    while (!goOn.mock.calls.length) b.to(2);
    b.skip(90);
    b.to(1000);
    expect(b.loop.state).toMatchObject({ run: 'running', notice: '' });
    expect(b.loop.state.late!.mostMs).toBeLessThan(20);
  });
  it('ends where it waits when it is stopped', () => {
    const rig = jumps();
    const b = bench(rig);
    hold(b, false);
    begin(b, rig);
    while (!b.loop.state.waits) b.to(20);
    b.loop.stop(b.now());
    end(b);
    expect(b.loop.state).toMatchObject({ run: 'stopped', waits: null });
  });
  it('begins with a step behind one that asks, and with one that does', () => {
    const rig = lit([
      either('i', true),
      turnTo('a', 30),
      otherwise('o'),
      turnTo('b', -30),
      stop('e'),
      turnTo('c', 10),
      either('j', true),
      turnTo('d', 20),
      stop('f'),
    ]);
    for (const [from, door, to] of [
      ['c', true, 20],
      ['c', false, 10],
      ['j', true, 20],
    ] as const) {
      const b = bench(rig);
      hold(b, door);
      begin(b, rig, 'lit', from);
      end(b);
      expect([b.loop.state.run, b.refusals()]).toEqual(['finished', []]);
      expect((b.pose()[b.mechanism.slotOf.get('turn')!] * 180) / Math.PI).toBeCloseTo(to, 1);
    }
  });
  it('ends with a sentence where what comes next cannot be run', () => {
    const rig = lit([either('i', true), turnTo('l', 300), otherwise('o'), turnTo('b', -30), stop('e')]);
    const b = bench(rig);
    hold(b, true);
    begin(b, rig);
    end(b);
    expect(b.loop.state.run).toBe('failed');
    expect(b.loop.state.notice).toMatch(/300|limit/);
  });
  it.each([true, false])('loads a shelf, or does not where the kiln’s door stays shut: door open %s', (open) => {
    const rig = kilnLoader() as Rig;
    const b = bench(rig);
    b.loop.home(null, b.now());
    for (let k = 0; k < 900 && b.loop.state.mode === 'homing'; k++) b.to(100);
    expect(b.loop.state.homed).toBe(true);
    hold(b, open);
    begin(b, rig, 'load');
    end(b);
    expect(b.loop.state).toMatchObject({ run: 'finished', notice: '' });
    expect(
      changes(b)
        .filter(({ id }) => id === 'vacuum' || id === 'lamp')
        .map(({ id, on }) => `${id} ${on}`),
    ).toEqual(open ? ['lamp true', 'vacuum true', 'vacuum false', 'lamp false'] : []);
  });
});
