/**
 * Which line a board is reached by, and its pins as channels there. A board that hangs on another is reached by that one's line, behind
 * its pins; every other board has a line of its own.
 */
import { channelOf } from '../board/protocol';
import type { Board, Rig } from '../rig';

type Boards = Pick<Rig, 'boards'>;

/** The board at the end of the line by which another is reached: what it hangs on, and so on; itself where it hangs on none. */
function lineOf({ boards }: Boards, board: Board): Board {
  const passed = new Set([board]);
  for (let at = board; ;) {
    const next = boards.find((b) => b.id === at.host);
    // Boards that hang on each other are a finding of the wiring; here each is one.
    if (!next || passed.has(next)) return next ? board : at;
    passed.add((at = next));
  }
}

/** The boards of a rig that have a line of their own, in its order. */
export const linedBoards = (rig: Boards): Board[] => rig.boards.filter((board) => lineOf(rig, board) === board);

/** The boards that one line reaches: the one at its end, then those that hang on it, in the order of the rig. */
export const boardsOn = (rig: Boards, line: string): Board[] =>
  rig.boards
    .filter((board) => lineOf(rig, board).id === line)
    .sort((a, b) => Number(b.id === line) - Number(a.id === line));

export interface LinePin {
  /** The board at the end of the line, and the number of the pin there. */
  readonly line: string;
  readonly channel: number;
}

/** Where a board's pin is reached, or undefined where there is none. */
export function linePins(rig: Boards): (board: string, pin: number) => LinePin | undefined {
  const places = new Map(
    linedBoards(rig).flatMap(({ id }) => boardsOn(rig, id).map((board, k) => [board.id, { board, line: id, k }])),
  );
  return (id, pin) => {
    const place = places.get(id);
    if (!place?.board.pins.some((p) => p.pin === pin)) return undefined;
    return { line: place.line, channel: channelOf(place.k, pin) };
  };
}

/** How many pins one line reaches. */
export const pinCount = (rig: Boards, line: string): number =>
  boardsOn(rig, line).reduce((sum, { pins }) => sum + pins.length, 0);
