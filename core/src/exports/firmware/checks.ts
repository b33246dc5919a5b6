/** What is missing for a program of a board, or cannot be. */
import { isSpin, shaftSpeed, type DriveMap } from '../../actuators';
import type { Finding } from '../../findings';
import {
  brokenAt,
  busyPercent,
  fullCountsPerS,
  pinsOf,
  registersOf,
  sizeOf,
  SMALL_MEMORY,
  tableRoom,
  ticksPerMs,
  toolOf,
  watchesOf,
  type Described,
  type Display,
  type HandControl,
  type NoSteering,
  type Push,
  type Work,
} from '../../firmware';
import { sampleBuffers, type Motion } from '../../motion';
import type { Board, Routine } from '../../rig';
import { isFlow, planMotion, planRoutine } from '../../routine';
import type { Planned, Source } from '../export';
import { finding } from '../findings';
import { players, rates, type Options } from './options';
import { displayOf, handFrom, inputOf, routinesFor, stepsFrom, tableFrom } from './work';

/** Everything, in the order in which it is to be mended. */
export function lacksFor(described: Described, source: Source, chosen: Options): Finding[] {
  const found = [
    ...checkPlace(described, chosen.kind),
    ...checkMotors(described, chosen),
    ...(chosen.kind === 'script' ? [] : checkDisplay(described, displayOf(chosen))),
  ];
  if (chosen.kind === 'bridge') return found;
  if (chosen.kind === 'register-slave') return [...found, ...checkJoints(described)];
  if (chosen.kind === 'hand-control') return [...found, ...checkKnobs(described, chosen)];
  const { planned } = source;
  if (!planned?.motion.durationS) return [...found, finding('export-no-routine', { station: 'routine' })];
  found.push(...checkInput(described, source, chosen));
  if (chosen.correct && players.includes(chosen.kind) && !watchesOf(described).length)
    found.push(finding('firmware-no-watch', { station: 'motors', part: 'sensors' }, { board: described.board.name }));
  if (chosen.kind === 'step-player')
    return [...found, ...checkStepPlayer(described, source, chosen, found.length > 0)];
  return [
    ...found,
    ...checkRoutine(described, planned),
    ...(found.length || chosen.kind === 'script' ? [] : checkTable(described, planned, chosen)),
  ];
}

/** A display wants the bus of its board, and an address that nothing else on it has. */
function checkDisplay({ board, rig, motors, signals }: Described, display: Display | null): Finding[] {
  if (!display) return [];
  const bus = board.pins.filter(({ can }) => can.includes('bus')).map(({ pin }) => pin);
  const place = { station: 'motors', part: 'boards' } as const;
  if (!bus.length) return [finding('firmware-no-bus', place, { board: board.name })];
  const own = motors.filter(({ kind }) => kind !== 'pulse-driver');
  const taken = [
    ...own.flatMap((motor) => pinsOf(motor).map((at) => ({ at, name: motor.map.drive.name }))),
    ...signals.map(({ pin, name }) => ({ at: pin, name })),
  ].find(({ at }) => bus.includes(at));
  if (taken) return [finding('firmware-bus-taken', place, { board: board.name, pin: taken.at, by: taken.name })];
  const others = [
    ...motors.filter(({ kind }) => kind === 'pulse-driver').map(({ second }) => ({ at: second, name: 'a driver' })),
    ...rig.sensors.flatMap(({ address, name }) => (address === null ? [] : [{ at: address, name }])),
  ];
  const same = others.find(({ at }) => at === display.address);
  return same
    ? [finding('firmware-bus-address', { station: 'hand-off' }, { address: display.address, by: same.name })]
    : [];
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
    if (steps.many) return [finding('firmware-too-many', place, { routine: all[0].name, what: steps.many })];
    if (steps.fraction !== undefined) return [finding('firmware-fraction', place, { counter: steps.fraction })];
    const input = source.rig.signals.find(({ id }) => id === steps.elsewhere)?.name ?? '';
    return [
      finding('firmware-elsewhere', { station: 'motors', part: 'signals' }, { input, board: described.board.name }),
    ];
  }
  const max = tableRoom(described.board.kind);
  const got = steps.bytes.length;
  const place = { station: 'hand-off' } as const;
  const { memory } = sizeOf(described, { kind: 'steps', steps, display: displayOf(chosen) });
  if (described.board.kind === 'small-8-bit' && memory > SMALL_MEMORY)
    return [finding('firmware-memory', place, { board: described.board.name, got: memory, max: SMALL_MEMORY })];
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
    turns || is === 'stepper' || is === 'counted'
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
const steersBy = ({ kind, follow }: Options): boolean => kind === 'hand-control' && follow === 'tool';
/** A program that is busy all the time comes late ever more. */
const MOST_PERCENT = 95;

function checkMotors(described: Described, chosen: Options): Finding[] {
  const { kind } = chosen;
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
  const { memory } = sizeOf(described, { kind: 'bridge', display: displayOf(chosen) });
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
  const percent = busyPercent(described, steersBy(chosen) ? 'sticks' : workKinds[kind]);
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
  return [...odd, ...mixed, ...checkCounted(described), ...large, ...slow];
}

/** Pins whose timers are taken on 8-bit boards: by the tick, and by servos on pins of the board. */
const takenTimers: Partial<
  Record<Board['kind'], { readonly tick: readonly number[]; readonly servos: readonly number[] }>
> = {
  'small-8-bit': { tick: [3, 11], servos: [9, 10] },
  'large-8-bit': { tick: [9, 10], servos: [44, 45, 46] },
};
/** At most one count from one look at the tracks to the next, and as much again left for what shakes. */
const TICKS_PER_COUNT = 2;
/** Motors with an encoder whose duty has no timer, or whose tracks are too fast for the tick. */
function checkCounted({ motors, board }: Described): Finding[] {
  const taken = takenTimers[board.kind];
  const hasServos = motors.some(({ kind }) => kind === 'pulse-pin');
  const max = (ticksPerMs(board) * 1000) / TICKS_PER_COUNT;
  return motors.flatMap(({ kind, pin, map: { drive } }) => {
    if (kind !== 'counted' || drive.kind !== 'dc-encoder') return [];
    const place = { station: 'motors', part: 'wires', drive: drive.id } as const;
    const by = taken?.tick.includes(pin) ? 'the tick' : hasServos && taken?.servos.includes(pin) ? 'servos' : null;
    const got = fullCountsPerS(drive);
    return [
      ...(by ? [finding('firmware-duty-pin', place, { drive: drive.name, pin, board: board.name, by })] : []),
      ...(got > max ? [finding('firmware-counts', place, { drive: drive.name, got, max, board: board.name })] : []),
    ];
  });
}

/** A panel that could move nothing. */
function checkJoints(described: Described): Finding[] {
  const { joints } = registersOf(described, 1, 9600);
  const MOST = 30;
  if (joints.length > 0 && joints.length <= MOST) return [];
  const place = { station: 'motors', part: 'wires' } as const;
  return [finding('firmware-registers', place, { board: described.board.name, got: joints.length, max: MOST })];
}

/** Knobs and sticks that lead nothing on this board. */
function checkKnobs(described: Described, chosen: Options): Finding[] {
  const control = handFrom(described, chosen);
  const { knobs, left, noSteering } = control;
  const board = described.board.name;
  const place = { station: 'motors', part: 'leader' } as const;
  const lost = left.map(({ name }) => finding('firmware-knob', place, { knob: name, board }));
  if (chosen.follow === 'tool') {
    if (noSteering) return [...lost, whyNot(described, noSteering, chosen)];
    return [...lost, ...checkSticks(described, control)];
  }
  return knobs.length || left.length ? lost : [finding('firmware-no-knobs', place, { board })];
}
type Read = HandControl['sensors'][number];
const isSamePlace = (a: Read, b: Read): boolean => a.pin === b.pin && a.address === b.address && a.port === b.port;
const pushed: Partial<Record<Push, string>> = { tilt: 'tilts', roll: 'rolls' };
function checkSticks(described: Described, { sensors, steering, lostSticks, idlePushes }: HandControl): Finding[] {
  const { rig, board } = described;
  const place = { station: 'motors', part: 'sensors' } as const;
  const data = { board: board.name };
  const [idle] = idlePushes;
  if (idle)
    return [
      finding('firmware-push', { station: 'hand-off' }, { tool: steering!.tool.name, does: pushed[idle] ?? '' }),
    ];
  if (lostSticks.length)
    return lostSticks.map((id) => {
      const own = id.replace(/^-/, '');
      const stick = rig.sensors.find((sensor) => sensor.id === own)?.name ?? own;
      return finding('firmware-stick', place, { ...data, stick });
    });
  const twice = sensors.findIndex((one, k) => sensors.findIndex((other) => isSamePlace(one, other)) < k);
  if (twice >= 0) {
    const first = sensors.find((other) => isSamePlace(sensors[twice], other))!;
    const names = { first: first.sensor.name, second: sensors[twice].sensor.name };
    return [finding('firmware-stick-twice', place, names)];
  }
  if (!steering!.sticks.length) return [finding('firmware-no-sticks', place, { ...data, tool: steering!.tool.name })];
  const [atRest, ...kept] = [steering!.rest, ...steering!.presets].map((at) => brokenAt(described, steering!, at));
  return atRest === null || kept.includes(null)
    ? []
    : [finding('firmware-steer-rest', { station: 'poses' }, { ...data, rule: atRest })];
}
/** Why no stick pushes a tool. */
function whyNot(described: Described, no: NoSteering, chosen: Options): Finding {
  const { mechanism, board } = described;
  const data = { tool: toolOf(described, chosen.tool)?.name ?? '', board: board.name };
  switch (no.why) {
    case 'form':
      return finding('firmware-steer-form', { station: 'hand-off' }, data);
    case 'joint': {
      const joint = mechanism.names[mechanism.jointOfSlot[no.slot]];
      return finding('firmware-steer-joint', { station: 'motors', part: 'wires' }, { ...data, joint });
    }
    case 'motor': {
      const { drive } = no.map;
      return finding('firmware-steer-motor', { station: 'hand-off' }, { ...data, drive: drive.name });
    }
    case 'rule':
      return finding('firmware-steer-rule', { station: 'hand-off' }, { ...data, rule: no.words });
  }
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
