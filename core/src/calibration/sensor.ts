/** From raw readings of a build's sensors to angles, and the calibration of knobs and potentiometers. */
import { entryOf, type Build, type Sensor, type SensorReading } from '../rig';

const TURN = 360;
const unread: SensorReading = { zero: 0, direction: 1, takenOn: '' };

export const sensorReading = (build: Build, sensor: Sensor): SensorReading =>
  entryOf(build.sensors, sensor.id) ?? unread;

/** What a turn of its counts stands for: 360°, or 1 mm of a slide that it sits on itself. `slides`: its joint does. */
export const sensorSpan = ({ side }: Pick<Sensor, 'side'>, slides: boolean): number =>
  slides && side === 'joint' ? 1 : TURN;

/**
 * The angle (°, or mm) of a raw reading; of a sensor that begins again after a turn the one nearest to 0, in (−180, 180] (half a mm either
 * way for one of a slide).
 */
export function sensorAngle(build: Build, sensor: Sensor, raw: number, slides = false): number {
  const { zero, direction } = sensorReading(build, sensor);
  const span = sensorSpan(sensor, slides);
  const turned = (direction * (raw - zero) * span) / sensor.countsPerTurn;
  if (!sensor.wraps) return turned;
  const wrapped = turned - span * Math.round(turned / span);
  return wrapped === -span / 2 ? span / 2 : wrapped;
}

/** The raw reading (whole) at an angle (°, or mm): the inverse of {@link sensorAngle}. `offBy`: raw counts that it reads beside that. */
export function sensorRaw(
  { zero, direction }: Pick<SensorReading, 'zero' | 'direction'>,
  sensor: Sensor,
  angle: number,
  slides = false,
  offBy = 0,
): number {
  const raw = Math.round(zero + (direction * angle * sensor.countsPerTurn) / sensorSpan(sensor, slides) + offBy);
  return sensor.wraps ? modulo(raw, Math.round(sensor.countsPerTurn)) : raw;
}

/**
 * The middle of several readings at rest, and how wide they swing; of a sensor that begins again after a turn the short way round it, from
 * the first of them. Null without any.
 */
export function restingAt(
  sensor: Sensor,
  raws: readonly number[],
): { readonly raw: number; readonly swing: number } | null {
  if (!raws.length) return null;
  const [first] = raws;
  const turn = sensor.countsPerTurn;
  const off = raws.map((raw) => (sensor.wraps ? raw - first - turn * Math.round((raw - first) / turn) : raw - first));
  const mean = first + off.reduce((sum, v) => sum + v, 0) / off.length;
  return { raw: sensor.wraps ? modulo(mean, turn) : mean, swing: Math.max(...off) - Math.min(...off) };
}

/**
 * Where a joint is (its unit) by a reading: of all angles that it may stand for the one inside its limits (`low` to `high`, `leeway`
 * beyond them) that is nearest to where it is believed to be. Null where none is.
 */
export function placeBy(
  sensor: Sensor,
  angle: number,
  slides: boolean,
  { low, high, believed, leeway }: Readonly<Record<'low' | 'high' | 'believed' | 'leeway', number>>,
): number | null {
  const span = sensorSpan(sensor, slides);
  const at = sensor.wraps ? angle + span * Math.round((believed - angle) / span) : angle;
  const inside = (v: number): boolean => v >= low - leeway && v <= high + leeway;
  const near = sensor.wraps ? [at, at - span, at + span] : [at];
  const fits = near.filter(inside).sort((a, b) => Math.abs(a - believed) - Math.abs(b - believed));
  return fits[0] ?? null;
}

/**
 * Zero and sense from a reading at a known angle and one a known way further on; `moved` in the sensor's own unit. Null
 * where the readings do not differ.
 */
export function zeroFrom(
  sensor: Sensor,
  at: { readonly raw: number; readonly angle: number },
  after: { readonly raw: number; readonly angle: number },
  slides = false,
): Pick<SensorReading, 'zero' | 'direction'> | null {
  let counts = after.raw - at.raw;
  if (sensor.wraps) counts -= sensor.countsPerTurn * Math.round(counts / sensor.countsPerTurn);
  const moved = after.angle - at.angle;
  if (counts === 0 || moved === 0) return null;
  const direction = Math.sign(counts) === Math.sign(moved) ? 1 : -1;
  const zero = at.raw - (direction * at.angle * sensor.countsPerTurn) / sensorSpan(sensor, slides);
  return { zero: sensor.wraps ? modulo(zero, sensor.countsPerTurn) : zero, direction };
}
const modulo = (v: number, n: number): number => ((v % n) + n) % n;

export interface KnobReadings {
  /** Readings held at one end, at the other, and at the middle; several each. */
  readonly low: readonly number[];
  readonly high: readonly number[];
  readonly centre: readonly number[];
}

/**
 * Ends, centre, noise and dead band of a knob: the noise is the widest swing at rest, the dead band just covers it. Null where the
 * middle is not between the ends, further from each than the dead band.
 */
export function knobOf({ low, high, centre }: KnobReadings): SensorReading['ends'] | null {
  if (!low.length || !high.length || !centre.length) return null;
  const middle = (list: readonly number[]): number => list.reduce((sum, v) => sum + v, 0) / list.length;
  const swing = (list: readonly number[]): number => Math.max(...list) - Math.min(...list);
  const noise = Math.max(swing(low), swing(high), swing(centre));
  const [a, b, c] = [middle(low), middle(high), middle(centre)];
  const deadBand = Math.ceil(noise / 2) + 1;
  if ((c - a) * (b - c) < 0 || Math.min(Math.abs(c - a), Math.abs(b - c)) <= deadBand) return null;
  return { low: a, high: b, centre: c, noise, deadBand };
}

/** A knob's reading as a share −1 … 1 of its way from the centre, each side by its own end; 0 inside the dead band. */
export function knobShare(ends: NonNullable<SensorReading['ends']>, raw: number): number {
  const off = raw - ends.centre;
  if (Math.abs(off) <= ends.deadBand) return 0;
  const towardsHigh = Math.sign(off) === Math.sign(ends.high - ends.centre);
  const span = Math.abs((towardsHigh ? ends.high : ends.low) - ends.centre);
  const share = Math.min(1, (Math.abs(off) - ends.deadBand) / (span - ends.deadBand));
  return towardsHigh ? share : -share;
}
