/** A bridge: the board at the end of the line, of protocol 2 (docs/protocol.md). The simulated board of the core does the same. */
import { moves } from './moves';
import { orders } from './orders';
import { rounds } from './rounds';
import { state } from './state';

export { bridgeTypes } from './state';
export const bridge: readonly string[] = [state, rounds, moves, orders];
