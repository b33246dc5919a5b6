import type { Ref } from 'vue';
import { useRigStore } from '../stores/rig';
import type { Scope } from '../stores/history';
import type { Rig } from '@cork-elbow/core/rig';

export type Edit = (label: string, recipe: (draft: Rig) => void, scope?: Scope) => string | void;

/**
 * An edit of the open rig as fields take it: nothing when it was taken, one sentence when it was refused. `problem` keeps that sentence
 * until an edit is taken.
 */
export function useEdit(problem?: Ref<string>): Edit {
  const rigs = useRigStore();
  return (label, recipe, scope) => {
    const result = rigs.commit(label, recipe, scope);
    if (problem) problem.value = result.ok ? '' : result.message;
    if (!result.ok) return result.message;
  };
}
