/** Numbers of pins on the line protocol: the boards' pins one board after the other, in the order of the rig. */
import type { Rig } from '../rig';

/** Channels that a board takes on the line: up to its highest pin. */
const width = (board: Rig['boards'][number]): number => Math.max(...board.pins.map((p) => p.pin)) + 1;

/** The channel of a board's pin, or undefined where there is none. */
export function lineChannels(rig: Pick<Rig, 'boards'>): (board: string, pin: number) => number | undefined {
  const first = new Map<string, number>();
  let next = 0;
  for (const board of rig.boards) {
    first.set(board.id, next);
    next += width(board);
  }
  return (id, pin) => {
    const board = rig.boards.find((b) => b.id === id);
    return board?.pins.some((p) => p.pin === pin) ? first.get(id)! + pin : undefined;
  };
}

export const lineWidth = (rig: Pick<Rig, 'boards'>): number => rig.boards.reduce((sum, b) => sum + width(b), 0);
