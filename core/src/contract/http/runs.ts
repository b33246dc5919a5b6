/** Runs of a rig and what is kept of them. */
import { z } from 'zod';
import { recordingEvent, recordingHead } from '../recording';
import { at, whole } from './shapes';

const outcomes = ['finished', 'stopped', 'failed', 'cut-off'] as const;
/** Which of the runs of a rig: so many from one on, the latest being the first. */
export const runPage = z.strictObject({
  from: z.coerce.number().int().min(0).max(10_000_000).default(0).describe('how many of the latest are left out'),
  count: z.coerce.number().int().min(1).max(500).default(50).describe('how many of them'),
  routine: z.string().max(64).optional().describe('only of that routine (id)'),
  outcome: z.enum(outcomes).optional().describe('only those that ended so'),
  named: z.stringbool().optional().describe('true: only those that were given a name'),
  text: z.string().max(200).optional().describe('only those in whose name, routine’s name or board that stands'),
});
export const runEntry = z.strictObject({
  id: z.string().describe('of the run'),
  rigId: z.string().describe('id of the rig on the shelf'),
  revision: z.number().describe('of the rig that ran'),
  buildId: z.string().describe('which arm of the rig'),
  routineId: z.string().describe('what ran'),
  routineName: z.string().describe('its name then'),
  board: z.string().describe('what it ran on'),
  startedAt: at,
  endedAt: at.nullable(),
  outcome: z
    .string()
    .nullable()
    .describe('finished, stopped, failed, or cut-off with the server; null while it runs'),
  durationMs: z.number().nullable().describe('ms, its way to the begin left out'),
  worstError: z
    .record(z.string(), z.number())
    .nullable()
    .describe('by id of the joint: the widest gap between told and read back, ° or mm'),
  name: z.string().describe('that somebody gave it; empty: none'),
  isRecorded: z.boolean().describe('whether its recording is kept'),
});
export const runList = z.strictObject({
  total: whole.describe('how many runs of the rig are kept that fit what was asked'),
  runs: z.array(runEntry).describe('those that were asked for, the latest first'),
});
export const runBody = z.strictObject({
  name: z.string().max(80).describe('what it is called from now on; empty: no name, and it goes when its time is up'),
});
export const recordingAnswer = z.strictObject({
  run: runEntry,
  head: recordingHead.describe('what its numbers are'),
  rows: whole.describe('how many rows were taken down so far'),
  events: z.array(recordingEvent).describe('what happened, in the order of time'),
});

/** For how long recordings are kept. */
export const keptBody = z.strictObject({
  days: z
    .number()
    .int()
    .min(1)
    .max(36_500)
    .nullable()
    .describe(
      'recordings of runs that have no name go after so many days, their line in the list stays; null: never',
    ),
});
export const USUAL_DAYS = 30;

export type RunEntry = z.infer<typeof runEntry>;
export type RunQuery = z.infer<typeof runPage>;
export type RecordingAnswer = z.infer<typeof recordingAnswer>;
