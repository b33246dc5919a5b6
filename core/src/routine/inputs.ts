/** Inputs as they are made to be while a routine is tried without a board. */
import type { SimulatedInputs } from '../contract/inputs';

const changes = (input: SimulatedInputs[string] | undefined): readonly number[] =>
  typeof input === 'object' ? [...input.changesS].sort((a, b) => a - b) : [];
const first = (input: SimulatedInputs[string] | undefined): boolean =>
  typeof input === 'object' ? input.from : (input ?? false);

/** State at a time; an input about which nothing is said is off. */
export function readInput(inputs: SimulatedInputs, signal: string, atS: number): boolean {
  const input = Object.hasOwn(inputs, signal) ? inputs[signal] : undefined;
  return changes(input).filter((t) => t <= atS).length % 2 === 1 ? !first(input) : first(input);
}

/** Seconds from `atS` until it is as wanted; null: not in time. An input about which nothing is said comes at once. */
export function awaitInput(
  inputs: SimulatedInputs,
  signal: string,
  is: boolean,
  atS: number,
  atMostS: number | null,
): number | null {
  if (!Object.hasOwn(inputs, signal) || readInput(inputs, signal, atS) === is) return 0;
  const at = changes(inputs[signal]).find((t) => t > atS);
  if (at === undefined || (atMostS !== null && at - atS > atMostS)) return null;
  return at - atS;
}

/** When the last of them changes. */
export const settledAt = (inputs: SimulatedInputs): number =>
  Math.max(0, ...Object.values(inputs).flatMap((input) => [...changes(input)]));
