/** Switching drives on one after the other: held where they are, brought to neutral gently, or each to its own neutral before the horns are on. */
import { held, isSpin, nativeAt, type DriveMap, type CommandMap } from '@cork-elbow/core/actuators';
import { neutralOf, planPowerUp, powerUpMotion } from '@cork-elbow/core/bring-up';
import type { ArmHow, Status } from '@cork-elbow/core/contract';
import type { Mechanism } from '@cork-elbow/core/mechanism';
import { poseAt } from '@cork-elbow/core/motion';
import type { Build, Rig } from '@cork-elbow/core/rig';
import type { Values } from '@cork-elbow/core/commands';
import type { Desk } from '../desk';
import type { Activity, Outcome, Point } from './activity';

export interface BringUp {
  readonly how: ArmHow;
  /** Whether anything moves after it has been switched on. */
  readonly moves: boolean;
  readonly durationMs: number;
  /** When (ms) a drive is switched on, and the value it is sent `t` ms after the beginning. */
  startOf(map: CommandMap): number;
  valueAt(map: CommandMap, t: number): number;
  /** Where the joints then stand (slots, SI); null where joints do not count. */
  poseAt(t: number): Float64Array | null;
}

/** Motors that are sent speeds are switched on standing still, whatever the others do. */
export function bringUp(
  how: ArmHow,
  rig: Rig,
  mechanism: Mechanism,
  build: Build,
  maps: readonly CommandMap[],
  stands: Float64Array,
  readBack: ReadonlyMap<string, number>,
): BringUp {
  const placed = maps.filter((map) => !isSpin(map)) as DriveMap[];
  const plan = placesUp(how, rig, mechanism, build, placed, stands, readBack);
  return {
    ...plan,
    durationMs: Math.max(plan.durationMs, ...maps.map((map) => plan.startOf(map))),
    valueAt: (map, t) => (isSpin(map) ? map.stopUs : plan.valueAt(map, t)),
  };
}

interface PlacesUp extends Omit<BringUp, 'valueAt'> {
  valueAt(map: DriveMap, t: number): number;
}

function placesUp(
  how: ArmHow,
  rig: Rig,
  mechanism: Mechanism,
  build: Build,
  maps: readonly DriveMap[],
  stands: Float64Array,
  readBack: ReadonlyMap<string, number>,
): PlacesUp {
  const plan = planPowerUp(rig, mechanism, build, true, stands);
  const startOf = (map: CommandMap): number => {
    const k = plan.starts.findIndex((start) => start.maps.some((m) => m.drive.id === map.drive.id));
    return Math.max(0, k) * rig.powerUp.gapMs;
  };
  const lastStart = Math.max(0, ...maps.map(startOf));
  if (how === 'power-up') {
    const motion = powerUpMotion(plan);
    const pose = (t: number): Float64Array => poseAt(motion, t / 1000);
    return {
      how,
      moves: true,
      startOf,
      durationMs: Math.max(lastStart, plan.durationS * 1000),
      valueAt: (map, t) => nativeAt(map, mechanism, pose(t)) ?? readBack.get(map.drive.id) ?? 0,
      poseAt: pose,
    };
  }
  if (how === 'hold')
    return {
      how,
      moves: false,
      startOf,
      durationMs: lastStart,
      valueAt: (map) => held(map.native, readBack.get(map.drive.id) ?? nativeAt(map, mechanism, stands) ?? 0),
      poseAt: () => null,
    };
  const ways = new Map(maps.map((map) => [map.drive.id, wayToNeutral(map, readBack, rig.powerUp.maxDegPerS)]));
  return {
    how,
    moves: true,
    startOf,
    durationMs: Math.max(lastStart, ...maps.map((map) => startOf(map) + ways.get(map.drive.id)!.ms)),
    valueAt(map, t) {
      const { from, to, ms } = ways.get(map.drive.id)!;
      const share = ms === 0 ? 1 : Math.min(1, Math.max(0, (t - startOf(map)) / ms));
      return Math.round(from + share * (to - from));
    },
    poseAt: () => null,
  };
}

/** A motor's way to its neutral at a gentle speed of its shaft; motors without one stay. */
function wayToNeutral(
  map: DriveMap,
  readBack: ReadonlyMap<string, number>,
  maxDegPerS: number,
): { from: number; to: number; ms: number } {
  const neutral = neutralOf(map);
  const from = readBack.get(map.drive.id) ?? neutral ?? 0;
  const to = neutral ?? from;
  return { from, to, ms: (1000 * Math.abs(to - from)) / (Math.abs(map.native.perDeg) * maxDegPerS) };
}

/** What is queued on a board (ms) just after it took a point, and for how long motors may lag behind the last. */
export const RISING = 30;
const SETTLE = 60;

/** A bring-up under way: what is due at each look at the clock. */
export class BringUpUnderway implements Activity {
  readonly cushionMs = RISING;
  /** Where motors stand when they are switched on is not the arm's to choose. */
  readonly leeway = Infinity;
  private readonly woken = new Set<string>();

  constructor(
    readonly plan: BringUp,
    private readonly maps: readonly CommandMap[],
    private readonly began: number,
  ) {}

  wakes(now: number): Values {
    const t = now - this.began;
    const due = this.maps.filter((map) => !this.woken.has(map.drive.id) && this.plan.startOf(map) <= t);
    for (const map of due) this.woken.add(map.drive.id);
    return due.map((map) => [map, this.plan.valueAt(map, this.plan.startOf(map))]);
  }

  get isMoving(): boolean {
    return this.plan.moves;
  }
  /** Its time is the clock's: where the motors are to be is asked for at each point anew, and nothing that was late is made up. */
  beat(): void {}
  stall(): void {}

  /** Of the motors that are on. */
  pointAt(now: number): Point | null {
    if (!this.plan.moves) return null;
    const t = now - this.began;
    const values = this.maps
      .filter((map) => this.woken.has(map.drive.id))
      .map((map) => [map, this.plan.valueAt(map, t)] as const);
    return { values, pose: this.plan.poseAt(t) };
  }

  outcome(now: number): 'finished' | null {
    return now - this.began >= this.plan.durationMs + (this.plan.moves ? SETTLE : 0) ? 'finished' : null;
  }
  close(desk: Desk, outcome: Outcome): Partial<Status> {
    const isOn = outcome === 'finished';
    const isNeutral = this.plan.how === 'neutral';
    // A motor without a trace of where it was stands where it was sent.
    if (isOn && !isNeutral) desk.standAsSent();
    return { mode: isOn && isNeutral ? 'neutral' : 'normal' };
  }
}
