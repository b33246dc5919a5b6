/** Pins as channels of the line protocol: by the board, in the order of the rig, and the pin's own number. */
import { channelOf } from '../board/protocol';
import type { Rig } from '../rig';

/** The channel of a board's pin, or undefined where there is none. */
export function lineChannels(rig: Pick<Rig, 'boards'>): (board: string, pin: number) => number | undefined {
  return (id, pin) => {
    const k = rig.boards.findIndex((b) => b.id === id);
    return rig.boards[k]?.pins.some((p) => p.pin === pin) ? channelOf(k, pin) : undefined;
  };
}

/** How many pins all boards have together. */
export const pinCount = (rig: Pick<Rig, 'boards'>): number => rig.boards.reduce((sum, b) => sum + b.pins.length, 0);
