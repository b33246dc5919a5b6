/** How much a board holds of a table, and what fits. */
import type { Board } from '../rig';

/** Bytes of flash that programs may have, of the kinds of boards. */
const flash: Partial<Record<Board['kind'], number>> = { 'small-8-bit': 32_256, 'large-8-bit': 253_952 };
/** What a player, the platform's own parts and a little room take. */
const PROGRAM = 9_000;
/** Such boards read no farther than this without more ado. */
const NEAR = 32_000;
const LARGE = 1_000_000;

/** Most bytes that a table may have on a kind of board. */
export function tableRoom(kind: Board['kind']): number {
  const whole = flash[kind];
  return whole === undefined ? LARGE : Math.min(NEAR, whole - PROGRAM);
}
