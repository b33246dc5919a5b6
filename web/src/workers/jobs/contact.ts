import { wayFindings } from '@cork-elbow/core/routine';
import { defineJob } from '../define-job';
import { aboutPlan, type Tried } from './plan';

/** What the arm touches along a routine, and what is too heavy for it. */
export const contact = defineJob({
  label: 'Looking along the routine',
  run: (context, tried: Tried) =>
    aboutPlan(context, tried, (routine, plan) =>
      wayFindings(context.rig, context.mechanism, context.build, routine, plan),
    ),
});
