import { z } from 'zod';
import { factSchema, rigSchema } from '../../rig/schema';
import { at, examples, whole } from './shapes';

export const healthAnswer = z.strictObject({
  ok: z.literal(true).describe('calls are served'),
  version: z.string().describe('of the product'),
});

const id = z.string().describe('id of the rig on the shelf');
const revision = whole.describe('one more at each save');
export const rigSummary = z.strictObject({
  id,
  name: z.string().describe('of the rig'),
  revision,
  updatedAt: at,
  joints: whole.describe('how many joints it has'),
  routines: whole.describe('how many routines it has'),
});
export const rigList = z.strictObject({ rigs: z.array(rigSummary).describe('last changed first') });
export const rigAnswer = z.strictObject({ id, revision, updatedAt: at, rig: rigSchema.describe('the document') });
export const newRigBody = z.strictObject({
  rig: rigSchema.describe('the document; older versions are brought up to date'),
  id: z.string().optional().describe('made from the name where it is left out'),
});
export const saveBody = z.strictObject({
  revision: whole.describe('the revision that the change began at'),
  rig: rigSchema.describe('the whole document'),
});
export const savedAnswer = z.strictObject({ revision, updatedAt: at });

export const runList = z.strictObject({
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
        outcome: z.string().nullable().describe('finished, stopped or failed; null while it runs'),
        durationMs: z.number().nullable().describe('ms, its way to the begin left out'),
        worstError: z
          .record(z.string(), z.number())
          .nullable()
          .describe('by id of the joint: the widest gap between told and read back, ° or mm'),
      }),
    )
    .describe('the last fifty, the latest first'),
});

/** A row of a build's history of measurements. */
export const calibrationEntry = z.strictObject({
  id: z.string().describe('of the row'),
  takenAt: at,
  note: z.string().describe('in words'),
  fact: factSchema.describe('what was measured'),
});
export const calibrationList = z.strictObject({
  calibrations: z.array(calibrationEntry).describe('the latest first'),
});
export const calibrationBody = z
  .strictObject({
    fact: factSchema.describe('what was measured'),
    note: z.string().max(200).default('').describe('in words'),
  })
  .meta(
    examples({
      'slack of a joint': {
        fact: { kind: 'backlash', joint: 'elbow', backlash: { slack: 0.4, takenOn: '2026-11-02' } },
        note: 'cold hall',
      },
    }),
  );

export type RigSummary = z.infer<typeof rigSummary>;
export type RigAnswer = z.infer<typeof rigAnswer>;
export type RunEntry = z.infer<typeof runList>['runs'][number];
export type CalibrationEntry = z.infer<typeof calibrationEntry>;
