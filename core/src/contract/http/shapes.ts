/** What several calls share. */
import { z } from 'zod';

export const finite = z.number().min(-1e9).max(1e9);
export const whole = z.number().int();
export const xyzMm = z.tuple([finite, finite, finite]).describe('x forward, y left, z up; mm, world frame');
export const quaternion = z
  .tuple([finite, finite, finite, finite])
  .describe('[x, y, z, w], w last; any length, taken as a turn; answers have length 1 and w ≥ 0');
export const jointValues = z
  .record(z.string(), finite)
  .describe('by id of the joint: ° of joints that turn, mm of those that slide');
export const at = z.string().describe('when, ISO 8601, UTC');

/** Bodies to try a call with, by what each shows. */
export const examples = (
  named: Readonly<Record<string, unknown>>,
): { 'x-examples': Record<string, { value: unknown }> } => ({
  'x-examples': Object.fromEntries(Object.entries(named).map(([name, value]) => [name, { value }])),
});
