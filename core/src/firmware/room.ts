/** How much a board holds of a table, and what fits. */
import type { Board } from '../rig';
import { doesCount, type Described, type FirmwareMotor } from './described';
import type { Display } from './display';
import type { Steered } from './steering';
import type { Work } from './work';

/** Bytes of flash that programs may have, of the kinds of boards. */
const flash: Partial<Record<Board['kind'], number>> = { 'small-8-bit': 32_256, 'large-8-bit': 253_952 };
/** What a player, the platform's own parts and a little room take. */
const PROGRAM = 9_000;
/** Such boards read no farther than this without more ado. */
const NEAR = 32_000;
const LARGE = 1_000_000;

/** Most bytes that a table may have on a kind of board. */
export function tableRoom(kind: Board['kind']): number {
  const whole = flash[kind];
  return whole === undefined ? LARGE : Math.min(NEAR, whole - PROGRAM);
}

/** Bytes that a program takes on a small board, without the platform's own parts. */
export interface Size {
  readonly flash: number;
  readonly memory: number;
}
/**
 * About how large a program is on an 8-bit board: memory by what its tables hold, flash by what compiling for the small class gave
 * (`npm run firmware` measures it).
 */
export function sizeOf(described: Described, work: Work): Size {
  const { flash: program, memory } = programOf(described, work);
  const shown = work.display ? showing(work.display) : { flash: 0, memory: 0 };
  return { flash: program + shown.flash, memory: memory + shown.memory };
}
const showing = ({ rows, columns }: Display): Size => ({ flash: 900, memory: 2 * rows * columns + 10 });
/** What motors with an encoder take: the loop, and each of them. */
const COUNTED = { flash: 1300, memory: 32 };
/** What sticks take: the closed form, the way of the tool, and a row for each joint, motor and kept pose. */
const WRIST: Size = { flash: 3700, memory: 60 };
function steeringSize({ way, slots, goers, bounds, sticks, presets }: Steered): Size {
  const n = slots.length;
  return {
    flash:
      6460 +
      (way.kind === 'wrist' ? WRIST.flash : 0) +
      (presets.length + 1) * (22 + 4 * n) +
      goers.length * (14 + 4 * goers[0].places.length) +
      bounds.length * (13 + 8 * n),
    memory: 55 + (way.kind === 'wrist' ? WRIST.memory : 0) + 12 * n + 12 * goers.length + 6 * sticks.length,
  };
}
function programOf(described: Described, work: Work): Size {
  const { motors, freePins, signals } = described;
  const counted = motors.filter(({ kind }) => kind === 'counted').length;
  const steps = motors.some(doesCount);
  const driver = motors.some(({ kind }) => kind === 'pulse-driver');
  const value = steps ? 4 : 2;
  const eachMotor =
    1 + value + (steps ? 14 : 0) + (driver ? 2 : 0) + (motors.some(({ kind }) => kind === 'pulse-pin') ? 8 : 0);
  const own = motors.length * eachMotor + counted * COUNTED.memory + outBytes(described) + LINE + 40;
  const constants = motors.length * 20 + signals.length * 5 + counted * 14 + (counted ? COUNTED.flash : 0);
  if (work.kind === 'hand') {
    const { sensors, knobs, presets, steering } = work.control;
    const steered = steering ? steeringSize(steering) : { flash: 0, memory: 0 };
    return {
      flash:
        3900 +
        steered.flash +
        (steps ? 900 : 0) +
        (driver ? 500 : 0) +
        constants +
        knobs.length * 80 +
        presets.length * motors.length * 4,
      memory: own + motors.length * 9 + sensors.length * 9 + knobs.length + 30 + steered.memory,
    };
  }
  if (work.kind === 'registers') {
    const { joints, presets } = work.registers;
    return {
      flash:
        5250 +
        (steps ? 900 : 0) +
        (driver ? 500 : 0) +
        constants +
        joints.length * 90 +
        presets.length * motors.length * 4,
      memory: own + motors.length * 9 + joints.length * 2 + 20,
    };
  }
  if (work.kind === 'steps') {
    const { bytes, routines, counters, homing, lowPass, loops } = work.steps;
    return {
      flash:
        6625 +
        (steps ? 1400 : 0) +
        (homing === null ? 0 : 1710) +
        (driver ? 500 : 0) +
        constants +
        bytes.length +
        routines.length * motors.length * 4,
      memory: own + motors.length * (4 * value + (lowPass ? 4 : 0)) + 4 * (counters.length + loops) + 110,
    };
  }
  if (work.kind === 'player')
    return {
      flash: 4265 + (steps ? 1250 : 0) + (driver ? 500 : 0) + constants + work.table.bytes.length,
      memory: own + motors.length * 4 * value + 40,
    };
  const { items, points } = queueRoom(described);
  const said = 28 * 6;
  const seeks = 3 * (16 + 3 * (5 + value));
  const pins = 3 * (freePins.length + 1) + 10 * (sensorRoom(described) + 1);
  return {
    flash: 13_970 + (steps ? 1500 : 0) + (driver ? 500 : 0) + constants,
    memory:
      own + motors.length * (6 + 6 * value) + items * (1 + value) + points * 2 + said + seeks + pins + LINE + 60,
  };
}
/** Longest line, in bytes. */
const LINE = 120;

/** What a bridge queues: values, and points. */
export const queueRoom = ({ motors, freePins }: Described): { readonly items: number; readonly points: number } => ({
  items: Math.max(24, (motors.length + Math.min(freePins.length, 4)) * 6),
  points: 24,
});
export const sensorRoom = ({ sensorCount, freePins }: Described): number =>
  Math.max(sensorCount, Math.min(8, freePins.length));
/** What goes out and has no room at the port yet. */
export const outBytes = ({ motors, freePins }: Described): number =>
  motors.length + Math.min(freePins.length, 8) > 12 ? 360 : 240;
/** Memory (bytes) of the small class that a program may have: the rest is the platform's own, and the stack. */
export const SMALL_MEMORY = 1500;

/** Of a millisecond (%): the tick and the loop of a motor with an encoder. */
const COUNTED_PERCENT = 15;
/** Programs by how busy they are: hand control by knobs, or by sticks that push the tool. */
export type Busy = Work['kind'] | 'sticks';
export const busyAs = (work: Work): Busy => (work.kind === 'hand' && work.control.steering ? 'sticks' : work.kind);
/** Of a millisecond (%), on the 8-bit boards at 16 MHz: whatever comes, for each motor, and for each stepper beside that. */
const busy: Record<Busy, readonly [all: number, motor: number, stepper: number]> = {
  bridge: [5, 3.4, 9.5],
  player: [5, 3.9, 7.4],
  steps: [24, 4.2, 3],
  hand: [9, 9, 15],
  registers: [9, 9, 15],
  // All of them pushed: two solutions in a beat of 20 ms, of 2 ms each.
  sticks: [41, 2, 15],
};
/**
 * About which share (%) of its time a program is busy while all its motors move, by what running it on the small class gave (`npm run
 * firmware` measures it); null: of such a board nothing is known.
 */
export function busyPercent({ board, motors }: Described, kind: Busy): number | null {
  if (flash[board.kind] === undefined) return null;
  const [all, motor, stepper] = busy[kind];
  const number = (wanted: FirmwareMotor['kind']): number => motors.filter((each) => each.kind === wanted).length;
  return all + motor * motors.length + stepper * number('stepper') + COUNTED_PERCENT * number('counted');
}
