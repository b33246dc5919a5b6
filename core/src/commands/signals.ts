/** Inputs and outputs by what they say and do, and the levels of their pins. */
import { linePins } from '../actuators';
import type { Rig, Signal } from '../rig';

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

/** The level (0 or 1) at which a signal is on or off. */
export const levelOf = ({ activeLow }: Pick<Signal, 'activeLow'>, on: boolean): 0 | 1 =>
  on === (activeLow === true) ? 0 : 1;
/** Whether a signal is on at a level of its pin. */
export const isOnAt = (signal: Pick<Signal, 'activeLow'>, level: number): boolean => levelOf(signal, true) === level;
