import type { Task } from '@cork-elbow/core/kinematics';
import { fixesJob } from '@cork-elbow/core/reach';
import { rigStops, stoppedRoutines } from '@cork-elbow/core/routine';
import { defineJob } from '../define-job';

/** The smallest changes that would bring a target into reach and stop nothing that goes now. */
export const fixes = defineJob({
  label: 'Looking for the smallest change',
  run: ({ rig, build }, ask: { toolId: string; task: Task; near: Float64Array }) =>
    fixesJob(
      { doc: rig.mechanism, mounting: build.mounting, around: rig, ...ask },
      {
        rig: (changed, mechanism) => rigStops(changed, mechanism, build),
        routines: (changed, mechanism) => stoppedRoutines(changed, mechanism, build),
      },
    ),
});
