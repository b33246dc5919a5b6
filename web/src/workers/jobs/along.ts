import { jobOf, piecesOf } from '@cork-elbow/core/jobs';
import { alongJob, carryJob } from '@cork-elbow/core/loads';
import { heldAlong, planMotion } from '@cork-elbow/core/routine';
import { aboutPlan, type Tried } from './plan';
import { defineJob } from '../define-job';

/** What a routine asks of motors and base, and how heavy what it carries may be. */
export const along = defineJob({
  label: 'Weighing the routine',
  run(context, tried: Tried) {
    const { rig, mechanism } = context;
    return aboutPlan(context, tried, (_, plan) =>
      jobOf(
        (function* () {
          const [motion, holds] = [planMotion(plan), heldAlong(rig, mechanism, plan)];
          const loads = yield* piecesOf(alongJob(rig, mechanism, motion, holds), 0, 0.7);
          return { ...loads, carries: yield* piecesOf(carryJob(rig, mechanism, motion, holds), 0.7, 1) };
        })(),
      ),
    );
  },
});
