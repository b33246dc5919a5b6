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

export type RigSummary = z.infer<typeof rigSummary>;
