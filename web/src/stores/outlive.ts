/**
 * What of an open rig outlives its window: unsaved edits in the browser's own storage, what can be undone in the window's. A storage that
 * is full or forbidden keeps nothing and stops nothing.
 */
import { parseRig, type Rig } from '@cork-elbow/core/rig';
import type { Kept } from './history';

/** Most characters of a history that is kept over a reload; its oldest edits go first. */
const MOST_KEPT = 1_500_000;

/** One storage by keys of rigs, as JSON. */
function shelf<T>(storage: () => Storage, prefix: string) {
  const safely = <R>(work: (own: Storage) => R, otherwise: R): R => {
    try {
      return work(storage());
    } catch {
      return otherwise;
    }
  };
  const key = (id: string): string => `cork-elbow:${prefix}:${id}`;
  const drop = (id: string): void => safely((own) => own.removeItem(key(id)), undefined);
  /** Null where nothing is there; what cannot be read is dropped. */
  function get(id: string): T | null {
    const text = safely((own) => own.getItem(key(id)), null);
    if (text === null) return null;
    const value = safely(() => JSON.parse(text) as T | null, null);
    if (value === null) drop(id);
    return value;
  }
  const put = (id: string, value: T): void => safely((own) => own.setItem(key(id), JSON.stringify(value)), undefined);
  return { put, get, drop };
}

/** Edits that no server has taken yet. */
export const drafts = shelf<{ revision: number; rig: unknown }>(() => localStorage, 'unsaved');

const histories = shelf<Kept & { mark: string }>(() => sessionStorage, 'undo');

/** A short mark of a document as it is read again (FNV-1a): a history belongs to the document it was kept with. */
function markOf(rig: Rig): string {
  const parsed = parseRig(rig);
  const text = JSON.stringify(parsed.ok ? parsed.value : rig);
  let hash = 0x811c9dc5;
  for (let i = 0; i < text.length; i++) hash = Math.imul(hash ^ text.charCodeAt(i), 0x01000193);
  return `${text.length}:${hash >>> 0}`;
}

/** Keeps what can be undone, the newest edits where not all of it has room. */
export function keepHistory(id: string, rig: Rig, { done, undone }: Kept): void {
  const sizeOf = (part: unknown): number => JSON.stringify(part).length;
  const redo = sizeOf(undone) < MOST_KEPT ? undone : [];
  let room = MOST_KEPT - sizeOf(redo);
  let from = done.length;
  while (from > 0 && (room -= sizeOf(done[from - 1])) > 0) from--;
  histories.put(id, { mark: markOf(rig), done: done.slice(from), undone: redo });
}

/** What can be undone of a document as it was kept with it; null where it is another document by now. */
export function keptHistory(id: string, rig: Rig): Kept | null {
  const kept = histories.get(id);
  if (!kept || kept.mark !== markOf(rig) || !Array.isArray(kept.done) || !Array.isArray(kept.undone)) return null;
  return { done: kept.done, undone: kept.undone };
}
