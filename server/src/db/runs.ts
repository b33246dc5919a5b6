import { count, desc, eq } from 'drizzle-orm';
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

/** So many runs of a rig from one on, the latest first, and how many there are. */
export async function listRuns(
  { db }: Store,
  rigId: string,
  page: { readonly from: number; readonly count: number },
): Promise<{ total: number; runs: RunRow[] }> {
  const own = eq(runs.rigId, rigId);
  const [all] = await db.select({ total: count() }).from(runs).where(own);
  const list = db.select().from(runs).where(own).orderBy(desc(runs.startedAt), runs.id);
  return { total: all?.total ?? 0, runs: await list.limit(page.count).offset(page.from) };
}
