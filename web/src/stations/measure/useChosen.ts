/** One chosen item of a list in the rig, and the edits that every such list has. */
import { computed, ref } from 'vue';
import type { Rig } from '@cork-elbow/core/rig';
import { useEdit } from '../../shared/useEdit';
import { useRigStore } from '../../stores/rig';
import { copyItem } from './edits';

interface Item {
  id: string;
  name?: string;
}

/** `what` names an item in undo labels: "a tool". `tell` takes a refusal, or nothing. */
export function useChosen<T extends Item>(
  what: string,
  listOf: (rig: Rig) => T[],
  tell: (sentence: string | void) => void,
) {
  const rigs = useRigStore();
  const edit = useEdit();
  const chosen = ref<string | null>(null);
  const items = computed(() => listOf(rigs.rig!) as readonly T[]);
  const item = computed<T | undefined>(() => items.value.find((i) => i.id === chosen.value) ?? items.value[0]);
  const indexIn = (list: readonly T[], id: string): number => list.findIndex((i) => i.id === id);

  /** An edit of the chosen item. */
  function on(label: string, change: (item: T) => void): string | void {
    const now = item.value;
    if (!now) return;
    return edit(`${label} of ${now.name ?? now.id}`, (draft) => {
      const list = listOf(draft);
      change(list[indexIn(list, now.id)]);
    });
  }
  return {
    items,
    item,
    chosen,
    on,
    /** A change of the name, which may not be empty. */
    rename: (name: string): string | void =>
      name ? on('Name', (i) => (i.name = name)) : `${what[0].toUpperCase()}${what.slice(1)} needs a name.`,
    /** Puts another item in the chosen one's place. */
    replace: (label: string, make: (old: T) => T): void => {
      const now = item.value;
      if (!now) return;
      tell(
        edit(`${label} of ${now.name ?? now.id}`, (draft) => {
          const list = listOf(draft);
          const at = indexIn(list, now.id);
          list[at] = make(list[at]);
        }),
      );
    },
    pick: (id: string): void => void (chosen.value = id),
    add: (make: (draft: Rig) => T): void =>
      tell(
        edit(`Add ${what}`, (draft) => {
          const made = make(draft);
          listOf(draft).push(made);
          chosen.value = made.id;
        }),
      ),
    copy: (id: string): void =>
      tell(edit(`Copy ${what}`, (draft) => void (chosen.value = copyItem(listOf(draft), id)))),
    /** Takes an item out; `also` mends what else named it. */
    remove: (id: string, also?: (draft: Rig) => void): void =>
      tell(
        edit(`Delete ${what}`, (draft) => {
          const list = listOf(draft);
          list.splice(indexIn(list, id), 1);
          also?.(draft);
        }),
      ),
  };
}
