/** What an arm touches while it is brought in, computed in the worker; null until it is known. */
import { onScopeDispose, shallowRef, watch } from 'vue';
import type { SweptContact } from '@cork-elbow/core/contact';
import { useJobsStore } from '../../stores/jobs';
import { useRigStore } from '../../stores/rig';
import type { Bringing } from '../../workers/compute';

export function useSweep(motion: () => Bringing | null) {
  const rigs = useRigStore();
  const jobs = useJobsStore();
  const contacts = shallowRef<readonly SweptContact[] | null>(null);
  watch(
    () => [rigs.rig, rigs.build, motion()] as const,
    async ([rig, build, wanted]) => {
      contacts.value = null;
      if (!rig || !build || !wanted) return;
      const found = await jobs.run('sweep', 'Looking for contact', (worker, id, progress) =>
        worker.sweep(id, rig, build.id, wanted, progress),
      );
      if (found) contacts.value = found;
    },
    { immediate: true },
  );
  onScopeDispose(() => jobs.cancel('sweep'));
  return contacts;
}
