/** The table that a player plays: what every motor of a board is told over a routine, frame by frame. */
import { isSpin } from '../actuators';
import { restPose } from '../bring-up';
import { levelOf, signalPins, valuesAt } from '../commands';
import { inUnit } from '../mechanism';
import { sampleBuffers, type Motion } from '../motion';
import type { Described } from './described';
import type { Watch } from './watches';
import { pack, type Frames } from '../commands';

/** When a player begins, whether it does so again, and what corrects it. */
export interface Playing {
  /** After power has come; null: not by itself. */
  readonly startMs: number | null;
  /** Inputs that start it. */
  readonly starts: readonly Start[];
  /** Sensors by which joints are corrected. */
  readonly watches: readonly Watch[];
  readonly again: boolean;
}
export interface Table extends Playing {
  readonly name: string;
  readonly frames: Frames;
  readonly bytes: Uint8Array;
  readonly frameMs: number;
  /** Frames between whole values. */
  readonly restart: number;
  /** From where motors come on to the first frame. */
  readonly thereMs: number;
}
/** An input (place in the board's signals) at whose coming a routine begins; null: the one that was chosen last. */
export interface Start {
  readonly input: number;
  readonly routine: number | null;
}
export interface Switching {
  readonly timeS: number;
  readonly signal: string;
  readonly on: boolean;
}
export interface TableChoice extends Playing {
  readonly frameMs: number;
}

/** Milliseconds between whole values. */
const RESTART_MS = 1000;
/** Least time (ms) to the first frame. */
const LEAST_MS = 500;
const MOST_MS = 60_000;
/** By how much the way there is faster in its middle than evenly (of 3s² − 2s³). */
const STEEPEST = 1.5;

/** `motion`: as motors are told it. Outputs have at each frame the level that was last switched. */
export function tableOf(
  described: Described,
  name: string,
  motion: Motion,
  switched: readonly Switching[],
  { frameMs, ...choice }: TableChoice,
): Table {
  const { motors, mechanism, rig } = described;
  const count = Math.ceil((motion.durationS * 1000) / frameMs - 1e-9) + 1;
  const columns = motors.map(() => new Int32Array(count));
  const maps = motors.map(({ map }) => map);
  const now = new Map(motors.map(({ map, rest }) => [map, rest]));
  const [p, v, a] = sampleBuffers(mechanism.m);
  const outputs = signalPins(rig).filter(
    ({ signal, line, channel }) => signal.way === 'out' && line === described.board.id && channel < 256,
  );
  const levels = new Uint32Array(count);
  for (let f = 0; f < count; f++) {
    const t = (f * frameMs) / 1000;
    motion.sampleInto(p, v, a, Math.min(t, motion.durationS));
    for (const [map, value] of valuesAt(maps, mechanism, p, v)) now.set(map, value);
    maps.forEach((map, k) => (columns[k][f] = now.get(map)!));
    outputs.forEach(({ signal }, bit) => {
      const last = switched.findLast((s) => s.signal === signal.id && s.timeS <= t + 1e-9);
      if (levelOf(signal, last?.on ?? false)) levels[f] |= 1 << bit;
    });
  }
  // Motors that are sent speeds stand at the end.
  motors.forEach(({ turns, rest }, k) => turns && (columns[k][count - 1] = rest));
  const frames = { columns, levels };
  const restart = Math.max(1, Math.round(RESTART_MS / frameMs));
  return {
    ...{ name, frames, frameMs, restart, ...choice },
    bytes: pack(frames, restart),
    thereMs: gentlyMs(described, motion.start),
  };
}

/** How long (ms) it takes from where motors come on to where a motion starts at the gentle speed of the power-up. */
function gentlyMs({ mechanism, motors, rig }: Described, start: Float64Array): number {
  const rest = restPose(rig, mechanism);
  const slots = motors.flatMap(({ map }) => (isSpin(map) ? [] : map.slots));
  const far = Math.max(0, ...slots.map((slot) => inUnit(mechanism, slot, Math.abs(start[slot] - rest[slot]))));
  return Math.round(Math.min(MOST_MS, Math.max(LEAST_MS, ((STEEPEST * far) / rig.powerUp.maxDegPerS) * 1000)));
}
