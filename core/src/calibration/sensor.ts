/** From raw readings of a build's sensors to angles, and the calibration of knobs and potentiometers. */
import { entryOf, type Build, type Sensor, type SensorReading } from '../rig';

const TURN = 360;
const unread: SensorReading = { zero: 0, direction: 1, takenOn: '' };

export const sensorReading = (build: Build, sensor: Sensor): SensorReading =>
  entryOf(build.sensors, sensor.id) ?? unread;

/** The angle (°, or mm) of a raw reading; of a sensor that begins again after a turn the one nearest to 0, in (−180, 180]. */
export function sensorAngle(build: Build, sensor: Sensor, raw: number): number {
  const { zero, direction } = sensorReading(build, sensor);
  const turned = (direction * (raw - zero) * TURN) / sensor.countsPerTurn;
  if (!sensor.wraps) return turned;
  const wrapped = turned - TURN * Math.round(turned / TURN);
  return wrapped === -TURN / 2 ? TURN / 2 : wrapped;
}

/**
 * Zero and sense from a reading at a known angle and one a known way further on; `moved` in the sensor's own unit. Null
 * where the readings do not differ.
 */
export function zeroFrom(
  sensor: Sensor,
  at: { readonly raw: number; readonly angle: number },
  after: { readonly raw: number; readonly angle: number },
): Pick<SensorReading, 'zero' | 'direction'> | null {
  let counts = after.raw - at.raw;
  if (sensor.wraps) counts -= sensor.countsPerTurn * Math.round(counts / sensor.countsPerTurn);
  const moved = after.angle - at.angle;
  if (counts === 0 || moved === 0) return null;
  const direction = Math.sign(counts) === Math.sign(moved) ? 1 : -1;
  const zero = at.raw - (direction * at.angle * sensor.countsPerTurn) / TURN;
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
