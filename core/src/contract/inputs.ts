/** Inputs as they are made to be while a routine is tried without a board. */
import { z } from 'zod';

/** An input's state from the beginning on, and the times (s) at which it changes over. */
export const simulatedInput = z.strictObject({
  from: z.boolean().describe('its state at the beginning'),
  changesS: z.array(z.number().min(0).max(86_400)).max(200).default([]).describe('s at which it changes over'),
});
export const simulatedInputs = z.record(z.string(), z.union([z.boolean(), simulatedInput]));
export type SimulatedInputs = z.output<typeof simulatedInputs>;
