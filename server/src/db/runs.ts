import { desc, eq } from 'drizzle-orm';
import type { Store } from './open';
import { runs } from './schema';

export type RunRow = typeof runs.$inferSelect;

export const beginRun = (
  store: Store,
  row: Omit<RunRow, 'endedAt' | 'outcome' | 'durationMs' | 'worstError'>,
): Promise<unknown> => store.write((db) => db.insert(runs).values(row));

export const endRun = (
  store: Store,
  id: string,
  outcome: string,
  durationMs: number,
  worstError: Record<string, number>,
): Promise<unknown> =>
  store.write((db) =>
    db
      .update(runs)
      .set({
        endedAt: new Date().toISOString(),
        outcome,
        durationMs: Math.round(durationMs),
        worstError,
      })
      .where(eq(runs.id, id)),
  );

export const listRuns = ({ db }: Store, rigId: string): Promise<RunRow[]> =>
  db.select().from(runs).where(eq(runs.rigId, rigId)).orderBy(desc(runs.startedAt)).limit(50);
