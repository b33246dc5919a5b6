/** Undo and redo by patches: what an edit changed and how to take it back, nothing else of the document. */
import { apply, create, type Patches } from 'mutative';
import type { Rig } from '@cork-elbow/core/rig';

/** Design edits and measured facts of a build are undone apart. */
export type Scope = 'design' | 'build';

/**
 * A document, and whether this window has let in the very same before: not what was kept over a reload, nor what comes of taking back an
 * edit from under others.
 */
export interface Stepped {
  readonly rig: Rig;
  readonly isKnown: boolean;
}

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
  /** Edits that were kept over a reload. */
  private readonly kept = new WeakSet<Edit>();
  /** Whether all steps so far took the edits one after the other. */
  private isStraight = true;
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
  undo(rig: Rig, scope: Scope): Stepped | null {
    return this.move(this.done, this.undone, scope, (entry) => apply(rig, entry.backward) as Rig);
  }
  redo(rig: Rig, scope: Scope): Stepped | null {
    return this.move(this.undone, this.done, scope, (entry) => apply(rig, entry.forward) as Rig);
  }
  keep(): Kept {
    return { done: [...this.done], undone: [...this.undone] };
  }
  restore({ done, undone }: Kept): void {
    this.clear();
    this.done.push(...done);
    this.undone.push(...undone);
    for (const entry of [...done, ...undone]) this.kept.add(entry);
  }
  clear(): void {
    this.done.length = this.undone.length = 0;
    this.isStraight = true;
  }

  private move(from: Edit[], to: Edit[], scope: Scope, step: (entry: Edit) => Rig): Stepped | null {
    const at = from.findLastIndex((entry) => entry.scope === scope);
    if (at < 0) return null;
    this.isStraight &&= at === from.length - 1;
    const [entry] = from.splice(at, 1);
    to.push(entry);
    return { rig: step(entry), isKnown: this.isStraight && !this.kept.has(entry) };
  }
  private drop(list: Edit[], scope: Scope): void {
    for (let i = list.length - 1; i >= 0; i--) if (list[i].scope === scope) list.splice(i, 1);
  }
}
