/** Switching drives on one after the other: held where they are, brought to neutral gently, or each to its own neutral before the horns are on. */
import { held, isSpin, nativeAt, type DriveMap, type CommandMap } from '@cork-elbow/core/actuators';
import { neutralOf, planPowerUp, powerUpMotion } from '@cork-elbow/core/bring-up';
import type { ArmHow } from '@cork-elbow/core/contract';
import type { Mechanism } from '@cork-elbow/core/mechanism';
import { poseAt } from '@cork-elbow/core/motion';
import type { Build, Rig } from '@cork-elbow/core/rig';
import { PERIOD, type Pacer } from './pacer';
import type { Values } from '@cork-elbow/core/commands';

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
  readBack: ReadonlyMap<number, number>,
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
  readBack: ReadonlyMap<number, number>,
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
      valueAt: (map, t) => nativeAt(map, mechanism, pose(t)) ?? readBack.get(map.channel!) ?? 0,
      poseAt: pose,
    };
  }
  if (how === 'hold')
    return {
      how,
      moves: false,
      startOf,
      durationMs: lastStart,
      valueAt: (map) => held(map.native, readBack.get(map.channel!) ?? nativeAt(map, mechanism, stands) ?? 0),
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
  readBack: ReadonlyMap<number, number>,
  maxDegPerS: number,
): { from: number; to: number; ms: number } {
  const neutral = neutralOf(map);
  const from = readBack.get(map.channel!) ?? neutral ?? 0;
  const to = neutral ?? from;
  return { from, to, ms: (1000 * Math.abs(to - from)) / (Math.abs(map.native.perDeg) * maxDegPerS) };
}

/** A bring-up under way: what is due at each look at the clock. */
export class BringUpUnderway {
  private readonly woken = new Set<string>();

  constructor(
    readonly plan: BringUp,
    private readonly maps: readonly CommandMap[],
    private readonly began: number,
    private readonly pacer: Pacer,
  ) {}

  /** Drives to be switched on now, with their values. */
  wakes(now: number): Values {
    const t = now - this.began;
    const due = this.maps.filter((map) => !this.woken.has(map.drive.id) && this.plan.startOf(map) <= t);
    for (const map of due) this.woken.add(map.drive.id);
    return due.map((map) => [map, this.plan.valueAt(map, this.plan.startOf(map))]);
  }

  /** Where those that are on are to be a period from now; null while nothing is due. */
  point(now: number): Values | null {
    if (!this.plan.moves || !this.pacer.isDue(now)) return null;
    // What was late is not made up: where the motors are to be is asked for at each point anew.
    if (this.pacer.late(now) > PERIOD) this.pacer.restart(now);
    else this.pacer.beat();
    return this.maps
      .filter((map) => this.woken.has(map.drive.id))
      .map((map) => [map, this.plan.valueAt(map, now - this.began)]);
  }

  poseAt(now: number): Float64Array | null {
    return this.plan.poseAt(now - this.began);
  }

  isDone(now: number, settleMs: number): boolean {
    return now - this.began >= this.plan.durationMs + (this.plan.moves ? settleMs : 0);
  }
}
