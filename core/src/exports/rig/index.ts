/** The whole rig, as it is kept. */
import { z } from 'zod';
import { fileName } from '../../rig';
import { defineExport } from '../export';

export const rig = defineExport({
  id: 'rig',
  name: 'Rig file',
  says: 'The whole rig, to keep elsewhere or give to somebody else with a Cork Elbow.',
  takes: [],
  options: z.strictObject({}),
  lacks: () => [],
  write: (source) => [
    {
      name: fileName(source.rigId, '', 'rig.json'),
      mediaType: 'application/json',
      text: JSON.stringify(source.rig, null, 2),
    },
  ],
});
