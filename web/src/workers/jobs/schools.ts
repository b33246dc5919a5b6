import { commandMaps } from '@cork-elbow/core/actuators';
import { jobOf, piecesOf } from '@cork-elbow/core/jobs';
import { compareSchoolsJob } from '@cork-elbow/core/routine';
import { defineJob } from '../define-job';
import { planOf, routineOf, type Tried } from './plan';

/** The routine by each way of telling motors. */
export const schools = defineJob({
  label: 'Comparing ways to smooth',
  run(context, tried: Tried) {
    const routine = routineOf(context, tried);
    if (!routine) return null;
    const { rig, mechanism, build } = context;
    return jobOf(
      (function* () {
        yield 0;
        const made = planOf(context, routine, tried);
        return yield* piecesOf(compareSchoolsJob(mechanism, commandMaps(rig, mechanism, build), made, rig.motion));
      })(),
    );
  },
});
