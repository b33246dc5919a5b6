/**
 * What happens when power comes: which joint jumps, stays limp or holds, and a plan that brings them in one after the other
 * and gently. The same plan is played on the stage, sent to a board and, later, written into programs.
 */
import type { Mechanism } from '../mechanism';
import { fromUnit, inUnit, toSlots } from '../mechanism';
import type { Motion } from '../motion';
import { entryOf, type Build, type Drive, type PowerUp, type Rig } from '../rig';
import { jointsMeant, shaftSpeed, type DriveMap } from '../actuators/drive-map';
import { held } from '../actuators/native';
import { commandMaps, isSpin } from '../actuators/spin-map';
import { mapGroups, type TiedDrive } from '../actuators/tied';

export type AtPower = PowerUp['at'][string];

/** What a kind of drive does by itself when power comes. */
const byKind: Record<Drive['kind'], AtPower> = {
  servo: 'neutral',
  'continuous-servo': 'limp',
  'bus-servo': 'hold',
  stepper: 'limp',
  'dc-encoder': 'limp',
};
export const atPower = (rig: Rig, drive: Drive): AtPower => entryOf(rig.powerUp.at, drive.id) ?? byKind[drive.kind];

/** The pulse (µs) that a servo stands at without anything to tell it better; null for motors without one. */
export const neutralOf = (map: TiedDrive): number | null =>
  isSpin(map) ? map.stopUs : map.drive.kind === 'servo' ? Math.round(map.drive.centreUs) : null;

/** One transmission's drives getting power. */
export interface PowerStart {
  readonly maps: readonly TiedDrive[];
  readonly does: AtPower;
  readonly atS: number;
  /** Time its joints take to where they then stand, s. */
  readonly seconds: number;
  /** Joint values (slots, SI) of its joints before and after. */
  readonly slots: readonly number[];
  readonly from: readonly number[];
  readonly to: readonly number[];
}

export interface RailDraw {
  readonly railId: string;
  readonly name: string;
  /** Highest current (A): all at once, and by the plan. */
  readonly atOnceA: number;
  readonly plannedA: number;
  /** Names of motors on it whose currents nobody has given: they are in none of the sums. */
  readonly unknown: readonly string[];
  readonly givesA: number;
  readonly fuseA: number;
}

export interface PowerUpPlan {
  readonly rest: Float64Array;
  readonly starts: readonly PowerStart[];
  readonly durationS: number;
  readonly rails: readonly RailDraw[];
}

/** A motor draws its stall current for about this long when power comes (s). */
const INRUSH = 0.15;

/** The pose the arm is expected to rest in: the one chosen, else home. */
export function restPose(rig: Rig, mechanism: Mechanism): Float64Array {
  const pose = rig.poses.find((p) => p.id === rig.powerUp.rest);
  return pose ? clamp(mechanism, toSlots(mechanism, pose.joints)) : mechanism.home.slice();
}
const clamp = (mechanism: Mechanism, q: Float64Array): Float64Array =>
  q.map((v, s) => Math.min(mechanism.upper[s], Math.max(mechanism.lower[s], v)));

/** `planned`: in order, apart and gently; else all at once and as fast as the motors go. */
export function planPowerUp(
  rig: Rig,
  mechanism: Mechanism,
  build: Build,
  planned = true,
  rest: Float64Array = restPose(rig, mechanism),
): PowerUpPlan {
  const { order, gapMs, maxDegPerS } = rig.powerUp;
  const place = (map: TiedDrive): number => {
    const k = order.indexOf(map.drive.id);
    return k < 0 ? order.length : k;
  };
  const groups = mapGroups<TiedDrive>(commandMaps(rig, mechanism, build))
    .map((maps, k) => ({ maps, k, first: Math.min(...maps.map(place)) }))
    .sort((a, b) => a.first - b.first || a.k - b.k);
  const starts = groups.map(({ maps }, k): PowerStart => {
    const { slots } = maps[0];
    const does = atPower(rig, maps[0].drive);
    const from = slots.map((s) => rest[s]);
    const to = does === 'neutral' ? neutralJoints(maps, mechanism, from, planned) : from;
    const way = Math.max(0, ...slots.map((s, i) => inUnit(mechanism, s, Math.abs(to[i] - from[i]))));
    const seconds = way === 0 ? 0 : planned ? way / maxDegPerS : fastest(maps, mechanism, rest, slots, from, to);
    return { maps, does, atS: planned ? (k * gapMs) / 1000 : 0, seconds, slots, from, to };
  });
  const durationS = Math.max(0, ...starts.map((s) => s.atS + s.seconds));
  return { rest, starts, durationS, rails: draws(rig, starts) };
}

/**
 * Where the joints stand (SI) with their servos at neutral; as they were where a motor has no neutral place. Bare, a servo knows
 * nothing of its joint's limits; brought in by the plan it gets no pulse past them.
 */
export function neutralJoints(
  maps: readonly TiedDrive[],
  mechanism: Mechanism,
  from: readonly number[],
  planned: boolean,
): number[] {
  const placed = maps.filter((map): map is DriveMap => 'native' in map);
  const natives = placed.map((map) => {
    const neutral = neutralOf(map);
    return neutral === null || !planned ? neutral : held(map.native, neutral);
  });
  const meant = natives.includes(null) ? null : jointsMeant(placed, natives as number[]);
  return meant ? meant.map((value, k) => fromUnit(mechanism, maps[0].slots[k], value)) : [...from];
}

/** Seconds of a jump at the motors' own speed. */
function fastest(
  maps: readonly TiedDrive[],
  mechanism: Mechanism,
  rest: Float64Array,
  slots: readonly number[],
  from: readonly number[],
  to: readonly number[],
): number {
  const speeds = new Float64Array(mechanism.m);
  slots.forEach((s, k) => (speeds[s] = to[k] - from[k]));
  // Going the whole way in one second would take this share of each motor's speed.
  return Math.max(0.01, ...maps.map((map) => shaftSpeed(map, mechanism, rest, speeds)?.share ?? 0));
}

/** Where the joints stand after power came; ramps are straight lines in time. */
export const powerUpMotion = ({ rest, starts, durationS }: PowerUpPlan): Motion => ({
  durationS,
  start: rest,
  sampleInto(position, speed, accel, t) {
    position.set(rest);
    speed.fill(0);
    accel.fill(0);
    for (const { atS, seconds, slots, from, to } of starts) {
      const share = seconds === 0 ? (t >= atS ? 1 : 0) : Math.min(1, Math.max(0, (t - atS) / seconds));
      slots.forEach((slot, k) => {
        position[slot] = from[k] + share * (to[k] - from[k]);
        if (share > 0 && share < 1) speed[slot] = (to[k] - from[k]) / seconds;
      });
    }
  },
});

/**
 * The power-up's way back: from where the arm stands (slots, SI) to where it rests, what comes on last first, one after the other, at the
 * plan's gentle speed. Joints whose motors know speeds only stay.
 */
export function wayDown(rig: Rig, mechanism: Mechanism, build: Build, stands: Float64Array): Motion {
  const rest = restPose(rig, mechanism);
  const { starts } = planPowerUp(rig, mechanism, build);
  const { maxDegPerS } = rig.powerUp;
  let durationS = 0;
  const legs = [...starts].reverse().flatMap(({ maps, slots }) => {
    if (!maps.every((map) => 'native' in map)) return [];
    const way = Math.max(0, ...slots.map((s) => inUnit(mechanism, s, Math.abs(rest[s] - stands[s]))));
    const leg = { slots, startS: durationS, seconds: way / maxDegPerS };
    durationS += leg.seconds;
    return leg.seconds > 0 ? [leg] : [];
  });
  return {
    durationS,
    start: stands,
    sampleInto(position, speed, accel, t) {
      position.set(stands);
      speed.fill(0);
      accel.fill(0);
      for (const { slots, startS, seconds } of legs) {
        const share = Math.min(1, Math.max(0, (t - startS) / seconds));
        for (const s of slots) {
          position[s] = share === 1 ? rest[s] : stands[s] + share * (rest[s] - stands[s]);
          if (share > 0 && share < 1) speed[s] = (rest[s] - stands[s]) / seconds;
        }
      }
    },
  };
}

function draws(rig: Rig, starts: readonly PowerStart[]): RailDraw[] {
  return rig.rails.map((rail) => {
    const on = starts.flatMap(({ maps, atS, seconds, does }) =>
      maps
        .filter((map) => rig.wiring.some((w) => w.drive === map.drive.id && w.rail === rail.id))
        .map(({ drive }) => ({ drive, atS, seconds, limp: does === 'limp' })),
    );
    const stall = ({ stallA, movingA }: Drive): number => stallA ?? movingA ?? 0;
    const at = (t: number): number =>
      on.reduce((sum, { drive, atS, seconds, limp }) => {
        if (t < atS) return sum;
        if (limp) return sum + (drive.idleA ?? 0);
        const now = t < atS + INRUSH ? stall(drive) : t < atS + seconds ? (drive.movingA ?? 0) : (drive.idleA ?? 0);
        return sum + now;
      }, 0);
    return {
      railId: rail.id,
      name: rail.name,
      atOnceA: on.reduce((sum, { drive, limp }) => sum + (limp ? (drive.idleA ?? 0) : stall(drive)), 0),
      // It changes only where one comes on, has come on, or has arrived.
      plannedA: Math.max(0, ...on.flatMap(({ atS, seconds }) => [atS, atS + INRUSH, atS + seconds]).map(at)),
      unknown: on.flatMap(({ drive }) => (stall(drive) > 0 ? [] : [drive.name])),
      givesA: rail.amps,
      fuseA: rail.fuseA,
    };
  });
}
