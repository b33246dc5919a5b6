import { useRigStore } from '../stores/rig';
import type { Scope } from '../stores/history';
import type { Rig } from '@cork-elbow/core/rig';

/** An edit of the open rig as fields take it: nothing when it was taken, one sentence when it was refused. */
export function useEdit(): (label: string, recipe: (draft: Rig) => void, scope?: Scope) => string | void {
  const rigs = useRigStore();
  return (label, recipe, scope) => {
    const result = rigs.commit(label, recipe, scope);
    if (!result.ok) return result.message;
  };
}
