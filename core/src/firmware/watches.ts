/** Sensors on joints that correct what their motors are told: which motor, and which whole number a reading stands for. */
import { isSpin, nativeAt } from '../actuators';
import { sensorReading } from '../calibration';
import { sensorPins } from '../commands';
import { fromUnit, inUnit } from '../mechanism';
import { entryOf, type Sensor } from '../rig';
import { NO_PIN, type Described } from './described';

export interface Watch {
  readonly sensor: Sensor;
  readonly pin: number;
  readonly address: number;
  readonly port: number;
  /** Place in the board's motors. */
  readonly motor: number;
  /** Raw count in the middle of the joint's range, how many it is to either end, and after how many it begins again; 0: it does not. */
  readonly middle: number;
  readonly half: number;
  readonly turn: number;
  /** Whole numbers of the motor evenly between both ends, by rising counts. */
  readonly places: readonly number[];
  /** Most that it is corrected by, either way. */
  readonly most: number;
}

export const WATCH_PLACES = 17;
/** Most correction, in the joint's unit. */
const MOST = 5;

/** Of sensors on joints whose zero is known on this build, each with the one motor that moves its joint alone. */
export function watchesOf({ rig, build, mechanism, motors, board }: Described): Watch[] {
  return sensorPins(rig).flatMap(({ sensor, line, channel }): Watch[] => {
    const slot = sensor.joint === null ? undefined : mechanism.slotOf.get(sensor.joint);
    if (slot === undefined || sensor.side !== 'joint' || line !== board.id || channel > NO_PIN) return [];
    if (!entryOf(build.sensors, sensor.id) || mechanism.units[mechanism.jointOfSlot[slot]] !== '°') return [];
    const [lower, upper] = [mechanism.lower, mechanism.upper].map((ends) => inUnit(mechanism, slot, ends[slot]));
    const turn = sensor.wraps ? Math.round(sensor.countsPerTurn) : 0;
    // More than a turn of it may stand for several angles.
    if (!Number.isFinite(upper - lower) || (turn && upper - lower >= TURN)) return [];
    const { zero, direction } = sensorReading(build, sensor);
    const perDeg = (direction * sensor.countsPerTurn) / TURN;
    const [from, to] = direction > 0 ? [lower, upper] : [upper, lower];
    const pose = mechanism.home.slice();
    return motors.flatMap(({ map, rest }, motor): Watch[] => {
      if (isSpin(map) || map.slots.length !== 1 || map.slots[0] !== slot) return [];
      const at = (deg: number): number => {
        pose[slot] = fromUnit(mechanism, slot, deg);
        return nativeAt(map, mechanism, pose) ?? rest;
      };
      const middle = (lower + upper) / 2;
      const [low, high] = [Math.max(lower, middle - MOST), Math.min(upper, middle + MOST)];
      return [
        {
          ...{ sensor, pin: channel, address: sensor.address ?? NO_PIN, port: sensor.port ?? NO_PIN, motor, turn },
          middle: Math.round(zero + perDeg * middle),
          half: Math.max(1, Math.round(Math.abs(perDeg) * ((upper - lower) / 2))),
          places: Array.from({ length: WATCH_PLACES }, (_, k) => at(from + ((to - from) * k) / (WATCH_PLACES - 1))),
          most: Math.max(1, Math.round(Math.abs(at(high) - at(low)) / 2)),
        },
      ];
    });
  });
}
const TURN = 360;
