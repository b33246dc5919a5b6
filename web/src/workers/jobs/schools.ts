import { commandMaps } from '@cork-elbow/core/actuators';
import { compareSchoolsJob } from '@cork-elbow/core/routine';
import { defineJob } from '../define-job';
import { aboutPlan, type Tried } from './plan';

/** The routine by each way of telling motors. */
export const schools = defineJob({
  label: 'Comparing ways to smooth',
  run: (context, tried: Tried) =>
    aboutPlan(context, tried, (_, plan) => {
      const { rig, mechanism, build } = context;
      return compareSchoolsJob(mechanism, commandMaps(rig, mechanism, build), plan, rig.motion);
    }),
});
