/** Kinds of arm to begin with, and the rig that measures make of one. */
import { z } from 'zod';
import { examples, finite } from './shapes';
import { rigSchema } from '../../rig/schema';

export const presetList = z.strictObject({
  presets: z.array(
    z.strictObject({
      id: z.string().describe('what the call that makes a rig names'),
      name: z.string().describe('the kind of arm'),
      says: z.string().describe('what it is for, in one line'),
      measures: z.array(
        z.strictObject({
          key: z.string().describe('what the call that makes a rig names'),
          label: z.string().describe('what is measured, in words'),
          unit: z.enum(['mm', '°']).describe('unit of usual, min and max'),
          usual: z.number().describe('taken where the measure is left out'),
          min: z.number().describe('the least that is allowed'),
          max: z.number().describe('the most that is allowed'),
        }),
      ),
    }),
  ),
});
export const presetBody = z
  .strictObject({
    name: z.string().trim().min(1).max(80).describe('what the rig is to be called'),
    measures: z
      .record(z.string(), finite)
      .default({})
      .describe('by key of the measure: mm or °, as the list of presets says'),
  })
  .meta(examples({ 'usual measures': { name: 'Glaze stirrer' } }));
export const presetAnswer = z.strictObject({
  rig: rigSchema.describe('the document; it is on no shelf until it is put there'),
});
