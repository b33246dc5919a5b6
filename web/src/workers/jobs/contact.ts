import { contactFindings } from '@cork-elbow/core/routine';
import { defineJob } from '../define-job';
import { aboutPlan, type Tried } from './plan';

/** What the arm touches along a routine. */
export const contact = defineJob({
  label: 'Looking for contact along the routine',
  run: (context, tried: Tried) =>
    aboutPlan(context, tried, (routine, plan) =>
      contactFindings(context.rig, context.mechanism, context.build, routine, plan),
    ),
});
