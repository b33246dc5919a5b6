import { alongJob } from '@cork-elbow/core/loads';
import { heldAlong, planMotion } from '@cork-elbow/core/routine';
import { aboutPlan, type Tried } from './plan';
import { defineJob } from '../define-job';

/** What a routine asks of motors and base. */
export const along = defineJob({
  label: 'Weighing the routine',
  run(context, tried: Tried) {
    const { rig, mechanism } = context;
    return aboutPlan(context, tried, (_, plan) =>
      alongJob(rig, mechanism, planMotion(plan), heldAlong(rig, mechanism, plan)),
    );
  },
});
