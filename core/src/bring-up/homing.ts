/** How the joints find their places after power-on, as a sequence with times: what seeks when, and where the others wait. */
import type { DriveMap } from '../actuators';
import { FARTHEST } from '../board';
import { fromUnit, inUnit, type Mechanism } from '../mechanism';
import type { Motion } from '../motion';
import { isMoving, type Drive, type HomingAxis, type Rig } from '../rig';
import { restPose } from './power-up';

export type HomingAct = 'wait pose' | 'seek' | 'back off' | 'seek slowly' | 'read' | 'set down';

/** One joint going from one value to another at a steady speed; values in the joint's own unit. */
export interface HomingMove {
  readonly axis: string;
  readonly act: HomingAct;
  readonly joint: string;
  readonly startS: number;
  readonly seconds: number;
  readonly from: number;
  readonly to: number;
}

export interface HomingPlan {
  readonly start: Float64Array;
  readonly moves: readonly HomingMove[];
  /** Per axis, in order: when it begins and how long it takes. */
  readonly axes: readonly { readonly joint: string; readonly startS: number; readonly seconds: number }[];
  readonly durationS: number;
}

/** Reading an absolute sensor, or taking a cradle's word, with a moment to settle. */
const READ_S = 0.2;
/** Share of a joint's own speed at which it goes to where it waits. */
export const WAIT_SHARE = 0.25;

/** What is sought: until its switch is on, off, or only for the way; the way is signed, and the most that is gone. */
export interface HomingStep {
  readonly act: HomingAct;
  /** Where it ends if all is as it is drawn, in the joint's unit. */
  readonly to: number;
  /** null: nothing moves. */
  readonly speed: number | null;
  readonly until: boolean | null;
  readonly way: number;
}

/**
 * The axes that find their places at the same time, group after group; those of joints that are not there are left out. Joints that share
 * a motor do so one after the other, whatever is wished.
 */
export function homingGroups(rig: Rig, mechanism: Mechanism): HomingAxis[][] {
  const groups: HomingAxis[][] = [];
  const tieOf = (id: string): string | undefined =>
    rig.transmissions.find((t) => (t.joints as readonly string[]).includes(id))?.id;
  for (const axis of rig.homing.axes.filter(({ joint }) => mechanism.slotOf.has(joint))) {
    const tie = tieOf(axis.joint);
    const last = groups.at(-1);
    if (axis.together && last?.every(({ joint }) => tie === undefined || tieOf(joint) !== tie)) last.push(axis);
    else groups.push([axis]);
  }
  return groups;
}
/** Where other joints stand while a group seeks: the last axis that says so counts. */
export const waitsOf = (group: readonly HomingAxis[], mechanism: Mechanism): Map<string, number> =>
  new Map(
    group.flatMap(({ joint, waits }) =>
      Object.entries(waits).filter(([id]) => mechanism.slotOf.has(id) && id !== joint),
    ),
  );
/** Where joints stand before anything has moved (slots, SI): what rests in its cradle, or was put together at neutral, is there. */
export function homingStart(rig: Rig, mechanism: Mechanism, start: Float64Array): Float64Array {
  const begin = start.slice();
  for (const { by, joint, at } of rig.homing.axes) {
    const slot = mechanism.slotOf.get(joint);
    if (slot !== undefined && (by === 'cradle' || by === 'neutral')) begin[slot] = fromUnit(mechanism, slot, at);
  }
  return begin;
}

/**
 * Homing from a pose (slots, SI). An axis `together` with the one before it begins with it; others begin when all before
 * are done. What waits goes there first. A joint ends where its switch tripped.
 */
export function planHoming(rig: Rig, mechanism: Mechanism, start: Float64Array): HomingPlan {
  const begin = homingStart(rig, mechanism, start);
  const now = new Map(mechanism.slotIds.map((id, s) => [id, inUnit(mechanism, s, begin[s])]));
  const moves: HomingMove[] = [];
  const axes: { joint: string; startS: number; seconds: number }[] = [];
  let groupEnd = 0;
  for (const group of homingGroups(rig, mechanism)) {
    const begun = groupEnd;
    const go = (axis: string, act: HomingAct, joint: string, to: number, speed: number, at: number): number => {
      const from = now.get(joint)!;
      const seconds = Math.abs(to - from) / speed;
      now.set(joint, to);
      moves.push({ axis, act, joint, startS: at, seconds, from, to });
      return at + seconds;
    };
    const seeksAt = Math.max(
      begun,
      ...[...waitsOf(group, mechanism)].map(([joint, value]) => {
        const { joint: axis } = group.find(({ waits }) => Object.hasOwn(waits, joint))!;
        return go(axis, 'wait pose', joint, value, waitSpeed(mechanism, joint), begun);
      }),
    );
    for (const axis of group) {
      let time = seeksAt;
      for (const { act, to, speed } of homingSteps(axis, mechanism))
        if (speed !== null) time = go(axis.joint, act, axis.joint, to, speed, time);
        else {
          const at = now.get(axis.joint)!;
          moves.push({ axis: axis.joint, act, joint: axis.joint, startS: time, seconds: READ_S, from: at, to: at });
          time += READ_S;
        }
      axes.push({ joint: axis.joint, startS: begun, seconds: time - begun });
      groupEnd = Math.max(groupEnd, time);
    }
  }
  return { start: begin, moves, axes, durationS: groupEnd };
}

function waitSpeed(mechanism: Mechanism, joint: string): number {
  const slot = mechanism.slotOf.get(joint)!;
  return inUnit(mechanism, slot, WAIT_SHARE * mechanism.speed[slot]);
}

/** By how much more than its whole range a joint is moved before its switch counts as missed. */
const BEYOND = 1.15;
/** Range (° or mm) of a joint without ends. */
const ROUND = 360;

/** How far (its unit) a joint goes from end to end, or round. */
export function wholeRange(mechanism: Mechanism, slot: number): number {
  const range = inUnit(mechanism, slot, mechanism.upper[slot] - mechanism.lower[slot]);
  return Number.isFinite(range) ? range : ROUND;
}

/** What an axis does to find its place. */
export function homingSteps(axis: HomingAxis, mechanism: Mechanism): HomingStep[] {
  const { joint, by, end, signal, at, fast, slow, backOff } = axis;
  const slot = mechanism.slotOf.get(joint)!;
  const out = end === 'min' ? -1 : 1;
  const whole = out * (BEYOND * wholeRange(mechanism, slot) + backOff);
  const away = at - out * backOff;
  const back: HomingStep = { act: 'back off', to: away, speed: fast, until: null, way: -out * backOff };
  switch (by) {
    case 'switch':
      return [
        { act: 'seek', to: at, speed: fast, until: true, way: whole },
        back,
        { act: 'seek slowly', to: at, speed: slow, until: true, way: out * (2 * backOff + 1) },
      ];
    case 'end-stop':
      return [{ act: 'seek slowly', to: at, speed: slow, until: signal === null ? null : true, way: whole }, back];
    default:
      return [{ act: by === 'sensor' ? 'read' : 'set down', to: at, speed: null, until: null, way: 0 }];
  }
}
/** Off a switch that is on before anything has moved, before it is sought. */
export const freeing = (axis: HomingAxis, mechanism: Mechanism): HomingStep => {
  const [seek] = homingSteps(axis, mechanism);
  return { ...seek, act: 'back off', until: false, way: -seek.way / 4 };
};

/** Homing as a motion: every joint at a steady speed in each of its moves. */
export const homingMotion = ({ start, moves, durationS }: HomingPlan, mechanism: Mechanism): Motion => ({
  durationS,
  start,
  sampleInto(position, speed, accel, t) {
    position.set(start);
    speed.fill(0);
    accel.fill(0);
    for (const { joint, startS, seconds, from, to } of moves) {
      if (t < startS) continue;
      const slot = mechanism.slotOf.get(joint)!;
      const share = seconds > 0 ? Math.min(1, (t - startS) / seconds) : 1;
      position[slot] = fromUnit(mechanism, slot, from + share * (to - from));
      speed[slot] = share < 1 ? fromUnit(mechanism, slot, (to - from) / seconds) : 0;
    }
  },
});

/** The same homing if nothing, or everything, ran together: for comparison. Waits still come first in each axis. */
export function homingWhatIf(
  rig: Rig,
  mechanism: Mechanism,
  start: Float64Array,
): { oneByOne: number; asSet: number; together: number } {
  const took = (together: (k: number) => boolean | null): number =>
    planHoming(
      {
        ...rig,
        homing: {
          ...rig.homing,
          axes: rig.homing.axes.map((axis, k) => ({ ...axis, together: together(k) ?? axis.together })),
        },
      },
      mechanism,
      start,
    ).durationS;
  return { oneByOne: took(() => false), asSet: took(() => null), together: took((k) => k > 0) };
}

/** Share of a joint's own speed at which it seeks, and by how much less it does so the second time. */
const SEEK_SHARE = 0.25;
const SLOWER = 8;
const BACK_OFF = 3;

/** Whether a motor has to be shown where it stands when power comes. */
export const isLost = (drive: Drive | undefined): boolean =>
  drive?.kind === 'stepper' || drive?.kind === 'dc-encoder';

/**
 * How a joint would find its place, from what is known of it: a switch of its own, else a sensor on it; without either a motor that only
 * counts seeks its hard stop where that is written down, else a switch that is still to come; what knows its angle by itself lies
 * where the arm rests. It seeks the end that is nearer to the resting pose.
 */
export function proposeHoming(rig: Rig, mechanism: Mechanism, jointId: string): HomingAxis {
  const slot = mechanism.slotOf.get(jointId)!;
  const unit = mechanism.siPerUnit[slot];
  const joint = rig.mechanism.joints.find((j) => j.id === jointId);
  const rest = restPose(rig, mechanism)[slot] / unit;
  const physical = joint && isMoving(joint) && 'physical' in joint ? joint.physical : undefined;
  const [low, high] = [mechanism.lower[slot], mechanism.upper[slot]].map((v) => v / unit);
  const ends = { min: physical?.min ?? low, max: physical?.max ?? high };
  const end = Math.abs(ends.max - rest) < Math.abs(rest - ends.min) ? 'max' : 'min';
  const tie = rig.transmissions.find((t) => (t.joints as readonly string[]).includes(jointId));
  const motor = rig.drives.find((d) => d.id === tie?.drives[0]);
  const signal = rig.signals.find((s) => s.way === 'in' && s.id.startsWith(jointId));
  const hasSensor = rig.sensors.some((s) => s.joint === jointId && s.side === 'joint');
  const by = signal ? 'switch' : hasSensor ? 'sensor' : !isLost(motor) ? 'cradle' : physical ? 'end-stop' : 'switch';
  const seeks = by === 'switch' || by === 'end-stop';
  const at =
    seeks && Number.isFinite(ends[end]) ? (by === 'switch' ? (end === 'min' ? low : high) : ends[end]) : rest;
  const fast = Math.max(1, Math.round((mechanism.speed[slot] / unit) * SEEK_SHARE));
  return {
    joint: jointId,
    by,
    end,
    signal: signal?.id ?? null,
    switchKind: 'mechanical',
    fast,
    slow: Math.max(0.5, Math.round((fast / SLOWER) * 10) / 10),
    backOff: BACK_OFF,
    at: Math.round(at * 1000) / 1000,
    spread: 0,
    waits: {},
    together: false,
  };
}

/** A motor that counts, wherever its joints are: what they may do does not hold it while it seeks. */
export const unheld = (map: DriveMap): DriveMap =>
  isLost(map.drive) ? { ...map, native: { ...map.native, low: -FARTHEST, high: FARTHEST } } : map;

/** Joints that have to find their places, the hand first: it folds in before the base turns. */
export const jointsToHome = (rig: Rig, mechanism: Mechanism): string[] =>
  mechanism.slotIds
    .filter((id) => {
      const tie = rig.transmissions.find((t) => (t.joints as readonly string[]).includes(id));
      return tie?.drives.some((d) => isLost(rig.drives.find((drive) => drive.id === d)));
    })
    .reverse();
