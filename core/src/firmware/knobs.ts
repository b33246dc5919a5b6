/** Hand control: which motor follows which knob, and by what numbers. */
import { isSpin, nativeAt } from '../actuators';
import { sensorRaw, sensorReading } from '../calibration';
import { sensorPins } from '../commands';
import { fromUnit, toSlots } from '../mechanism';
import type { Leader, Sensor } from '../rig';
import { NO_PIN, type Described } from './described';
import { speedsOf, type Speeds } from './speeds';

/** A motor that follows a sensor: between two raw counts by a table of places (native numbers), evenly apart. */
export interface Knob {
  readonly leader: Leader;
  /** Places in `sensors` and in the board's motors. */
  readonly sensor: number;
  readonly motor: number;
  readonly low: number;
  readonly high: number;
  readonly places: readonly number[];
}
export interface KnobSensor {
  readonly sensor: Sensor;
  readonly pin: number;
  readonly address: number;
  readonly port: number;
}
export interface Preset {
  readonly name: string;
  /** Of each motor of the board. */
  readonly places: readonly number[];
}
export const followings = ['place', 'change', 'speed'] as const;
/**
 * How motors follow. place: where a knob stands; change: as far as it is turned from where it was when it took over; speed: like a stick,
 * as fast as it is off its middle, and standing in it.
 */
export type Following = (typeof followings)[number];

export interface HandControl extends Speeds {
  readonly following: Following;
  /** Inputs (places in the board's signals) that choose the kept poses, in their order. */
  readonly buttons: readonly number[];
  readonly sensors: readonly KnobSensor[];
  readonly knobs: readonly Knob[];
  readonly presets: readonly Preset[];
  readonly startMs: number | null;
  /** Leaders whose joint no motor of this board moves alone, or whose sensor is on no pin of it. */
  readonly left: readonly Leader[];
}

/** Places of a table: pieces between them are straight. */
export const KNOB_PLACES = 17;
/** Presets have the letters 1 to 9. */
const MOST_PRESETS = 9;

export interface HandChoice {
  readonly startMs?: number | null;
  readonly following?: Following;
  /** Whether inputs choose kept poses. */
  readonly buttons?: boolean;
}
export function handControlOf(
  described: Described,
  { startMs = null, following = 'place', buttons = false }: HandChoice = {},
): HandControl {
  const { rig, build, mechanism, motors, board, signals } = described;
  const pins = sensorPins(rig).filter(({ line, channel }) => line === board.id && channel < 256);
  const sensors: KnobSensor[] = [];
  const left: Leader[] = [];
  const knobs = rig.leaders.flatMap((leader): Knob[] => {
    const at = pins.find(({ sensor }) => sensor.id === leader.sensor);
    const slot = mechanism.slotOf.get(leader.joint);
    const moved = motors.flatMap(({ map }, motor) =>
      !isSpin(map) && slot !== undefined && map.slots.length === 1 && map.slots[0] === slot ? [{ map, motor }] : [],
    );
    if (!at || slot === undefined || !moved.length) {
      left.push(leader);
      return [];
    }
    const { sensor, channel } = at;
    let index = sensors.findIndex((s) => s.sensor === sensor);
    if (index < 0)
      index =
        sensors.push({ sensor, pin: channel, address: sensor.address ?? NO_PIN, port: sensor.port ?? NO_PIN }) - 1;
    const reading = sensorReading(build, sensor);
    const raw = (deg: number): number => sensorRaw(reading, { ...sensor, wraps: false }, deg);
    const ends = [leader.low, leader.high].map((deg) => ({ deg, raw: raw(deg) })).sort((a, b) => a.raw - b.raw);
    const [low, high] = ends;
    return moved.map(({ map, motor }) => {
      const pose = mechanism.home.slice();
      const places = Array.from({ length: KNOB_PLACES }, (_, k) => {
        const deg = low.deg + ((high.deg - low.deg) * k) / (KNOB_PLACES - 1);
        const wished = fromUnit(mechanism, slot, leader.offset + leader.scale * deg);
        pose[slot] = Math.min(mechanism.upper[slot], Math.max(mechanism.lower[slot], wished));
        return nativeAt(map, mechanism, pose) ?? motors[motor].rest;
      });
      return { leader, sensor: index, motor, low: low.raw, high: Math.max(low.raw + 1, high.raw), places };
    });
  });
  const presets = rig.poses.slice(0, MOST_PRESETS).map(({ name, joints }) => {
    const pose = toSlots(mechanism, joints);
    const places = motors.map(({ map, rest }) => (isSpin(map) ? rest : (nativeAt(map, mechanism, pose) ?? rest)));
    return { name, places };
  });
  const inputs = signals.flatMap(({ isOutput, stops }, k) => (isOutput || stops ? [] : [k]));
  return {
    ...{ sensors, knobs, presets, startMs, left, following, ...speedsOf(described) },
    buttons: buttons ? inputs.slice(0, presets.length) : [],
  };
}
