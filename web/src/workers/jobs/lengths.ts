import { lengthsJob, type LengthRequest } from '@cork-elbow/core/reach';
import { defineJob } from '../define-job';

/** The smallest arm that reaches all spots. */
export const lengths = defineJob({
  label: 'Looking for the smallest arm',
  run: ({ rig, build }, ask: Omit<LengthRequest, 'doc' | 'mounting'>) =>
    lengthsJob({ doc: rig.mechanism, mounting: build.mounting, ...ask }),
});
