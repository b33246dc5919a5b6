/** The arm as it stands, as a drawing to scale. */
import { z } from 'zod';
import { drawRig, toSvg } from '../../drawing';
import { tipTrace } from '../../kinematics';
import { fileName } from '../../rig';
import { defineExport } from '../export';

const WIDTH = 1000;
const HEIGHT = 760;

export const drawing = defineExport({
  id: 'drawing',
  name: 'Drawing',
  says: 'The arm in the pose on show, to scale, with what stands around it.',
  takes: ['pose', 'routine'],
  options: z.strictObject({
    view: z
      .enum(['side', 'front', 'plan'])
      .default('side')
      .meta({ title: 'Seen from', titles: { side: 'the side', front: 'the front', plan: 'above' } }),
    dimensions: z.boolean().default(true).meta({ title: 'Dimensions' }),
    frames: z.boolean().default(false).meta({ title: 'Frames' }),
    path: z.boolean().default(false).meta({ title: 'Path of the tool' }),
  }),
  lacks: () => [],
  write: ({ rig, mechanism, rigId, q, planned }, { view, dimensions, frames, path }) => {
    const motion = path ? planned?.motion : undefined;
    const trace = motion?.durationS ? tipTrace(mechanism, motion) : null;
    const layers = { trace, ...(frames ? { frames: true as const } : {}) };
    const drawn = drawRig({ rig, mechanism, q, kind: view, width: WIDTH, height: HEIGHT, dimensions, layers });
    const what = { side: 'side-view', front: 'front-view', plan: 'plan' }[view];
    return [{ name: fileName(rigId, what, 'svg'), mediaType: 'image/svg+xml', text: toSvg(drawn) }];
  },
});
