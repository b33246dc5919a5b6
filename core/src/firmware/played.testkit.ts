/** Players of routines of the demo, and what they send over time. */
import { demoRigs } from '../../../demo';
import { admit } from '../admit';
import { commandMaps, linedBoards } from '../actuators';
import { valuesAt } from '../commands';
import { sampleBuffers, type Motion } from '../motion';
import { planCommands, planRoutine } from '../routine';
import { compile, type Happened } from './compiled.testkit';
import { speedsOf } from './speeds';
import { describe, sources, tableOf, type Described, type Table } from './index';

/** A player of a routine of the demo. */
export function made(
  id: string,
  routineId: string,
  again = false,
): { table: Table; program: string; made: ReturnType<typeof setOf> } {
  const set = setOf(id, routineId);
  const table = tableOf(set.described, 'x', set.motion, set.switched, {
    frameMs: 20,
    startMs: null,
    starts: [],
    watches: [],
    again,
  });
  return { table, program: compile(sources(set.described, 'player', { kind: 'player', table })), made: set };
}
export function setOf(id: string, routineId: string) {
  const admitted = admit(demoRigs().find((rig) => rig.id === id)!.rig);
  if (!admitted.ok) throw new Error(id);
  const { rig, mechanism, build } = admitted;
  const routine = rig.routines.find((r) => r.id === routineId)!;
  const plan = planRoutine(rig, mechanism, build, routine);
  const motion = planCommands(rig, mechanism, commandMaps(rig, mechanism, build), plan);
  const described = describe(rig, mechanism, build, linedBoards(rig)[0].id, 1);
  return {
    rig,
    routine,
    plan,
    described,
    motion,
    switched: plan.events.flatMap((e) => (e.kind === 'output' ? [e] : [])),
  };
}
/** Board time (ms), from its beginning on, at which a player that is told so at once has reached where its routine begins. */
export function beginMs(described: Described, first: readonly number[]): number {
  const { rig, motors } = described;
  let ms = 1 + rig.powerUp.gapMs * motors.length;
  // The way there is gone at a pace that rises over 256 ms.
  const there = wayMs(
    described,
    motors.map(({ rest }) => rest),
    first,
  );
  for (let [pace, gone] = [0, 0]; gone < there * 256; ms++) gone += pace = Math.min(256, pace + 1);
  return ms;
}
/** What motors are told in a table's first frame. */
export const firstOf = ({ frames }: Table): number[] => frames.columns.map(([first]) => first);
/** How long (ms) the gentle way from some whole numbers to others takes. */
export function wayMs(described: Described, from: readonly number[], to: readonly number[]): number {
  const { gentlePerS } = speedsOf(described);
  const each = from.map((value, k) => (gentlePerS[k] ? (1500 * Math.abs(to[k] - value)) / gentlePerS[k] : 0));
  return Math.floor(Math.min(60_000, Math.max(500, ...each)));
}

/** What a motor is told over time: its pulse, or the steps that have gone out. */
export function track(happened: readonly Happened[], { motors }: Described, k: number): (micros: number) => number {
  const { kind, pin, second, rest } = motors[k];
  const times: number[] = [-Infinity];
  const values: number[] = [rest];
  let forward = true;
  let count = rest;
  for (const {
    what,
    at,
    values: [value],
    micros,
  } of happened) {
    if (kind === 'stepper') {
      if (what !== 'level') continue;
      if (at === second) forward = value === 1;
      if (at !== pin || value !== 1) continue;
      count += forward ? 1 : -1;
    } else {
      if (what !== 'pulse' || at !== pin) continue;
      count = value;
    }
    times.push(micros);
    values.push(count);
  }
  return (micros) => {
    let [low, high] = [0, times.length - 1];
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if (times[middle] <= micros) low = middle;
      else high = middle - 1;
    }
    return values[low];
  };
}

/** Least and most that the motors are told within `near` s of a moment. */
export function toldNear(
  { mechanism }: Described,
  map: Described['motors'][number]['map'],
  motion: Motion,
  t: number,
  near: number,
): [number, number] {
  const [p, v, a] = sampleBuffers(mechanism.m);
  const values = [t - near, t - near / 2, t, t + near / 2, t + near].flatMap((at) => {
    motion.sampleInto(p, v, a, Math.min(motion.durationS, Math.max(0, at)));
    return valuesAt([map], mechanism, p, v).map(([, value]) => value);
  });
  return [Math.min(...values), Math.max(...values)];
}
