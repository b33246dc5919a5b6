/** What is kept of a run beside its row in the list: what it is of, and what happened. The rows themselves are described in core/src/recording. */
import { z } from 'zod';
import { runStates } from './run';

const count = z.number().int().min(0);
const name = z.string().describe('its name then');
export const recordingHead = z.strictObject({
  version: z.literal(1).describe('of this form'),
  program: z.string().describe('version of the program that ran it'),
  sampleMs: z.number().describe('ms from row to row; more where the computer was busy'),
  joints: z
    .array(
      z.strictObject({
        id: z.string().describe('of the joint'),
        name,
        unit: z.enum(['°', 'mm']).describe('its unit'),
      }),
    )
    .describe('in the order of the rows’ numbers'),
  signals: z
    .array(
      z.strictObject({
        id: z.string().describe('of the input or output'),
        name,
        way: z.enum(['in', 'out']).describe('in: the board reads it; out: it switches it'),
      }),
    )
    .describe('inputs and outputs of the rig'),
  boards: z
    .array(
      z.strictObject({
        id: z.string().describe('of the board'),
        name: z.string().describe('what it said of itself'),
        protocol: count.describe('version of the line protocol that it speaks'),
      }),
    )
    .describe('that ran it'),
});
export type RecordingHead = z.infer<typeof recordingHead>;

const atS = z.number().describe('s since the recording began');
export const recordingEvent = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('state'), atS, run: z.enum(runStates).describe('what the run does from now on') }),
  z.strictObject({
    kind: z.literal('step'),
    atS,
    stepId: z.string().describe('id of the step that begins'),
    words: z.string().describe('what it did then'),
  }),
  z.strictObject({
    kind: z.literal('signal'),
    atS,
    signal: z.string().describe('id of the input or output'),
    on: z.boolean().describe('whether it is on from now on'),
  }),
  z.strictObject({
    kind: z.literal('waits'),
    atS,
    signal: z.string().describe('id of the input that is waited for'),
    is: z.boolean().describe('what it is to be'),
  }),
  z.strictObject({ kind: z.literal('pace'), atS, share: z.number().describe('of the planned speed that is wished') }),
  z.strictObject({ kind: z.literal('notice'), atS, text: z.string().describe('what the page was told') }),
]);
export type RecordingEvent = z.infer<typeof recordingEvent>;
