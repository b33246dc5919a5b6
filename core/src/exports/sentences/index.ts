/** A routine as plain sentences, one a step. */
import { z } from 'zod';
import { formatRoutine } from '../../routine';
import { fileName } from '../../rig';
import { defineExport } from '../export';
import { finding } from '../findings';

export const sentences = defineExport({
  id: 'sentences',
  name: 'Sentences',
  says: 'The routine as plain sentences, one a step, to read, to keep and to bring in again.',
  takes: ['routine'],
  options: z.strictObject({}),
  lacks: ({ planned }) =>
    planned?.routine.steps.length ? [] : [finding('export-no-routine', { station: 'routine' })],
  write: ({ rig, rigId, planned }) =>
    planned
      ? [
          {
            name: fileName(rigId, planned.routine.id, 'txt'),
            mediaType: 'text/plain',
            text: `${formatRoutine(rig, planned.routine)}\n`,
          },
        ]
      : [],
});
