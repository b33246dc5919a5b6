/**
 * Rigs as they are saved. Documents are text here: they are checked by the pool's doors, and read by whoever works with them. One that
 * cannot be read any more stays, is shown as what it is, and takes nothing else down.
 */
import type { RigSummary } from '@cork-elbow/core/contract';
import type { Rig } from '@cork-elbow/core/rig';
import { apiError, ApiError } from './errors';
import { saveableOf, type Saveable } from './compute/doors';
import type { Saved } from './compute/worker';
import type { Pool } from './compute/pool';
import type { Store } from './db/open';
import { allIds, lastGood, listRows, rowOf, saveRow, type RigRow } from './db/rigs';

export interface OpenedRig {
  readonly id: string;
  readonly revision: number;
  readonly updatedAt: string;
  /** JSON, of the version of today. */
  readonly document: string;
}

export class Shelf {
  /** Why a rig cannot be read, by its id and the revision at which that was found. */
  private readonly unread = new Map<string, { readonly revision: number; readonly reason: string }>();

  constructor(
    readonly store: Store,
    private readonly doors: Pool,
  ) {}

  async list(): Promise<RigSummary[]> {
    return (await listRows(this.store)).map(({ isJson, hasGood, ...row }) => {
      const found = this.unread.get(row.id);
      const reason =
        found?.revision === row.revision
          ? found.reason
          : isJson
            ? null
            : 'What is saved of it is not what was written.';
      return { ...row, unreadable: reason === null ? null : { reason, canGoBack: hasGood } };
    });
  }

  /** A rig as it was saved, and which revision that is; null where there is none. */
  async saved(id: string): Promise<Saved | null> {
    const row = await rowOf(this.store, id);
    return row && { document: row.document, revision: row.revision };
  }

  async row(id: string): Promise<RigRow> {
    const row = await rowOf(this.store, id);
    if (!row) throw apiError('not-found', { kind: 'rig', id });
    return row;
  }

  async open(id: string): Promise<OpenedRig> {
    const { revision, updatedAt, document } = await this.row(id);
    return { id, revision, updatedAt, document: await this.read(id, revision, document) };
  }

  private async read(id: string, revision: number, text: string): Promise<string> {
    try {
      const document = await this.value<string>('stored', Buffer.from(text));
      this.unread.delete(id);
      return document;
    } catch (error) {
      if (error instanceof ApiError && error.code === 'rig-invalid-stored')
        this.unread.set(id, { revision, reason: error.message });
      throw error;
    }
  }

  /** Looks at every rig once, so that the list says of each whether it can be read. */
  async lookThrough(isOver: () => boolean = () => false): Promise<void> {
    if (isOver()) return;
    for (const id of await allIds(this.store)) {
      if (isOver()) return;
      await this.open(id).catch(() => undefined);
    }
  }

  /** The body of a call that saves, checked. */
  saveable(body: Uint8Array | undefined, gone: AbortSignal): Promise<Saveable> {
    return this.value('save', body ?? null, gone);
  }

  /** The state before the last save takes the place of one that cannot be read. */
  async goBack(id: string): Promise<OpenedRig> {
    const { revision, document } = await this.row(id);
    const isReadable = await this.read(id, revision, document).then(
      () => true,
      () => false,
    );
    if (isReadable) throw apiError('rig-readable');
    const good = await lastGood(this.store, id);
    if (good === null) throw apiError('rig-no-good-state');
    const read = await this.value<string>('stored', Buffer.from(good));
    await saveRow(this.store, id, revision, saveableOf(JSON.parse(read) as Rig));
    return this.open(id);
  }

  private async value<T>(door: string, body: Uint8Array | null, gone?: AbortSignal): Promise<T> {
    const told = await this.doors.ask(door, body, { words: 'Reading a rig', ...(gone ? { gone } : {}) });
    return (told as { value: T }).value;
  }
}
