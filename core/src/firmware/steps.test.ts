import fc from 'fast-check';
import { describe as group, expect, it } from 'vitest';
import { demoRigs } from '../../../demo';
import { admit } from '../admit';
import { commandMaps, nativeAt, type DriveMap } from '../actuators';
import type { SimulatedInputs } from '../contract/inputs';
import { evaluateInto, profileKinds, profileOf, type Motion } from '../motion';
import type { MotionChoice, Rig, Routine } from '../rig';
import { flowOf, isFlow, planCommands, planRoutine, readInput, type Flow, type Plan } from '../routine';
import { changingInputs, orderlyRoutine } from '../routine/flow.testkit';
import { between } from '../units/between.testkit';
import { compile, live, type Happened } from './compiled.testkit';
import { homingOf, type HomingRecord } from './homing';
import { describe, lawOf, shareAt, sources, stepsOf, type Described, type Steps } from './index';
import { beginMs, setOf, toldNear, track } from './played.testkit';

/** What the steps of routines are on a board. */
function stepsFor(
  described: Described,
  routines: readonly { name: string; flow: Flow }[],
  of: Partial<Parameters<typeof stepsOf>[2]> = {},
): Steps {
  const choice = { motion: described.rig.motion, startMs: null, starts: [], watches: [], again: false, ...of };
  const steps = stepsOf(described, routines, choice);
  if (!('bytes' in steps)) throw new Error(JSON.stringify(steps));
  return steps;
}
const graph = (rig: Rig, described: Described, routine: Routine): Flow => {
  const flow = flowOf(rig, described.mechanism, routine);
  if (!isFlow(flow)) throw new Error(`${flow.why} at ${flow.index}`);
  return flow;
};

/** Holds what was sent from `begun` (µs) on against a motion; `lateS`: by how much the board may be early or late after t s. */
function compare(
  happened: readonly Happened[],
  described: Described,
  motion: Motion,
  begun: number,
  lateS: (t: number) => number,
  name: string,
  ends = true,
): number {
  let looked = 0;
  for (const [k, motor] of described.motors.entries()) {
    const told = track(happened, described, k);
    const room = motor.kind === 'stepper' ? 1 : 2;
    for (let t = 0; t <= motion.durationS; t += 0.02, looked++) {
      const [near, far] = toldNear(described, motor.map, motion, t, lateS(t));
      const got = told(begun + t * 1e6);
      if (got < near - room || got > far + room)
        throw new Error(
          `${name}: ${motor.map.drive.name} at ${t.toFixed(2)} s is told ${got}, not ${near} to ${far}`,
        );
    }
    if (!ends) continue;
    const [end] = toldNear(described, motor.map, motion, motion.durationS, 0);
    expect(told(Infinity), `${name}: ${motor.map.drive.name} at the end`).toBe(end);
  }
  return looked;
}

group('laws that a board works out by itself', () => {
  it('are those of the planner, for every profile, length and limit', () => {
    const out = new Float64Array(4);
    fc.assert(
      fc.property(
        fc.constantFrom(...profileKinds),
        between(0.2, 3),
        between(0.5, 20),
        between(1, 300),
        between(1, 4),
        between(0, 1),
        (kind, speed, accel, jerk, slow, at) => {
          const curve = profileOf(kind, 1, { speed, accel, jerk });
          const law = lawOf(curve, curve.duration * slow);
          expect(law, kind).not.toBeNull();
          evaluateInto(out, curve, at * curve.duration);
          const share = shareAt(law!, at * curve.duration * slow, curve.duration * slow);
          if (kind !== 'jump' || at > 0) expect(share).toBeCloseTo(out[0], 6);
        },
      ),
    );
  });
});

group('the compiled step player', () => {
  const routines = demoRigs().flatMap(({ id, rig }) =>
    (rig as Rig).routines.flatMap((r) =>
      r.steps.some(({ kind }) => kind === 'let-go') ? [] : [[id, r.id] as const],
    ),
  );
  it.each(routines)('of %s, %s: sends what the plan says: pulses within 2 µs, steps within 1', (id, routineId) => {
    const { described, motion, rig, routine, plan } = setOf(id, routineId);
    // Where the arm stands is known here.
    const steps = { ...stepsFor(described, [{ name: 'x', flow: graph(rig, described, routine) }]), homing: null };
    const program = compile(sources(described, 'steps', { kind: 'steps', steps }));
    const begun = beginMs(described, steps.routines[0].first) * 1000;
    const untilS = Math.min(60, motion.durationS);
    // What is waited for is there.
    const given = plan.events.flatMap((event) => {
      const signal = event.kind === 'input' && described.signals.find((each) => each.id === event.signal);
      return signal ? [`pin ${signal.pin} ${event.on ? signal.level : 1 - signal.level}`] : [];
    });
    const happened = live(program, [...given, '> g', `. ${Math.round(begun + untilS * 1e6 + 500_000)}`]).flatMap(
      (h) => h.happened,
    );
    const ends = plan.endlessFromS === null && untilS === motion.durationS;
    const seen: Motion = { ...motion, durationS: untilS };
    expect(compare(happened, described, seen, begun, () => 0.003, id, ends)).toBeGreaterThan(0);
  });
});

group('homing on the board', () => {
  const { described, rig, routine, motion } = setOf('kiln-shelf-loader', 'round');
  const ends = described.motors.map(({ map }) => toldNear(described, map, motion, motion.durationS, 0)[0]);
  const steps = stepsFor(described, [{ name: 'x', flow: graph(rig, described, routine) }]);
  const program = compile(sources(described, 'steps', { kind: 'steps', steps }));
  const homing = homingOf(described);
  if (!('records' in homing)) throw new Error(homing.why);
  /** Of each axis the motor that brings it to its switch at last, which way, and what it counts there. */
  const axes = rig.homing.axes.map((axis) => {
    const signal = described.signals.findIndex(({ id }) => id === axis.signal);
    const last = homing.records.findLastIndex((r) => r.kind === 'seek' && r.until?.signal === signal && r.until.on);
    const { motor: k, perS } = (homing.records[last] as Extract<HomingRecord, { kind: 'seek' }>).speeds[0];
    const count = homing.records.slice(last).find((r) => r.kind === 'count' && r.motor === k);
    const at = (count as Extract<HomingRecord, { kind: 'count' }>).value;
    return { axis, k, motor: described.motors[k], signal: described.signals[signal], at, way: Math.sign(perS) };
  });
  /** Switches of an arm that stands some steps from where it is believed to; `lost`: an axis whose switch never comes. */
  const orders = (off: readonly number[], lost = -1): string[] =>
    axes.map(({ motor, signal, at, way }, n) => {
      const count = n === lost ? way * 1e8 : at - motor.rest - off[n];
      return `switch ${signal.pin} ${signal.level} ${motor.pin} ${motor.second} ${way} ${count}`;
    });
  const stands = (heard: ReturnType<typeof live>): number[] => {
    const happened = heard.flatMap((part) => part.happened);
    return axes.map(({ k }) => track(happened, described, k)(Infinity));
  };
  it('finds where the arm really stands, wherever that is, and comes to where the routine begins', () => {
    expect(steps.homing).not.toBeNull();
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: -900, max: 900 }), { minLength: axes.length, maxLength: axes.length }),
        (off) => {
          const heard = live(program, [...orders(off), '. 1000000', '> g', '. 120000000', '> s', '. 1000000']);
          expect(heard.flatMap(({ lines }) => lines).filter((line) => line.includes('vain'))).toEqual([]);
          // What it counts is where the arm is: as many steps from where it stood as that was off.
          stands(heard).forEach((value, n) => {
            const { axis, k } = axes[n];
            expect(Math.abs(value + off[n] - ends[k]), axis.joint).toBeLessThanOrEqual(3);
          });
        },
      ),
      { numRuns: 4 },
    );
  });
  it('stands and says which motor where a switch never comes, and begins anew when it is told to', () => {
    const none = axes.map(() => 0);
    const heard = live(program, [...orders(none, 0), '. 1000000', '> g', '. 400000000', '. 5000000']);
    const said = heard.flatMap(({ lines }) => lines).filter((line) => line.startsWith('homing in vain'));
    expect(said).toHaveLength(1);
    expect(said[0]).toContain(`homing in vain ${axes[0].motor.channel}`);
    expect(heard.at(-1)!.happened).toEqual([]);
  });
});

const inputs = { 'in-a': 30, 'in-b': 31 } as const;
const outputs = { 'out-a': 32, 'out-b': 33 } as const;
const activeLow = new Set(['in-a', 'out-b']);
/** The dipper with two inputs and two outputs on pins of its board, and these routines. */
function dipper(routines: readonly Routine[], motion?: MotionChoice): Rig {
  const document = structuredClone(demoRigs().find(({ id }) => id === 'tile-dipper')!.rig) as Rig;
  const [board, ...others] = document.boards;
  const pins = Object.entries({ ...inputs, ...outputs });
  const more = pins.map(([id, pin]) => ({ pin, label: id, can: ['input', 'output'] }));
  const signals = pins.map(([id, channel]) => ({
    ...{ id, name: id, note: '', way: id.startsWith('in') ? 'in' : 'out', board: board.id, channel },
    ...(activeLow.has(id) && { activeLow: true }),
  }));
  return {
    ...document,
    ...(motion && { motion }),
    boards: [{ ...board, pins: [...board.pins, ...more] }, ...others],
    signals: [...document.signals, ...signals],
    routines: [...document.routines, ...routines],
  } as unknown as Rig;
}
const bare = admit(dipper([]));
if (!bare.ok) throw new Error(bare.faults[0].message);

group('routines of any order on the board', () => {
  const ids = { inputs: Object.keys(inputs), outputs: Object.keys(outputs) };
  const level = (id: string, on: boolean): number => Number(on !== activeLow.has(id));
  /** Orders that bring inputs to what they are when, from a board time (ms) on. */
  const ordersOf = (given: SimulatedInputs, begunMs: number, untilS: number): string[] => {
    const changes = Object.entries(given).flatMap(([id, input]) =>
      typeof input === 'object' ? input.changesS.map((t) => ({ id, t })) : [],
    );
    const orders = ids.inputs.map(
      (id) => `pin ${inputs[id as keyof typeof inputs]} ${level(id, readInput(given, id, 0))}`,
    );
    orders.push('> g');
    let now = 0;
    for (const { id, t } of changes.sort((a, b) => a.t - b.t)) {
      const at = begunMs * 1000 + Math.round(t * 1e6);
      orders.push(`. ${at - now}`, `pin ${inputs[id as keyof typeof inputs]} ${level(id, readInput(given, id, t))}`);
      now = at;
    }
    return [...orders, `. ${Math.max(1000, begunMs * 1000 + Math.round(untilS * 1e6) + 400_000 - now)}`];
  };
  const shifted = (given: SimulatedInputs, by: number): SimulatedInputs =>
    Object.fromEntries(
      Object.entries(given).map(([id, input]) => [
        id,
        typeof input === 'object' ? { ...input, changesS: input.changesS.map((t) => Math.max(0, t + by)) } : input,
      ]),
    );
  const way = ({ blocks, events }: Plan): string =>
    JSON.stringify([
      blocks.filter(({ block }) => block.kind !== 'hold').map(({ block }) => [...block.to]),
      events.map((event) => (event.kind === 'output' ? [event.signal, event.on] : event.kind)),
    ]);

  it('go where and when the planner goes, whatever inputs say and counters hold', () => {
    const { mechanism } = bare;
    const [sub, ...mains] = fc.sample(
      fc.tuple(
        orderlyRoutine(mechanism, ids),
        ...Array.from({ length: 9 }, () => orderlyRoutine(mechanism, { ...ids, calls: ['sub'] })),
      ),
      { seed: 20, numRuns: 1 },
    )[0];
    const routines = mains.map((routine, k) => ({ ...routine, id: `r${k}`, name: `r${k}` }));
    const admitted = admit(dipper([{ ...sub, id: 'sub', name: 'sub' }, ...routines]));
    if (!admitted.ok) throw new Error(admitted.faults[0].message);
    const { rig, build } = admitted;
    const described = describe(rig, admitted.mechanism, build, 'pwm', 1);
    const flows = routines.flatMap((routine) => {
      const flow = flowOf(rig, admitted.mechanism, routine);
      return isFlow(flow) ? [{ name: routine.name, flow, routine }] : [];
    });
    const steps = stepsFor(described, flows);
    const program = compile(sources(described, 'steps', { kind: 'steps', steps }));
    const tries = fc.sample(changingInputs(ids.inputs), { seed: 7, numRuns: 6 });
    let looked = 0;
    for (const [k, { routine }] of flows.entries())
      for (const given of tries) {
        const plan = planRoutine(rig, admitted.mechanism, build, routine, { inputs: given });
        // Where a few milliseconds of an input decide, either way is right.
        const unsure = [-0.06, 0.06].some(
          (by) =>
            way(planRoutine(rig, admitted.mechanism, build, routine, { inputs: shifted(given, by) })) !== way(plan),
        );
        if (unsure || plan.findings.some(({ code }) => code === 'loop-without-wait')) continue;
        const motion = planCommands(rig, admitted.mechanism, commandMaps(rig, admitted.mechanism, build), plan);
        const orders = ordersOf(given, beginMs(described, steps.routines[k].first), motion.durationS);
        const heard = live(
          program,
          orders.map((order) => (order === '> g' ? `> ${k + 1}` : order)),
        );
        const happened = heard.flatMap((part) => part.happened);
        const begun = beginMs(described, steps.routines[k].first) * 1000;
        // Each input that is waited for may cost two milliseconds.
        const asks = plan.events.filter(({ kind }) => kind === 'input');
        const late = (t: number): number => 0.004 + 0.002 * asks.filter(({ timeS }) => timeS <= t + 0.1).length;
        compare(happened, described, motion, begun, late, `routine ${k + 1}, ${JSON.stringify(given)}`);
        const switched = happened.flatMap(({ what, at, micros, values: [value] }) => {
          const id = ids.outputs.find((output) => outputs[output as keyof typeof outputs] === at);
          return what === 'level' && id && micros > begun - 2000 ? ([[id, value, micros]] as const) : [];
        });
        // Levels as they change.
        const now = new Map<string, number>(ids.outputs.map((id) => [id, level(id, false)]));
        const expected = plan.events.flatMap((event) => {
          if (event.kind !== 'output' || now.get(event.signal) === level(event.signal, event.on)) return [];
          now.set(event.signal, level(event.signal, event.on));
          return [[event.signal, level(event.signal, event.on), event.timeS] as const];
        });
        expect(switched.map(([id, value]) => [id, value])).toEqual(expected.map(([id, value]) => [id, value]));
        for (const [n, [, , micros]] of switched.entries())
          expect(Math.abs((micros - begun) / 1e6 - expected[n][2])).toBeLessThan(late(expected[n][2]) + 0.002);
        looked++;
      }
    expect(flows.length).toBeGreaterThan(6);
    expect(looked).toBeGreaterThan(20);
  });

  const step = (kind: string, of: object = {}): object => ({ kind, note: '', enabled: true, ...of });
  const moveTo = (deg: number): object =>
    step('joint-move', { target: { joints: { [bare.mechanism.slotIds[0]]: deg } }, pace: { speedShare: 1 } });
  const routineOf = (id: string, ...list: object[]): Routine =>
    ({
      ...{ id, name: id, note: '', role: null, profile: 's-curve' },
      steps: list.map((each, k) => ({ ...each, id: `s${k}` })),
    }) as unknown as Routine;
  /** A program of routines of one's own, the first one's plan, and where it begins on the board (µs). */
  function programOf(routines: readonly Routine[], of: Parameters<typeof stepsFor>[2] = {}, motion?: MotionChoice) {
    const admitted = admit(dipper(routines, motion));
    if (!admitted.ok) throw new Error(admitted.faults[0].message);
    const { rig, mechanism, build } = admitted;
    const described = describe(rig, mechanism, build, 'pwm', 1);
    const steps = stepsFor(
      described,
      routines.map((routine) => ({ name: routine.name, flow: graph(rig, described, routine) })),
      of,
    );
    const plan = planRoutine(rig, mechanism, build, routines[0]);
    return {
      ...{ described, plan, motion: planCommands(rig, mechanism, commandMaps(rig, mechanism, build), plan) },
      program: compile(sources(described, 'steps', { kind: 'steps', steps })),
      begun: beginMs(described, steps.routines[0].first) * 1000,
    };
  }
  const pulses = (heard: ReturnType<typeof live>): number[] =>
    heard.map(({ happened }) => happened.filter(({ what }) => what === 'pulse').length);

  it('come through a low pass where the rig’s motors are told the ends of moves', () => {
    const lowPass: MotionChoice = {
      ...{ school: 'low-pass', timeConstantS: 0.12, loopMs: 5, wholePer: null, rocking: null },
    };
    const routine = routineOf('own', moveTo(25), step('wait', { durationS: 0.6 }), moveTo(-30), moveTo(4));
    const { described, motion, plan, program, begun } = programOf([routine], {}, lowPass);
    const { happened } = live(program, ['> g', `. ${begun + Math.round(motion.durationS * 1e6) + 1_500_000}`])[1 + 1];
    // A loop earlier or later, and one of the whole numbers that the board keeps in between.
    expect(compare(happened, described, motion, begun, () => 0.008, 'low pass', false)).toBeGreaterThan(100);
    // It goes on until it is there, to the last whole number.
    for (const [k, { map }] of described.motors.entries())
      expect(track(happened, described, k)(Infinity)).toBe(
        nativeAt(map as DriveMap, described.mechanism, plan.blocks.at(-1)!.block.to),
      );
    const planned = programOf([routine]).motion;
    expect(() => compare(happened, described, planned, begun, () => 0.008, 'planned')).toThrow(/is told/);
  });
  it('begin at an input or a letter, one at a time, and at nothing that was held as power came', () => {
    const starts = [
      { input: 0, routine: null },
      { input: 1, routine: 1 },
    ];
    const { described, program } = programOf([routineOf('one', moveTo(20)), routineOf('two', moveTo(-20))], {
      starts,
    });
    const { pin, level: on } = described.signals[0];
    const off = 1 - on;
    const heard = live(program, [
      ...[`pin ${pin} ${on}`, '. 1000000', `pin ${pin} ${off}`, '. 100000', '> 3', '> x', '. 500000'],
      ...[`pin ${pin} ${on}`, '. 20000000', '> 2', '. 20000000', `pin ${pin} ${off}`, `pin ${pin} ${on}`, '. 100000'],
    ]);
    const count = pulses(heard);
    // All that came before the input did, power-up too.
    expect(count.slice(0, 8).reduce((a, b) => a + b)).toBe(0);
    expect(count[9]).toBeGreaterThan(20);
    expect(count[11] + count[12]).toBeGreaterThan(20);
    // The first motor ends where each of them ends.
    const [motor] = described.motors;
    const ends = [heard.slice(0, 10), heard].map((part) =>
      track(
        part.flatMap((h) => h.happened),
        described,
        0,
      )(Infinity),
    );
    expect(Math.abs(ends[0] - motor.rest)).toBeGreaterThan(50);
    expect(Math.sign(ends[0] - motor.rest)).toBe(-Math.sign(ends[1] - motor.rest));
    // The other button begins its own routine, not while one is under way.
    const other = described.signals[1];
    const press = [`pin ${other.pin} ${other.level}`, '. 1000'];
    const free = [`pin ${pin} ${off}`, `pin ${other.pin} ${1 - other.level}`, '. 1000'];
    const endOf = (orders: string[]): number =>
      track(
        live(program, [...free, ...orders]).flatMap((h) => h.happened),
        described,
        0,
      )(Infinity);
    expect(endOf([...press, '. 20000000'])).toBe(ends[1]);
    expect(endOf(['> 1', '. 1900000', ...press, '. 20000000'])).toBe(ends[0]);
  });
  it('are not changed for another while one is under way', () => {
    const { described, program, begun } = programOf([
      routineOf('one', moveTo(40), moveTo(20)),
      routineOf('two', moveTo(-20)),
    ]);
    const ends = (...meanwhile: string[]): number =>
      track(
        live(program, ['> g', `. ${begun + 300_000}`, ...meanwhile, '. 20000000']).flatMap((h) => h.happened),
        described,
        0,
      )(Infinity);
    expect(ends('> 2')).toBe(ends());
    // Nor is it chosen for the next time.
    expect(ends('> 2', '. 20000000', '> g')).toBe(ends());
    expect(ends()).not.toBe(ends('. 20000000', '> 2'));
  });
  it('come on where they are expected to stand after they were let go of altogether', () => {
    const { described, program, begun } = programOf([routineOf('one', moveTo(40))]);
    const heard = live(program, ['> g', `. ${begun + 20_000_000}`, '> o', '. 1000000', '> g', '. 5000000']);
    const [{ pin, rest }] = described.motors;
    const again = heard[6].happened.find(({ what, at }) => what === 'pulse' && at === pin)!;
    expect(again.values).toEqual([rest]);
  });
  it('stand where an input did not come, and wait while the board is held', () => {
    const waits = step('wait-input', { signal: 'in-b', is: true, timeoutS: 2, otherwise: 'stop' });
    const lit = step('output', { signal: 'out-a', on: true });
    const { program, begun } = programOf([routineOf('own', moveTo(20), waits, lit, moveTo(-20))], { again: true });
    const pin = `pin ${inputs['in-b']}`;
    const inVain = pulses(live(program, [`${pin} 0`, '> g', `. ${begun}`, '. 10000000', '. 10000000']));
    expect(inVain[4]).toBeGreaterThan(10);
    // It does not begin again by itself after that.
    expect(inVain[5]).toBe(0);
    const heard = live(program, [
      ...[`${pin} 0`, '> g', `. ${begun + 3_000_000}`, '> s', '. 1000000', `${pin} 1`],
      ...['. 5000000', '> g', '. 5000000'],
    ]);
    // The input came while it was held: nothing is switched and nothing moves before it is let go on.
    const lights = heard.map(({ happened }) =>
      happened.filter(({ what, at }) => what === 'level' && at === outputs['out-a']),
    );
    expect([lights[7], lights[9].length]).toEqual([[], 1]);
    expect(pulses(heard)[7]).toBe(0);
    expect(pulses(heard)[9]).toBeGreaterThan(10);
  });
  it('let motors go and hold them again where they were told to be', () => {
    const joints = [bare.mechanism.slotIds[0]];
    const { described, program, begun } = programOf([
      routineOf(
        'own',
        ...[moveTo(20), step('let-go', { joints }), step('wait', { durationS: 1 })],
        ...[step('hold', { joints }), step('wait', { durationS: 1 })],
      ),
    ]);
    const happened = live(program, ['> g', `. ${begun + 20_000_000}`]).flatMap((h) => h.happened);
    const [{ pin }] = described.motors;
    const own = happened.filter(({ what, at, micros }) => what === 'pulse' && at === pin && micros > begun);
    const gone = own.findIndex(({ values }) => values[0] === 0);
    expect(gone).toBeGreaterThan(0);
    expect(own[gone + 1].values).toEqual(own[gone - 1].values);
    expect((own[gone + 1].micros - own[gone].micros) / 1e6).toBeCloseTo(1, 2);
    const others = happened.filter(({ what, at, values }) => what === 'pulse' && at !== pin && values[0] === 0);
    expect(others).toEqual([]);
  });
});
