/** Undo and redo by patches: what an edit changed and how to take it back, nothing else of the document. */
import { apply, create, type Patches } from 'mutative';
import type { Rig } from '@cork-elbow/core/rig';

/** Design edits and measured facts of a build are undone apart. */
export type Scope = 'design' | 'build';

export interface Edit {
  readonly label: string;
  readonly scope: Scope;
  readonly forward: Patches;
  readonly backward: Patches;
}

/** Edits kept for undo. */
const CAPACITY = 300;

/** What can be undone and done again, as it is kept over a reload. */
export interface Kept {
  readonly done: readonly Edit[];
  readonly undone: readonly Edit[];
}

export function edit(
  rig: Rig,
  label: string,
  scope: Scope,
  recipe: (draft: Rig) => void,
): { rig: Rig; edit: Edit } | null {
  const [next, forward, backward] = create(rig, (draft) => void recipe(draft), {
    enablePatches: true,
    enableAutoFreeze: true,
  });
  return forward.length ? { rig: next as Rig, edit: { label, scope, forward, backward } } : null;
}

export class History {
  private readonly done: Edit[] = [];
  private readonly undone: Edit[] = [];

  push(entry: Edit): void {
    this.done.push(entry);
    if (this.done.length > CAPACITY) this.done.shift();
    this.drop(this.undone, entry.scope);
  }
  top(scope: Scope): Edit | undefined {
    return this.done.findLast((entry) => entry.scope === scope);
  }
  topUndone(scope: Scope): Edit | undefined {
    return this.undone.findLast((entry) => entry.scope === scope);
  }
  undo(rig: Rig, scope: Scope): Rig | null {
    return this.move(this.done, this.undone, scope, (entry) => apply(rig, entry.backward) as Rig);
  }
  redo(rig: Rig, scope: Scope): Rig | null {
    return this.move(this.undone, this.done, scope, (entry) => apply(rig, entry.forward) as Rig);
  }
  keep(): Kept {
    return { done: [...this.done], undone: [...this.undone] };
  }
  restore({ done, undone }: Kept): void {
    this.clear();
    this.done.push(...done);
    this.undone.push(...undone);
  }
  clear(): void {
    this.done.length = this.undone.length = 0;
  }

  private move(from: Edit[], to: Edit[], scope: Scope, step: (entry: Edit) => Rig): Rig | null {
    const at = from.findLastIndex((entry) => entry.scope === scope);
    if (at < 0) return null;
    const [entry] = from.splice(at, 1);
    to.push(entry);
    return step(entry);
  }
  private drop(list: Edit[], scope: Scope): void {
    for (let i = list.length - 1; i >= 0; i--) if (list[i].scope === scope) list.splice(i, 1);
  }
}
