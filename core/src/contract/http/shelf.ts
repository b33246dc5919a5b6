/** What the shelf shows of rigs, and how they are saved: without the document itself, so that a page which only lists them is small. */
import { z } from 'zod';
import { at, whole } from './shapes';

const id = z.string().describe('id of the rig on the shelf');
const revision = whole.describe('one more at each save');
export const rigSummary = z.strictObject({
  id,
  name: z.string().describe('of the rig'),
  revision,
  updatedAt: at,
  joints: whole.describe('how many joints it has'),
  routines: whole.describe('how many routines it has'),
  unreadable: z
    .strictObject({
      reason: z.string().describe('what is wrong with what is saved, in a sentence'),
      canGoBack: z.boolean().describe('whether the state before the last save is kept'),
    })
    .nullable()
    .describe('of a rig that can no longer be opened; null of all others'),
});
export const rigList = z.strictObject({ rigs: z.array(rigSummary).describe('last changed first') });
/** Of a rig that is opened or saved, beside its document. */
export const rigHead = z.strictObject({ id, revision, updatedAt: at });
export const savedAnswer = z.strictObject({ revision, updatedAt: at });

export const restoredAnswer = z.strictObject({ rigs: whole.describe('how many rigs are on the shelf now') });

/** Which of the runs of a rig: so many from one on, the latest being the first. */
export const runPage = z.strictObject({
  from: z.coerce.number().int().min(0).max(10_000_000).default(0).describe('how many of the latest are left out'),
  count: z.coerce.number().int().min(1).max(500).default(50).describe('how many of them'),
});
export const runList = z.strictObject({
  total: whole.describe('how many runs of the rig are kept'),
  runs: z
    .array(
      z.strictObject({
        id: z.string().describe('of the run'),
        rigId: id,
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
      }),
    )
    .describe('those that were asked for, the latest first'),
});

export type RigSummary = z.infer<typeof rigSummary>;
export type RunEntry = z.infer<typeof runList>['runs'][number];
