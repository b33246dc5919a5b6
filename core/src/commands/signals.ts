/** Inputs and outputs by what they say and do, and the levels of their pins. */
import { linePins } from '../actuators';
import type { Rig, Sensor, Signal } from '../rig';

export interface SignalPin {
  readonly signal: Signal;
  /** The board at the end of its line, and its pin as a channel there. */
  readonly line: string;
  readonly channel: number;
}

/** Those of a rig that are on a pin, in its order. */
export function signalPins(rig: Pick<Rig, 'boards' | 'signals'>): SignalPin[] {
  const place = linePins(rig);
  return rig.signals.flatMap((signal) => {
    const at = signal.board !== null && signal.channel !== null ? place(signal.board, signal.channel) : undefined;
    return at ? [{ signal, ...at }] : [];
  });
}

/** A sensor on a pin of the board at the end of a line; `id`: what it is called there. */
export interface SensorPin {
  readonly sensor: Sensor;
  readonly id: number;
  readonly line: string;
  readonly channel: number;
}
/** Those of a rig that are on a pin, in its order. */
export function sensorPins(rig: Pick<Rig, 'boards' | 'sensors'>): SensorPin[] {
  const place = linePins(rig);
  return rig.sensors.flatMap((sensor, k) => {
    const at = sensor.board !== null && sensor.channel !== null ? place(sensor.board, sensor.channel) : undefined;
    return at ? [{ sensor, id: k + 1, ...at }] : [];
  });
}

/** The level (0 or 1) at which a signal is on or off. */
export const levelOf = ({ activeLow }: Pick<Signal, 'activeLow'>, on: boolean): 0 | 1 =>
  on === (activeLow === true) ? 0 : 1;
/** Whether a signal is on at a level of its pin. */
export const isOnAt = (signal: Pick<Signal, 'activeLow'>, level: number): boolean => levelOf(signal, true) === level;
