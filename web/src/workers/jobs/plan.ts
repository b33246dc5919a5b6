import type { SimulatedInputs } from '@cork-elbow/core/contract';
import { jobOf, piecesOf, type Job } from '@cork-elbow/core/jobs';
import { planJob, planRoutine, type Plan } from '@cork-elbow/core/routine';
import type { Routine } from '@cork-elbow/core/rig';
import { defineJob, type Context } from '../define-job';

/** A routine of the rig, with its inputs as they are tried. */
export interface Tried {
  readonly routineId: string;
  readonly inputs: SimulatedInputs;
}
const routineOf = ({ rig }: Context, { routineId }: Tried): Routine | undefined =>
  rig.routines.find((r) => r.id === routineId);

/** A job about the plan of a routine, made again here so that none has to be sent: moves are remembered. */
export function aboutPlan<T>(
  context: Context,
  tried: Tried,
  jobFor: (routine: Routine, plan: Plan) => Job<T>,
): Job<T> | null {
  const routine = routineOf(context, tried);
  if (!routine) return null;
  const { rig, mechanism, build, moves } = context;
  return jobOf(
    (function* () {
      yield 0;
      const { inputs } = tried;
      return yield* piecesOf(jobFor(routine, planRoutine(rig, mechanism, build, routine, { inputs, cache: moves })));
    })(),
  );
}

export const plan = defineJob({
  label: 'Planning the routine',
  run(context, tried: Tried) {
    const routine = routineOf(context, tried);
    if (!routine) return null;
    const { rig, mechanism, build, moves } = context;
    return planJob(rig, mechanism, build, routine, { inputs: tried.inputs, cache: moves });
  },
});
