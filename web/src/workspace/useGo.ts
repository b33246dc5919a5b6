/** To where a finding is mended, from every page: station, part, joint, routine and step, and the very moment. */
import { nextTick } from 'vue';
import { useRouter } from 'vue-router';
import type { Finding } from '@cork-elbow/core/findings';
import { useRigStore } from '../stores/rig';
import { useViewStore } from '../stores/view';
import type { PlanContext } from './usePlan';

export function useGo(plan: Pick<PlanContext, 'routineId' | 'show'>): (to: Pick<Finding, 'place'>) => Promise<void> {
  const rigs = useRigStore();
  const view = useViewStore();
  const router = useRouter();
  return async ({ place: { station, joint, step, routine, part, timeS } }) => {
    if (joint) view.selected = joint;
    if (routine) plan.routineId.value = routine;
    await router.push({
      name: station,
      params: { rigId: rigs.id! },
      query: { ...(step ? { step } : joint ? { joint } : {}), ...(part ? { part } : {}) },
    });
    // The very moment, after the station has shown the step.
    await nextTick();
    if (timeS !== undefined) plan.show(timeS);
  };
}
