import type { SimulatedInputs } from '@cork-elbow/core/contract';
import { planJob, planRoutine, type Plan } from '@cork-elbow/core/routine';
import type { Routine } from '@cork-elbow/core/rig';
import { defineJob, type Context } from '../define-job';

/** A routine of the rig, with its inputs as they are tried. */
export interface Tried {
  readonly routineId: string;
  readonly inputs: SimulatedInputs;
}
export const routineOf = ({ rig }: Context, { routineId }: Tried): Routine | undefined =>
  rig.routines.find((r) => r.id === routineId);

/** Its plan, made again here, so that none has to be sent: moves are remembered. */
export const planOf = (context: Context, routine: Routine, { inputs }: Tried): Plan =>
  planRoutine(context.rig, context.mechanism, context.build, routine, { inputs, cache: context.moves });

export const plan = defineJob({
  label: 'Planning the routine',
  run(context, tried: Tried) {
    const routine = routineOf(context, tried);
    if (!routine) return null;
    const { rig, mechanism, build, moves } = context;
    return planJob(rig, mechanism, build, routine, { inputs: tried.inputs, cache: moves });
  },
});
