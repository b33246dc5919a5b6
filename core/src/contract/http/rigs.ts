import { z } from 'zod';
import { factSchema, rigSchema } from '../../rig/schema';
import { at, examples, whole } from './shapes';
import { rigHead } from './shelf';

export const healthAnswer = z.strictObject({
  ok: z.literal(true).describe('calls are served'),
  version: z.string().describe('of the product'),
});

export const rigAnswer = rigHead.extend({ rig: rigSchema.describe('the document') });
export const newRigBody = z.strictObject({
  rig: rigSchema.describe('the document; older versions are brought up to date'),
  id: z.string().optional().describe('made from the name where it is left out'),
});
export const saveBody = z.strictObject({
  revision: whole.describe('the revision that the change began at'),
  rig: rigSchema.describe('the whole document'),
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

export type RigAnswer = z.infer<typeof rigAnswer>;
export type CalibrationEntry = z.infer<typeof calibrationEntry>;
