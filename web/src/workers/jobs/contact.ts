import { jobOf, piecesOf } from '@cork-elbow/core/jobs';
import { contactFindings } from '@cork-elbow/core/routine';
import { defineJob } from '../define-job';
import { planOf, routineOf, type Tried } from './plan';

/** What the arm touches along a routine. */
export const contact = defineJob({
  label: 'Looking for contact along the routine',
  run(context, tried: Tried) {
    const routine = routineOf(context, tried);
    if (!routine) return null;
    const { rig, mechanism, build } = context;
    return jobOf(
      (function* () {
        yield 0;
        return yield* piecesOf(contactFindings(rig, mechanism, build, routine, planOf(context, routine, tried)));
      })(),
    );
  },
});
