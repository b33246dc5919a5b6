/** From a rig, its routines and the form to what a board does. */
import { isSpin, linedBoards } from '../../actuators';
import {
  describe,
  handControlOf,
  registersOf,
  stepsOf,
  tableOf,
  watchesOf,
  type Described,
  type Display,
  type HandControl,
  type NoSteps,
  type Start,
  type Steps,
  type Table,
  type Work,
} from '../../firmware';
import type { Rig, Routine } from '../../rig';
import { RAD_PER_DEG } from '../../units/convert';
import { flowOf, isFlow, type Flow, type NoFlow } from '../../routine';
import type { Planned, Source } from '../export';
import type { Options } from './options';

export const describedOf = (
  { rig, mechanism, build, revision }: Source,
  wished: string | undefined,
): Described | null => {
  const boards = linedBoards(rig).map((board) => board.id);
  const made = (id: string): Described => describe(rig, mechanism, build, id, revision ?? null);
  if (wished !== undefined && boards.includes(wished)) return made(wished);
  const all = boards.map(made);
  return all.find(({ motors }) => motors.length > 0) ?? all[0] ?? null;
};
export const tableFrom = (
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
      starts: startsOf(described, { input }, 1),
      watches: correct ? watchesOf(described) : [],
      again,
    },
  );
const startMsOf = ({ start, startS }: Pick<Options, 'start' | 'startS'>): number | null =>
  start === 'power' ? Math.round(startS * 1000) : null;

/** Inputs that start it: the one that was chosen, and those that are buttons for routines, in their order. */
function startsOf(
  described: Described,
  { input, starters }: Pick<Options, 'input'> & { starters?: boolean },
  routines: number,
): Start[] {
  const one = inputOf(described, input);
  const buttons = described.signals.flatMap(({ isOutput, stops }, k) => (isOutput || stops || k === one ? [] : [k]));
  return [
    ...(one === null ? [] : [{ input: one, routine: null }]),
    ...(starters ? buttons.slice(0, routines).map((button, routine) => ({ input: button, routine })) : []),
  ];
}

/** Place of an input among the board's signals; null: it is none of its. */
export const inputOf = ({ signals }: Described, id: string | undefined): number | null => {
  const place = signals.findIndex((signal) => !signal.isOutput && signal.id === id);
  return place < 0 ? null : place;
};

const flows = new WeakMap<Rig, Map<string, Flow | NoFlow>>();
/** A routine of the rig as a graph; kept, since what is missing, what is said and what is written all ask for it. */
function flowIn({ rig, build }: Source, { mechanism, motors }: Described, routine: Routine, start: Float64Array) {
  const kept = flows.get(rig) ?? new Map<string, Flow | NoFlow>();
  flows.set(rig, kept);
  const free = new Set(motors.flatMap((motor) => (isSpin(motor.map) ? motor.map.slots : [])));
  const key = `${routine.id} ${start.join()} ${[...free].join()} ${JSON.stringify(build.confirmed)}`;
  const flow = kept.get(key) ?? flowOf(rig, mechanism, routine, { start, free });
  kept.set(key, flow);
  return flow;
}
/** The routines that a step player holds, the chosen one first. */
export function routinesFor(source: Source, described: Described, { routines }: Options) {
  const { routine: chosen, plan } = source.planned!;
  const others =
    routines === 'all' ? source.rig.routines.filter(({ id, steps }) => id !== chosen.id && steps.length) : [];
  return [chosen, ...others.slice(0, MOST_ROUTINES - 1)].map((routine) => ({
    routine,
    name: routine.name,
    flow: flowIn(source, described, routine, routine === chosen ? plan.start : source.mechanism.home),
  }));
}
const MOST_ROUTINES = 9;
export function stepsFrom(source: Source, described: Described, chosen: Options): Steps | NoSteps {
  const all = routinesFor(source, described, chosen);
  return stepsOf(
    described,
    all.flatMap(({ name, flow }) => (isFlow(flow) ? [{ name, flow }] : [])),
    {
      motion: source.rig.motion,
      startMs: startMsOf(chosen),
      starts: startsOf(described, chosen, all.length),
      watches: chosen.correct ? watchesOf(described) : [],
      again: chosen.again,
    },
  );
}

export const handFrom = (described: Described, chosen: Options): HandControl =>
  handControlOf(described, {
    startMs: startMsOf(chosen),
    following: chosen.follow,
    buttons: chosen.buttons,
    steer: {
      tool: chosen.tool,
      sticks: {
        ...{ x: chosen.stickX, y: chosen.stickY, z: chosen.stickZ, tilt: chosen.stickTilt, roll: chosen.stickRoll },
      },
      mmPerS: chosen.toolMmPerS,
      radPerS: chosen.toolDegPerS * RAD_PER_DEG,
    },
  });
type Chosen = Options & { kind: Exclude<Options['kind'], 'script'> };
export const workOf = (described: Described, source: Source, chosen: Chosen): Work => ({
  ...doingOf(described, source, chosen),
  display: displayOf(chosen),
});
export const displayOf = ({ display, displayAt }: Pick<Options, 'display' | 'displayAt'>): Display | null =>
  display === 'none'
    ? null
    : { address: displayAt, ...(display === '16x2' ? { columns: 16, rows: 2 } : { columns: 20, rows: 4 }) };

function doingOf(described: Described, source: Source, chosen: Chosen): Work {
  switch (chosen.kind) {
    case 'bridge':
      return { kind: 'bridge' };
    case 'hand-control':
      return {
        kind: 'hand',
        control: handFrom(described, chosen),
      };
    case 'register-slave':
      return { kind: 'registers', registers: registersOf(described, chosen.station, Number(chosen.baud)) };
    case 'step-player':
      return { kind: 'steps', steps: stepsFrom(source, described, chosen) as Steps };
    case 'table-player':
      return { kind: 'player', table: tableFrom(described, source.planned!, chosen) };
  }
}
