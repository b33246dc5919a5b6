/** What leaves a rig as a file and what comes into it as text; the catalogues stand in core/src/exports and core/src/imports. */
import { z } from 'zod';
import { findingSchema } from '../../findings';
import { rigSchema } from '../../rig/schema';
import { ofRig, routineInputs } from './compute';
import { examples, jointValues } from './shapes';

export const filesAnswer = z.strictObject({
  files: z.array(
    z.strictObject({
      name: z.string().describe('of the file'),
      mediaType: z.string().describe('of the text'),
      text: z.string().describe('what stands in it'),
    }),
  ),
  findings: z.array(findingSchema).describe('what stands against running it, and what is worth a look'),
});
export type FilesAnswer = z.infer<typeof filesAnswer>;

const options = z
  .record(z.string(), z.unknown())
  .default({})
  .describe('as the list describes them for this one; what is left out has its default');

export const exportBody = z
  .strictObject({
    ...ofRig,
    routineId: z.string().optional().describe('the routine, where it takes one; the first one where it is left out'),
    inputs: routineInputs,
    joints: jointValues.optional().describe('the pose, where it takes one; at home where it is left out'),
    options,
  })
  .meta(
    examples({
      'a drawing': { rigId: 'tile-dipper', joints: { elbow: 80 }, options: { view: 'side' } },
    }),
  );
const described = {
  id: z.string().describe('as in the path of its call'),
  name: z.string().describe('as people read it'),
  says: z.string().describe('what it is for'),
  options: z.record(z.string(), z.unknown()).describe('JSON Schema of its options'),
};
export const exportsAnswer = z.array(
  z.strictObject({ ...described, takes: z.array(z.string()).describe('beside the rig: a pose, a routine') }),
);

export const importBody = z
  .strictObject({
    ...ofRig,
    text: z
      .string()
      .max(4 * 1024 * 1024)
      .describe('what stands in the file'),
    options,
  })
  .meta(
    examples({
      'three spots': { rigId: 'tile-dipper', text: 'name; x; y; z\nrim; 170; 60; 130\nfoot; 170; 70; 40' },
    }),
  );
export const importsAnswer = z.array(
  z.strictObject({ ...described, endings: z.array(z.string()).describe('of files that it reads') }),
);
export const importAnswer = z.strictObject({
  problems: z.array(z.string()).describe('one sentence each; as long as there is one, nothing is taken in'),
  summary: z.string().describe('what is in the text'),
  rig: rigSchema.optional().describe('the rig with it taken in; nothing is saved: PUT it to keep it'),
});
