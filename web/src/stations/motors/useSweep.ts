/** What an arm touches while it is brought in, computed in the worker; null until it is known. */
import { useJob } from '../../shared/useJob';
import { useRigStore } from '../../stores/rig';
import type { Bringing } from '../../workers/jobs/sweep';

export function useSweep(motion: () => Bringing | null) {
  const rigs = useRigStore();
  return useJob('sweep', {
    request: motion,
    when: () => [rigs.rig, rigs.build, motion()] as const,
    clears: true,
  }).answer;
}
