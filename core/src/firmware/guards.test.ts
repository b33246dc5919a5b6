/** What firmware holds to by itself, whatever it is told. */
import { describe as group, expect, it } from 'vitest';
import { demoRigs, kilnLoader, tileDipper } from '../../../demo';
import { admit } from '../admit';
import { commandMaps, linedBoards } from '../actuators';
import { checksum } from '../board';
import { pack } from '../commands';
import { flowOf, isFlow, planCommands, planRoutine } from '../routine';
import { newBoard } from '../wiring';
import { beginMs, firstOf } from './played.testkit';
import { compile, live, type Happened } from './compiled.testkit';
import { described } from './boards.testkit';
import {
  driverDivider,
  handControlOf,
  registersOf,
  sources,
  stepsOf,
  tableOf,
  type Described,
  type Steps,
  type Table,
  type Work,
} from './index';

const sealed = (text: string): string => `> ${text}*${checksum(text).toString(16).padStart(4, '0')}`;
const bare = (line: string): string => line.split('*')[0];
const bridge: Work = { kind: 'bridge' };
const OUTPUT = 1;

/** A table that asks for whatever is given, frame by frame. */
function tableWith(board: Described, frames: readonly (readonly number[])[]): Table {
  const columns = board.motors.map((_, k) => Int32Array.from(frames, (row) => row[k]));
  const made = { columns, levels: new Uint32Array(frames.length) };
  const restart = 50;
  return {
    ...{ name: 'x', frames: made, bytes: pack(made, restart), frameMs: 20, restart },
    ...{ thereMs: 500, startMs: null, starts: [], watches: [], again: false },
  };
}
/** The dipper with an input that freezes the arm while it is low. */
function withStop(): unknown {
  const rig = structuredClone(tileDipper()) as unknown as { signals: unknown[] };
  rig.signals = [
    {
      ...{ id: 'stop', name: 'Stop bar', way: 'in', board: 'pwm', channel: 18 },
      ...{ activeLow: true, pull: 'up', stops: true, note: '' },
    },
  ];
  return rig;
}
/** The dipper with a knob that leads its turntable. */
function withKnob(): unknown {
  const rig = structuredClone(tileDipper()) as unknown as { sensors: unknown[]; leaders: unknown[] };
  rig.sensors = [
    {
      ...{ id: 'a', name: 'Knob', kind: 'potentiometer', joint: null, side: 'joint', countsPerTurn: 1228 },
      ...{ wraps: false, board: 'pwm', channel: 18, address: null, port: null, note: '' },
    },
  ];
  rig.leaders = [{ id: 'l', name: 'Turn', sensor: 'a', joint: 'turn', scale: 0.5, offset: -60, low: 0, high: 300 }];
  return rig;
}
/** The dipper on a small board with a 12-bit driver at address 65. */
function onDriver(): unknown {
  const rig = structuredClone(tileDipper()) as unknown as {
    boards: unknown[];
    wiring: { board: string; channel: number }[];
  };
  rig.boards = [
    newBoard('small-8-bit', 'small', 'Small board'),
    { ...newBoard('pwm-driver', 'd'), host: 'small', address: 65 },
  ];
  rig.wiring.forEach((wire, k) => Object.assign(wire, { board: 'd', channel: k + 3 }));
  return rig;
}

group('at power-on', () => {
  const boards = demoRigs().flatMap(({ id, rig }) => {
    const admitted = admit(rig);
    return admitted.ok ? linedBoards(admitted.rig).map((board) => [id, board.id, rig] as const) : [];
  });
  it.each(boards)('the pins of %s, %s have their level before they are outputs, and nothing moves', (_, id, rig) => {
    const board = described(rig, id);
    const [boot, later] = live(compile(sources(board, 'bridge', bridge)), ['. 2000000']);
    expect([...boot.happened, ...later.happened].filter(({ what }) => what === 'pulse')).toEqual([]);
    const steps = new Set(board.motors.flatMap(({ kind, pin }) => (kind === 'stepper' ? [pin] : [])));
    const all = [...boot.happened, ...later.happened];
    expect(all.filter(({ what, at }) => what === 'level' && steps.has(at))).toEqual([]);
    const wanted = new Map([
      ...board.signals.filter(({ isOutput }) => isOutput).map(({ pin, level }) => [pin, level] as const),
      ...board.motors.flatMap(({ enable }) => (enable === null ? [] : [[enable, 1] as const])),
    ]);
    for (const [pin, level] of wanted) {
      const events = all.filter(({ at, what }) => at === pin && what !== 'pulse');
      const made = events.findIndex(({ what, values }) => what === 'mode' && values[0] === OUTPUT);
      expect(made, `pin ${pin}`).toBeGreaterThanOrEqual(0);
      const before = events.slice(0, made).findLast(({ what }) => what === 'level')?.values[0] ?? 0;
      expect(before, `pin ${pin}`).toBe(level);
      expect(events.slice(made).filter(({ what }) => what === 'level')).toEqual([]);
    }
  });
});

group('limits', () => {
  it('bounds wider than the motor are refused, whoever asks', () => {
    const board = described(tileDipper(), 'pwm');
    const [motor] = board.motors;
    const parts = live(compile(sources(board, 'bridge', bridge)), [
      sealed(`bounds 1 ${motor.channel} ${motor.own.low - 1} ${motor.own.high} 9000`),
      sealed(`bounds 2 ${motor.channel} ${motor.own.low} ${motor.own.high + 1} 9000`),
      sealed(`bounds 3 ${motor.channel} ${motor.own.low} ${motor.own.high} 9000`),
    ]).slice(1);
    expect(parts.flatMap(({ lines }) => lines.map(bare))).toEqual([
      'refused bounds 1 bounds',
      'refused bounds 2 bounds',
      'done bounds 3',
    ]);
  });
  it('no table gets a motor past the limits of its joint', () => {
    const board = described(tileDipper(), 'pwm');
    const rest = board.motors.map((motor) => motor.rest);
    const far = Array.from({ length: 50 }, (_, f) => rest.map((us) => us + (f % 2 ? 9000 : -9000)));
    const program = compile(
      sources(board, 'player', { kind: 'player', table: tableWith(board, [rest, ...far, rest]) }),
    );
    const pulses = live(program, ['> g', '. 6000000']).flatMap(({ happened }) =>
      happened.filter(({ what }) => what === 'pulse'),
    );
    for (const { low, high, pin } of board.motors) {
      const of = pulses.filter(({ at, values }) => at === pin && values[0] !== 0).map(({ values }) => values[0]);
      expect(Math.min(...of)).toBe(low);
      expect(Math.max(...of)).toBe(high);
    }
  });
});

group('drivers that share an enable pin', () => {
  it('stay on until the last of their motors is let go', () => {
    const board = described(kilnLoader(), 'steps');
    const [a, b] = board.motors;
    expect(a.enable).toBe(b.enable);
    const parts = live(compile(sources(board, 'bridge', bridge)), [
      sealed(`bounds 1 ${a.channel} -90000 90000 9000`),
      sealed(`bounds 2 ${b.channel} -90000 90000 9000`),
      sealed(`wake 3 ${a.channel}:0 ${b.channel}:0`),
      sealed(`letgo 4 ${a.channel}`),
      sealed(`letgo 5 ${b.channel}`),
      sealed(`wake 6 ${b.channel}:0`),
      sealed('sleep 7'),
    ]);
    const level = (part: (typeof parts)[number]): number[] =>
      part.happened.filter(({ what, at }) => what === 'level' && at === a.enable).map(({ values }) => values[0]);
    expect(parts.slice(3).map(level)).toEqual([[0], [], [1], [0], [1]]);
  });
});

group('an input that stops', () => {
  it('slows a player down along its way; it goes on only when it is told to, once the input lets it', () => {
    const board = described(withStop(), 'pwm');
    const admitted = admit(withStop());
    if (!admitted.ok) throw new Error('no dipper');
    const { rig, mechanism, build } = admitted;
    const plan = planRoutine(
      rig,
      mechanism,
      build,
      rig.routines.find(({ id }) => id === 'dip')!,
    );
    const motion = planCommands(rig, mechanism, commandMaps(rig, mechanism, build), plan);
    const table = tableOf(board, 'x', motion, [], {
      frameMs: 20,
      startMs: null,
      starts: [],
      watches: [],
      again: false,
    });
    const parts = live(compile(sources(board, 'player', { kind: 'player', table })), [
      ...['> g', '. 4500000', 'pin 18 0', '. 300000', '. 1000000', '> g', '. 1000000'],
      ...['pin 18 1', '. 1000000', '> g', '. 2000000'],
    ]).map(({ happened }) => happened.filter(({ what }) => what === 'pulse').length);
    // Held from the beginning it does not even come on.
    const held = live(compile(sources(board, 'player', { kind: 'player', table })), ['pin 18 0', '> g', '. 2000000']);
    expect(held.flatMap(({ happened }) => happened.filter(({ what }) => what === 'pulse'))).toEqual([]);
    const [, , goes, , slows, stands, , refuses, , waits, , goesOn] = parts;
    expect(goes).toBeGreaterThan(20);
    expect(slows).toBeGreaterThan(0);
    expect([stands, refuses, waits]).toEqual([0, 0, 0]);
    expect(goesOn).toBeGreaterThan(5);
  });
});

group('a player with outputs', () => {
  it('switches them within a frame of when the plan does, and back to safe when it lets go', () => {
    const admitted = admit(kilnLoader());
    if (!admitted.ok) throw new Error('no loader');
    const { rig, mechanism, build } = admitted;
    const routine = rig.routines.find(({ id }) => id === 'load')!;
    const plan = planRoutine(rig, mechanism, build, routine, { inputs: {} });
    const motion = planCommands(rig, mechanism, commandMaps(rig, mechanism, build), plan);
    const board = described(kilnLoader(), 'steps');
    const switched = plan.events.flatMap((event) => (event.kind === 'output' ? [event] : []));
    expect(switched.length).toBeGreaterThan(3);
    const table = tableOf(board, 'x', motion, switched, {
      frameMs: 20,
      startMs: null,
      starts: [],
      watches: [],
      again: false,
    });
    const begunMs = beginMs(board, firstOf(table));
    const seconds = begunMs / 1000 + motion.durationS + 1;
    const parts = live(compile(sources(board, 'player', { kind: 'player', table })), [
      '> g',
      `. ${Math.round(seconds * 1e6)}`,
      '> o',
      '. 1000',
    ]);
    const happened: Happened[] = parts.slice(1, 3).flatMap((part) => part.happened);
    for (const { name, pin, level } of board.signals.filter(({ isOutput }) => isOutput)) {
      const id = rig.signals.find((signal) => signal.name === name)!.id;
      let now = level as number;
      const wanted = switched.flatMap((event) => {
        const next = event.signal !== id ? now : event.on ? 1 - level : level;
        const changes = next !== now ? [[event.timeS, next] as const] : [];
        now = next;
        return changes;
      });
      const got = happened.filter(({ what, at }) => what === 'level' && at === pin);
      expect(
        got.map(({ values }) => values[0]),
        name,
      ).toEqual(wanted.map(([, to]) => to));
      got.forEach(({ micros }, k) => {
        const late = micros / 1e6 - begunMs / 1000 - wanted[k][0];
        expect(late, name).toBeGreaterThan(-0.005);
        expect(late, name).toBeLessThan(0.03);
      });
      const last = parts.flatMap((part) => part.happened).findLast(({ what, at }) => what === 'level' && at === pin);
      expect(last?.values[0]).toBe(level);
    }
  });
});

group('servos on a 12-bit driver, played', () => {
  it('get no pulse past the limits of their joints', () => {
    const board = described(onDriver(), 'small');
    const rest = board.motors.map((motor) => motor.rest);
    const far = Array.from({ length: 80 }, (_, f) => rest.map((us) => us + (f % 2 ? 9000 : -9000)));
    const program = compile(
      sources(board, 'player', { kind: 'player', table: tableWith(board, [rest, ...far, rest]) }),
    );
    const ends = live(program, ['> g', '. 7000000'])
      .flatMap(({ happened }) => happened)
      .filter(({ what, values }) => what === 'bus' && values.length === 5 && values[4] < 16)
      .map(({ values }) => ({
        pin: (values[0] - 6) / 4,
        us: ((values[3] + 256 * values[4]) * (driverDivider(50) + 1)) / 25,
      }));
    for (const { low, high, pin } of board.motors) {
      const of = ends.filter((end) => end.pin === pin).map(({ us }) => us);
      expect(Math.min(...of)).toBeGreaterThanOrEqual(low - 3);
      expect(Math.max(...of)).toBeLessThanOrEqual(high + 3);
    }
  });
});

group('servos on a 12-bit driver', () => {
  const board = described(onDriver(), 'small');
  const program = compile(sources(board, 'bridge', bridge));
  /** End of the pulse in counts, by channel of the driver; null: off. */
  const told = (happened: readonly Happened[]): Map<number, number | null> => {
    const ends = new Map<number, number | null>();
    for (const { what, at, values } of happened) {
      if (what !== 'bus' || at !== 65 || values.length !== 5) continue;
      const [where, , , low, high] = values;
      ends.set((where - 6) / 4, high & 16 ? null : low + 256 * high);
    }
    return ends;
  };
  it('are all off before the driver wakes', () => {
    const [boot] = live(program, []);
    const writes = boot.happened.filter(({ what }) => what === 'bus').map(({ values }) => values);
    expect(writes).toEqual([
      [0, 0x10],
      [254, driverDivider(50)],
      [253, 0x10],
      [0, 0x20],
    ]);
  });
  it('get the counts that come nearest to their pulses, one a round, and none once they are asleep', () => {
    const [first, second] = board.motors;
    const parts = live(program, [
      sealed(`bounds 1 1.3 ${first.low} ${first.high} 9000`),
      sealed(`bounds 2 1.4 ${second.low} ${second.high} 9000`),
      sealed(`wake 3 1.3:${first.rest} 1.4:${second.rest}`),
      '. 5000',
      sealed(`point 0 20 1.3:${first.rest + 60}`),
      '. 40000',
      sealed('sleep 4'),
      '. 5000',
    ]);
    const counts = (us: number): number => (us * 25) / (driverDivider(50) + 1);
    const upTo = (n: number): Map<number, number | null> =>
      told(parts.slice(0, n).flatMap(({ happened }) => happened));
    expect(Math.abs(upTo(5).get(3)! - counts(first.rest))).toBeLessThanOrEqual(0.5);
    expect(Math.abs(upTo(7).get(3)! - counts(first.rest + 60))).toBeLessThanOrEqual(0.5);
    expect(Math.abs(upTo(7).get(4)! - counts(second.rest))).toBeLessThanOrEqual(0.5);
    expect([...upTo(9)]).toEqual([
      [3, null],
      [4, null],
    ]);
  });
});

group('declared ahead, as the common platform does it', () => {
  /** Declarations of all functions before the first of them. */
  function declared(text: string, data: string): string {
    // What is left out by this rig's switches is not declared either.
    const off = new Set([...data.matchAll(/#define (USES_\w+) 0/g)].map(([, name]) => name));
    const open: boolean[] = [];
    const kept = text
      .split('\n')
      .filter((row) => {
        if (row.startsWith('#if')) open.push(!off.has(row.replace('#if ', '')));
        if (row.startsWith('#else')) open.push(!open.pop());
        const isIn = open.every(Boolean);
        if (row.startsWith('#endif')) open.pop();
        return isIn;
      })
      .join('\n');
    const heads = [...kept.matchAll(/^((?:static )?(?:inline )?(?:const )?\w+[*&]? \*?\w+\([^;{}]*\)) \{/gm)];
    expect(heads.length).toBeGreaterThan(20);
    const index = text.indexOf(heads[0][0]);
    return `${text.slice(0, index)}${heads.map(([, head]) => `${head};`).join('\n')}\n${text.slice(index)}`;
  }
  /** Steps of a routine, homing before it. */
  function homingSteps(board: Described): Steps {
    const { rig, mechanism } = board;
    const flow = flowOf(rig, mechanism, rig.routines[0]);
    if (!isFlow(flow)) throw new Error(flow.why);
    const choice = { motion: rig.motion, startMs: null, starts: [], watches: [], again: false };
    const steps = stepsOf(board, [{ name: 'x', flow }], choice) as Steps;
    expect(steps.homing).not.toBeNull();
    return steps;
  }
  it.each(['bridge', 'hand', 'registers', 'player', 'steps'] as const)(
    'the program of kind %s compiles all the same',
    (kind) => {
      const board = described(kilnLoader(), 'steps');
      const rest = board.motors.map((motor) => motor.rest);
      const work: Work = {
        bridge,
        hand: { kind: 'hand', control: handControlOf(described(withKnob(), 'pwm')) } as Work,
        registers: { kind: 'registers', registers: registersOf(board, 1, 19200) } as Work,
        player: { kind: 'player', table: tableWith(board, [rest, rest]) } as Work,
        steps: { kind: 'steps', steps: homingSteps(board) } as Work,
      }[kind];
      for (const display of [null, { address: 39, rows: 2, columns: 16 } as const]) {
        const own = kind === 'hand' ? described(withKnob(), 'pwm') : board;
        const [main, data] = sources(own, kind, { ...work, display });
        expect(() => compile([{ ...main, text: declared(main.text, data.text) }, data])).not.toThrow();
      }
    },
  );
});
