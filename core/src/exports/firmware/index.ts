/** What a board runs: a bridge that is driven from a computer, or a player that needs none. */
import { z } from 'zod';
import { isSpin, linedBoards, shaftSpeed, type DriveMap } from '../../actuators';
import {
  describe,
  BAUD,
  busyPercent,
  followings,
  handControlOf,
  linkBudget,
  scriptOf,
  stepsOf,
  type NoSteps,
  type Steps,
  watchesOf,
  registersOf,
  sources,
  tableOf,
  sizeOf,
  SMALL_MEMORY,
  tableRoom,
  ticksPerMs,
  type Described,
  type HandControl,
  type Table,
  type Work,
} from '../../firmware';
import { sampleBuffers, type Motion } from '../../motion';
import { fileName, type Rig, type Routine } from '../../rig';
import { flowOf, isFlow, planMotion, planRoutine, type Flow, type NoFlow } from '../../routine';
import { defineExport, type ExportFile, type Planned, type Source } from '../export';
import { finding } from '../findings';
import type { Finding } from '../../findings';

const rates = ['100', '50', '40', '25', '20', '10'] as const;
const bauds = ['9600', '19200', '38400', '57600', '115200'] as const;
const ofTable = { when: { kind: ['table-player', 'script'] } };
const players = ['table-player', 'step-player'];
const ofStart = { kind: [...players, 'hand-control'] };
const options = z.strictObject({
  kind: z
    .enum(['bridge', 'step-player', 'table-player', 'hand-control', 'register-slave', 'script'])
    .default('bridge')
    .meta({
      title: 'What it is to do',
      titles: {
        bridge: 'drive it from here',
        'step-player': 'play it without a computer',
        'table-player': 'play it from a table',
        'hand-control': 'follow knobs',
        'register-slave': 'obey an operator panel',
        script: 'play it from a single-board computer',
      },
    }),
  board: z
    .string()
    .optional()
    .meta({ title: 'Board', description: 'id of the board; the first with motors', of: 'boards' }),
  rate: z
    .enum(rates)
    .default('50')
    .meta({ title: 'Frames a second', titles: Object.fromEntries(rates.map((r) => [r, r])), ...ofTable }),
  start: z
    .enum(['letter', 'power'])
    .default('letter')
    .meta({
      title: 'It begins',
      titles: { letter: 'at the letter g on its line', power: 'by itself, after a while' },
      when: ofStart,
    }),
  startS: z
    .number()
    .min(3)
    .max(600)
    .default(10)
    .meta({ title: 'Seconds from power on', step: 1, when: { ...ofStart, start: 'power' } }),
  follow: z
    .enum(followings)
    .default('place')
    .meta({
      title: 'Motors go',
      titles: { place: 'where knobs stand', change: 'as far as knobs turn', speed: 'as fast as sticks are pushed' },
      when: { kind: 'hand-control' },
    }),
  buttons: z
    .boolean()
    .default(false)
    .meta({ title: 'Inputs are buttons for kept poses', when: { kind: 'hand-control' } }),
  station: z
    .number()
    .int()
    .min(1)
    .max(247)
    .default(1)
    .meta({ title: 'Station', step: 1, when: { kind: 'register-slave' } }),
  baud: z
    .enum(bauds)
    .default('19200')
    .meta({ title: 'Baud', titles: Object.fromEntries(bauds.map((b) => [b, b])), when: { kind: 'register-slave' } }),
  input: z
    .string()
    .optional()
    .meta({
      title: 'Started by',
      description: 'id of an input of the board, at whose coming it begins; none where left out',
      of: 'inputs',
      when: { kind: players },
    }),
  correct: z
    .boolean()
    .default(false)
    .meta({ title: 'Joint sensors correct it', when: { kind: players } }),
  routines: z
    .enum(['this', 'all'])
    .default('this')
    .meta({
      title: 'Routines',
      titles: { this: 'this one', all: 'all of them, by the letters 1 to 9' },
      when: { kind: 'step-player' },
    }),
  again: z
    .boolean()
    .default(false)
    .meta({ title: 'Again and again', when: { kind: players } }),
});
type Options = z.output<typeof options>;

const describedOf = ({ rig, mechanism, build, revision }: Source, wished: string | undefined): Described | null => {
  const boards = linedBoards(rig).map((board) => board.id);
  const made = (id: string): Described => describe(rig, mechanism, build, id, revision ?? null);
  if (wished !== undefined && boards.includes(wished)) return made(wished);
  const all = boards.map(made);
  return all.find(({ motors }) => motors.length > 0) ?? all[0] ?? null;
};
const tableFrom = (
  described: Described,
  { routine, plan, motion }: Planned,
  { rate, start, startS, input, correct, again }: Options,
): Table =>
  tableOf(
    described,
    routine.name,
    motion,
    plan.events.flatMap((event) => (event.kind === 'output' ? [event] : [])),
    {
      frameMs: 1000 / Number(rate),
      startMs: startMsOf({ start, startS }),
      startInput: inputOf(described, input),
      watches: correct ? watchesOf(described) : [],
      again,
    },
  );
const startMsOf = ({ start, startS }: Pick<Options, 'start' | 'startS'>): number | null =>
  start === 'power' ? Math.round(startS * 1000) : null;

/** Place of an input among the board's signals; null: it is none of its. */
const inputOf = ({ signals }: Described, id: string | undefined): number | null => {
  const place = signals.findIndex((signal) => !signal.isOutput && signal.id === id);
  return place < 0 ? null : place;
};

const flows = new WeakMap<Rig, Map<string, Flow | NoFlow>>();
/** A routine of the rig as a graph; kept, since what is missing, what is said and what is written all ask for it. */
function flowIn(
  { rig, mechanism }: Source,
  { map }: { map: Described['motors'] },
  routine: Routine,
  start: Float64Array,
) {
  const kept = flows.get(rig) ?? new Map<string, Flow | NoFlow>();
  flows.set(rig, kept);
  const free = new Set(map.flatMap((motor) => (isSpin(motor.map) ? motor.map.slots : [])));
  const key = `${routine.id} ${start.join()} ${[...free].join()}`;
  const flow = kept.get(key) ?? flowOf(rig, mechanism, routine, { start, free });
  kept.set(key, flow);
  return flow;
}
/** The routines that a step player holds, the chosen one first. */
function routinesFor(source: Source, described: Described, { routines }: Options) {
  const { routine: chosen, plan } = source.planned!;
  const others =
    routines === 'all' ? source.rig.routines.filter(({ id, steps }) => id !== chosen.id && steps.length) : [];
  const map = described.motors;
  return [chosen, ...others.slice(0, MOST_ROUTINES - 1)].map((routine) => ({
    routine,
    name: routine.name,
    flow: flowIn(source, { map }, routine, routine === chosen ? plan.start : source.mechanism.home),
  }));
}
const MOST_ROUTINES = 9;
function stepsFrom(source: Source, described: Described, chosen: Options): Steps | NoSteps {
  const all = routinesFor(source, described, chosen);
  return stepsOf(
    described,
    all.flatMap(({ name, flow }) => (isFlow(flow) ? [{ name, flow }] : [])),
    {
      motion: source.rig.motion,
      startMs: startMsOf(chosen),
      startInput: inputOf(described, chosen.input),
      watches: chosen.correct ? watchesOf(described) : [],
      again: chosen.again,
    },
  );
}

function workOf(
  described: Described,
  source: Source,
  chosen: Options & { kind: Exclude<Options['kind'], 'script'> },
): Work {
  switch (chosen.kind) {
    case 'bridge':
      return { kind: 'bridge' };
    case 'hand-control':
      return {
        kind: 'hand',
        control: handControlOf(described, {
          startMs: startMsOf(chosen),
          following: chosen.follow,
          buttons: chosen.buttons,
        }),
      };
    case 'register-slave':
      return { kind: 'registers', registers: registersOf(described, chosen.station, Number(chosen.baud)) };
    case 'step-player':
      return { kind: 'steps', steps: stepsFrom(source, described, chosen) as Steps };
    case 'table-player':
      return { kind: 'player', table: tableFrom(described, source.planned!, chosen) };
  }
}

export const firmware = defineExport({
  id: 'firmware',
  name: 'Firmware',
  says: 'The program of a board, for the common setup-and-loop kind of project: a folder with a main file and what it knows of this rig.',
  takes: ['routine'],
  options,
  lacks: (source, chosen) => {
    const described = describedOf(source, chosen.board);
    if (!described) return [finding('firmware-no-board', { station: 'motors', part: 'boards' })];
    const found = [...checkPlace(described, chosen.kind), ...checkMotors(described, chosen.kind)];
    if (chosen.kind === 'bridge') return found;
    if (chosen.kind === 'register-slave') return [...found, ...checkJoints(described)];
    if (chosen.kind === 'hand-control') return [...found, ...checkKnobs(described)];
    const { planned } = source;
    if (!planned?.motion.durationS) return [...found, finding('export-no-routine', { station: 'routine' })];
    found.push(...checkInput(described, source, chosen));
    if (chosen.correct && players.includes(chosen.kind) && !watchesOf(described).length)
      found.push(
        finding('firmware-no-watch', { station: 'motors', part: 'sensors' }, { board: described.board.name }),
      );
    if (chosen.kind === 'step-player')
      return [...found, ...checkStepPlayer(described, source, chosen, found.length > 0)];
    return [
      ...found,
      ...checkRoutine(described, planned),
      ...(found.length || chosen.kind === 'script' ? [] : checkTable(described, planned, chosen)),
    ];
  },
  notes: (source, chosen) => {
    const described = describedOf(source, chosen.board)!;
    const { kind } = chosen;
    if (kind === 'script') return ['Without --go it only says what it would write.'];
    const work = workOf(described, source, { ...chosen, kind });
    const { flash, memory } = sizeOf(described, work);
    const kilo = (bytes: number): string => (bytes / 1000).toFixed(1);
    const busy = busyPercent(described, work);
    const time = busy === null ? '' : ` It is busy about ${Math.round(busy)} % of its time.`;
    const size = `About ${kilo(flash)} kB of flash and ${kilo(memory)} kB of memory on an 8-bit board, beside the platform’s own parts.${time}`;
    if (work.kind === 'player') {
      const { frames, bytes, frameMs } = work.table;
      return [size, `The table: ${frames.levels.length} frames of ${frameMs} ms in ${kilo(bytes.length)} kB.`];
    }
    if (work.kind === 'steps')
      return [size, `The steps: ${kilo(work.steps.bytes.length)} kB; the board works out their motion by itself.`];
    if (work.kind === 'hand') return [size, ...buttonWords(described, work.control)];
    if (work.kind !== 'bridge') return [size];
    const { baud, pointBytes, pointsPerS, out, back, refreshHz } = linkBudget(described, BAUD);
    const percent = (share: number): string => `${Math.round(share * 100)} %`;
    const line = `The line at ${baud} baud: ${pointBytes} bytes a point, ${pointsPerS} points a second, ${percent(out)} of what it carries; answers and reports ${percent(back)} of the way back.`;
    const slow =
      refreshHz !== null && refreshHz < pointsPerS
        ? [`Its slowest motor hears ${refreshHz} pulses a second; points between them it does not see.`]
        : [];
    return [size, line, ...slow];
  },
  write: (source, chosen): readonly ExportFile[] => {
    const described = describedOf(source, chosen.board)!;
    const { kind } = chosen;
    if (kind === 'script') {
      const name = fileName(source.rigId, source.planned!.routine.id, 'py');
      return [
        { ...scriptOf(described, name, tableFrom(described, source.planned!, chosen)), mediaType: 'text/x-python' },
      ];
    }
    const about = players.includes(kind) ? `${source.planned!.routine.id}-player` : kind;
    const folder = fileName(source.rigId, about, '').slice(0, -1);
    return sources(described, folder, workOf(described, source, { ...chosen, kind })).map(({ name, text }) => ({
      name,
      text,
      mediaType: 'text/x-c++src',
    }));
  },
});

/** Which button brings which kept pose. */
function buttonWords({ signals }: Described, { buttons, presets }: HandControl): string[] {
  const each = buttons.map((signal, k) => `${signals[signal].name}: ${presets[k].name}`);
  return each.length ? [`Buttons: ${each.join('; ')}.`] : [];
}

/** The input that starts it is none of this board's. */
function checkInput(described: Described, { rig }: Source, { input, kind }: Options): Finding[] {
  if (!input || kind === 'script' || inputOf(described, input) !== null) return [];
  const name = rig.signals.find(({ id }) => id === input)?.name ?? input;
  return [
    finding('firmware-input', { station: 'motors', part: 'signals' }, { input: name, board: described.board.name }),
  ];
}

/** What a step player cannot do of its routines. */
function checkStepPlayer(described: Described, source: Source, chosen: Options, isLate: boolean): Finding[] {
  const all = routinesFor(source, described, chosen);
  const names = new Map(source.rig.routines.map(({ id, name }) => [id, name]));
  const found = all.flatMap(({ routine, flow }): Finding[] => {
    if (isFlow(flow)) return isLate ? [] : checkSteps(described, motionOf(source, routine));
    const place = { station: 'routine', routine: flow.routine, step: flow.step.id } as const;
    const data = { routine: names.get(flow.routine)!, step: flow.index + 1 };
    const codes = { beside: 'firmware-beside', fault: 'firmware-fault', endless: 'firmware-endless' } as const;
    return [finding(codes[flow.why], place, data)];
  });
  if (found.length || isLate) return found;
  const steps = stepsFrom(source, described, chosen);
  if (!('bytes' in steps)) {
    const place = { station: 'routine', routine: all[0].routine.id } as const;
    if (steps.fraction !== undefined) return [finding('firmware-fraction', place, { counter: steps.fraction })];
    const input = source.rig.signals.find(({ id }) => id === steps.elsewhere)?.name ?? '';
    return [
      finding('firmware-elsewhere', { station: 'motors', part: 'signals' }, { input, board: described.board.name }),
    ];
  }
  const max = tableRoom(described.board.kind);
  const got = steps.bytes.length;
  const place = { station: 'hand-off' } as const;
  if (got <= max) return [];
  return [finding('firmware-steps-too-long', place, { board: described.board.name, got, max, by: got - max })];
}
const motionOf = ({ rig, mechanism, build, planned }: Source, routine: Routine): Motion =>
  planned?.routine === routine ? planned.motion : planMotion(planRoutine(rig, mechanism, build, routine));

/** Programs of boards and scripts of single-board computers are not for each other. */
function checkPlace({ board, motors }: Described, kind: Options['kind']): Finding[] {
  const isComputer = board.kind === 'single-board';
  const place = { station: 'motors', part: 'boards' } as const;
  if (isComputer !== (kind === 'script'))
    return [finding(isComputer ? 'firmware-computer' : 'firmware-no-computer', place, { board: board.name })];
  if (!isComputer) return [];
  return motors.flatMap(({ kind: is, turns, map: { drive } }) =>
    is === 'stepper' || turns
      ? [
          finding(
            'firmware-script-motor',
            { station: 'motors', part: 'wires', drive: drive.id },
            { drive: drive.name, board: board.name },
          ),
        ]
      : [],
  );
}

const workKinds: Record<Options['kind'], Work['kind']> = {
  ...{ bridge: 'bridge', 'step-player': 'steps', 'table-player': 'player', 'hand-control': 'hand' },
  ...{ 'register-slave': 'registers', script: 'player' },
};
/** A program that is busy all the time comes late ever more. */
const MOST_PERCENT = 95;

function checkMotors(described: Described, kind: Options['kind']): Finding[] {
  const { board, motors, strange, hanging } = described;
  if (!motors.length && !strange.length)
    return [finding('firmware-no-motors', { station: 'motors', part: 'wires' }, { board: board.name })];
  const odd = strange.map((map) =>
    finding(
      'firmware-strange',
      { station: 'motors', part: 'wires', drive: map.drive.id },
      { drive: map.drive.name, board: board.name },
    ),
  );
  const rates = new Set(
    motors.flatMap(({ kind, map }) =>
      kind === 'pulse-driver' && 'updateHz' in map.drive ? [map.drive.updateHz] : [],
    ),
  );
  const [driver] = hanging;
  const mixed =
    rates.size > 1 && driver
      ? [
          finding(
            'firmware-rates',
            { station: 'motors', part: 'wires' },
            { board: driver.name, rates: [...rates].join(', ') },
          ),
        ]
      : [];
  const { memory } = sizeOf(described, { kind: 'bridge' });
  const large =
    board.kind === 'small-8-bit' && memory > SMALL_MEMORY
      ? [
          finding(
            'firmware-memory',
            { station: 'motors', part: 'boards' },
            { board: board.name, got: memory, max: SMALL_MEMORY },
          ),
        ]
      : [];
  const percent = busyPercent(described, { kind: workKinds[kind] });
  const slow =
    percent !== null && percent > MOST_PERCENT
      ? [
          finding(
            'firmware-slow',
            { station: 'motors', part: 'boards' },
            { board: board.name, got: Math.round(percent), max: MOST_PERCENT },
          ),
        ]
      : [];
  return [...odd, ...mixed, ...large, ...slow];
}

/** A panel that could move nothing. */
function checkJoints(described: Described): Finding[] {
  const { joints } = registersOf(described, 1, 9600);
  const MOST = 30;
  if (joints.length > 0 && joints.length <= MOST) return [];
  const place = { station: 'motors', part: 'wires' } as const;
  return [finding('firmware-registers', place, { board: described.board.name, got: joints.length, max: MOST })];
}

/** Knobs that lead nothing on this board. */
function checkKnobs(described: Described): Finding[] {
  const { knobs, left } = handControlOf(described);
  const place = { station: 'motors', part: 'leader' } as const;
  if (!knobs.length && !left.length) return [finding('firmware-no-knobs', place, { board: described.board.name })];
  return left.map(({ name }) => finding('firmware-knob', place, { knob: name, board: described.board.name }));
}

/** What a table cannot do of a routine. */
function checkRoutine(described: Described, { routine, plan, motion }: Planned): Finding[] {
  const at = (stepId: string): { station: 'routine'; routine: string; step: string } => ({
    ...{ station: 'routine', routine: routine.id, step: stepId },
  });
  const asked = plan.events.find((event) => event.kind === 'input');
  const gone = plan.events.find((event) => event.kind === 'power');
  return [
    ...(asked?.kind === 'input' ? [finding('firmware-waits', at(asked.stepId), { routine: routine.name })] : []),
    ...(gone?.kind === 'power' ? [finding('firmware-lets-go', at(gone.stepId), { routine: routine.name })] : []),
    ...checkSteps(described, motion),
  ];
}

/** Axes that would have to step faster than the timer ticks. */
function checkSteps({ motors, mechanism, board }: Described, motion: Motion): Finding[] {
  const most = ticksPerMs(board) * 1000;
  const steppers = motors.flatMap(({ kind, map }) => (kind === 'stepper' && !isSpin(map) ? [map] : []));
  const top = new Map(steppers.map((map) => [map, 0]));
  const [p, v, a] = sampleBuffers(mechanism.m);
  const BEAT = 0.01;
  for (let t = 0; t <= motion.durationS && steppers.length; t += BEAT) {
    motion.sampleInto(p, v, a, t);
    for (const map of steppers) top.set(map, Math.max(top.get(map)!, stepsPerS(map, p, v)));
  }
  return steppers
    .filter((map) => top.get(map)! > most)
    .map((map) =>
      finding(
        'firmware-steps',
        { station: 'motors', part: 'wires', drive: map.drive.id },
        { drive: map.drive.name, got: Math.round(top.get(map)!), max: most },
      ),
    );
  function stepsPerS(map: DriveMap, q: Float64Array, speeds: Float64Array): number {
    return Math.abs((shaftSpeed(map, mechanism, q, speeds)?.degPerS ?? 0) * map.native.perDeg);
  }
}

/** A table that the board has no room for, and at which rate it would fit. */
function checkTable(described: Described, planned: Planned, chosen: Options): Finding[] {
  const max = tableRoom(described.board.kind);
  const bytes = (rate: Options['rate']): number => tableFrom(described, planned, { ...chosen, rate }).bytes.length;
  const got = bytes(chosen.rate);
  if (got <= max) return [];
  const slower = rates.filter((rate) => Number(rate) < Number(chosen.rate)).find((rate) => bytes(rate) <= max);
  const place = { station: 'hand-off' } as const;
  const data = { board: described.board.name, got, max, by: got - max };
  return [
    slower
      ? finding('firmware-too-long', place, { ...data, rate: slower })
      : finding('firmware-far-too-long', place, data),
  ];
}
