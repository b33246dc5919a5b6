/** Homing as a board carries it out by itself: what waits is led there, axes seek one after the other, and motors count from what was found. */
import { nativeAt, shaftSpeed, type DriveMap } from '../actuators';
import {
  freeing,
  homingGroups,
  homingSteps,
  homingStart,
  restPose,
  WAIT_SHARE,
  waitsOf,
  type HomingStep,
} from '../bring-up';
import { Channels } from '../commands';
import { fromUnit } from '../mechanism';
import { jointMove } from '../motion';
import { homingReady, type HomingReady } from '../routine';
import { doesCount, type Described } from './described';

export type HomingRecord =
  /** All motors go to these numbers, by then. */
  | { readonly kind: 'lead'; readonly seconds: number; readonly values: readonly number[] }
  /**
   * Motors (places among the board's) go at so many whole numbers a second until a signal (place) is at a level, or for so long. `ifOn`: only
   * where that signal is on before.
   */
  | {
      readonly kind: 'seek';
      readonly speeds: readonly { readonly motor: number; readonly perS: number }[];
      readonly until: { readonly signal: number; readonly on: boolean } | null;
      readonly ifOn: boolean;
      readonly ms: number;
    }
  | { readonly kind: 'count'; readonly motor: number; readonly value: number };

/** Homing of a board's motors; or why it has none, as a sentence. */
export type BoardHoming = { readonly records: readonly HomingRecord[] } | { readonly why: string };

export function homingOf(described: Described): BoardHoming {
  const { rig, build, mechanism, motors, board, signals } = described;
  if (!motors.some(doesCount)) return { why: '' };
  const ready = homingReady(rig, new Channels(rig, mechanism, build), build);
  if ('code' in ready) return { why: ready.message };
  if (ready.some(({ sensor }) => sensor)) return { why: 'An axis is homed by a sensor.' };
  const isElsewhere = ready.some(
    ({ pin, maps }) => (pin && pin.line !== board.id) || maps.some(({ line }) => line !== board.id),
  );
  if (isElsewhere) return { why: 'An axis has its motor or its switch on another board.' };

  const records: HomingRecord[] = [];
  const pose = homingStart(rig, mechanism, restPose(rig, mechanism));
  const motorOf = (map: DriveMap): number => motors.findIndex((motor) => motor.map.drive.id === map.drive.id);
  /** Motors that count are where the pose has them. */
  const count = (maps: readonly DriveMap[]): void => {
    for (const map of maps) {
      const value = nativeAt(map, mechanism, pose);
      if (value !== null) records.push({ kind: 'count', motor: motorOf(map), value });
    }
  };
  const lead = (to: Float64Array): void => {
    if (to.every((v, s) => Math.abs(v - pose[s]) < NEAR)) return;
    const { duration } = jointMove(mechanism, pose, to, { speedShare: WAIT_SHARE });
    pose.set(to);
    const values = motors.map(({ map, rest }) => ('native' in map ? (nativeAt(map, mechanism, pose) ?? rest) : rest));
    records.push({ kind: 'lead', seconds: duration * SLOWER, values });
  };
  const seek = ({ slot, maps, pin }: HomingReady, step: HomingStep, ifOn: boolean): void => {
    const unit = new Float64Array(mechanism.m);
    unit[slot] = fromUnit(mechanism, slot, Math.sign(step.way) * step.speed!);
    const speeds = maps.flatMap((map) => {
      const perS = map.native.perDeg * (shaftSpeed(map, mechanism, pose, unit)?.degPerS ?? 0);
      return perS === 0
        ? []
        : [{ motor: motorOf(map), perS: Math.sign(perS) * Math.max(1, Math.round(Math.abs(perS))) }];
    });
    const signal = pin ? signals.findIndex(({ id }) => id === pin.signal.id) : -1;
    const until = signal >= 0 && step.until !== null ? { signal, on: step.until } : null;
    const ms = Math.max(1, Math.round((1000 * Math.abs(step.way)) / step.speed!));
    records.push({ kind: 'seek', speeds, until, ifOn, ms });
  };

  for (const { axis, maps } of ready) if (axis.by === 'cradle' || axis.by === 'neutral') count(maps);
  for (const group of homingGroups(rig, mechanism)) {
    const waits = pose.slice();
    for (const [joint, value] of waitsOf(group, mechanism)) {
      const slot = mechanism.slotOf.get(joint)!;
      waits[slot] = fromUnit(mechanism, slot, value);
    }
    lead(waits);
    for (const { joint } of group) {
      const own = ready.find(({ axis }) => axis.joint === joint)!;
      const steps = homingSteps(own.axis, mechanism).filter(({ speed }) => speed !== null);
      if (own.pin && steps[0]?.until === true) seek(own, freeing(own.axis, mechanism), true);
      for (const step of steps) {
        seek(own, step, false);
        pose[own.slot] = fromUnit(mechanism, own.slot, step.to);
        // Its place is where it was sought slowly; what comes after that is counted from there.
        if (step.act === 'seek slowly') count(own.maps);
      }
    }
  }
  const { lower, upper } = mechanism;
  lead(pose.map((v, s) => Math.min(upper[s], Math.max(lower[s], v))));
  return { records };
}

/** Joints this near (rad or m) to where they wait stand there; and a way by minimum jerk peaks higher than one planned. */
const NEAR = 1e-6;
const SLOWER = 1.5;
