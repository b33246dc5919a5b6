/** Hand control: which motor follows which knob, and by what numbers. */
import { isSpin, nativeAt } from '../actuators';
import { sensorRaw, sensorReading } from '../calibration';
import { sensorPins } from '../commands';
import { fromUnit, toSlots } from '../mechanism';
import type { Leader, Sensor } from '../rig';
import { NO_PIN, type Described } from './described';
import { speedsOf, type Speeds } from './speeds';
import { MOST_PRESETS, pushes, steeringOf, type NoSteering, type Push, type Steered, type Stick } from './steering';

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
export const followings = ['place', 'change', 'speed', 'tool'] as const;
/**
 * How motors follow. place: where a knob stands; change: as far as it is turned from where it was when it took over; speed: like a stick,
 * as fast as it is off its middle, and standing in it; tool: sticks push the tool, and knobs lead the joints that it does not take.
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
  /** What sticks push; null: nothing, or not by this board (`noSteering` says why). */
  readonly steering: Steered | null;
  readonly noSteering: NoSteering | null;
  /** What sticks are chosen for that this tool cannot do. */
  readonly idlePushes: readonly Push[];
  /** Ids of sticks that are no sensors of this board. */
  readonly lostSticks: readonly string[];
  /** Leaders whose joint no motor of this board moves alone, or whose sensor is on no pin of it. */
  readonly left: readonly Leader[];
}

/** Places of a table: pieces between them are straight. */
export const KNOB_PLACES = 17;

export interface HandChoice {
  readonly startMs?: number | null;
  readonly following?: Following;
  /** Whether inputs choose kept poses. */
  readonly buttons?: boolean;
  /** Of sticks that push the tool: which, and how fast. */
  readonly steer?: SteerChoice;
}
export interface SteerChoice {
  readonly tool?: string | undefined;
  /** Ids of sensors, with a minus before one that pushes the other way. */
  readonly sticks: Partial<Readonly<Record<Push, string>>>;
  readonly mmPerS: number;
  readonly radPerS: number;
}
/** Counts of what a stick may be read by: a pin of the board, or an encoder. */
const PIN_COUNTS = 1024;
const ENCODER_COUNTS = 4096;
const standing: SteerChoice = { sticks: {}, mmPerS: 60, radPerS: Math.PI / 6 };
export function handControlOf(
  described: Described,
  { startMs = null, following = 'place', buttons = false, steer = standing }: HandChoice = {},
): HandControl {
  const { rig, build, mechanism, motors, board, signals } = described;
  const pins = sensorPins(rig).filter(({ line, channel }) => line === board.id && channel < 256);
  const sensors: KnobSensor[] = [];
  const left: Leader[] = [];
  /** Its place in the program's sensors; null: it is on no pin of this board. */
  const sensorAt = (id: string): number | null => {
    const at = pins.find(({ sensor }) => sensor.id === id);
    if (!at) return null;
    const known = sensors.findIndex(({ sensor }) => sensor === at.sensor);
    const { address, port } = at.sensor;
    if (known >= 0) return known;
    return sensors.push({ sensor: at.sensor, pin: at.channel, address: address ?? NO_PIN, port: port ?? NO_PIN }) - 1;
  };
  const found = following === 'tool' ? steeringOf(described, steer.tool) : null;
  const steers = found && 'goers' in found ? found : null;
  const steered = new Set(steers?.goers.map(({ motor }) => motor));
  const knobs = rig.leaders.flatMap((leader): Knob[] => {
    const index = sensorAt(leader.sensor);
    const slot = mechanism.slotOf.get(leader.joint);
    const moved = motors.flatMap(({ map }, motor) =>
      !isSpin(map) && slot !== undefined && map.slots.length === 1 && map.slots[0] === slot ? [{ map, motor }] : [],
    );
    if (index === null || slot === undefined || !moved.length) {
      left.push(leader);
      return [];
    }
    if (moved.every(({ motor }) => steered.has(motor))) return [];
    const { sensor } = sensors[index];
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
  const lostSticks: string[] = [];
  const sticks = pushes.flatMap((push): Stick[] => {
    const id = steer.sticks[push];
    if (!id || !steers?.pushes.includes(push)) return [];
    const reversed = id.startsWith('-');
    const sensor = sensorAt(reversed ? id.slice(1) : id);
    if (sensor === null) lostSticks.push(id);
    if (sensor === null) return [];
    const half = (sensors[sensor].address === NO_PIN ? PIN_COUNTS : ENCODER_COUNTS) / 2;
    return [{ sensor, push, reversed, half }];
  });
  const presets = rig.poses.slice(0, MOST_PRESETS).map(({ name, joints }) => {
    const pose = toSlots(mechanism, joints);
    const places = motors.map(({ map, rest }) => (isSpin(map) ? rest : (nativeAt(map, mechanism, pose) ?? rest)));
    return { name, places };
  });
  const inputs = signals.flatMap(({ isOutput, stops }, k) => (isOutput || stops ? [] : [k]));
  return {
    ...{ sensors, knobs, presets, startMs, left, following, lostSticks, ...speedsOf(described) },
    steering: steers && { ...steers, sticks, mmPerS: steer.mmPerS, radPerS: steer.radPerS },
    idlePushes: pushes.filter((push) => steer.sticks[push] && steers && !steers.pushes.includes(push)),
    noSteering: found && 'why' in found ? found : null,
    buttons: buttons ? inputs.slice(0, presets.length) : [],
  };
}
