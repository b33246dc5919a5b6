/** Runs, one row each, and their recordings. */
import { deflateRawSync, inflateRawSync } from 'node:zlib';
import { and, count, desc, eq, getTableColumns, gt, isNotNull, like, lt, ne, or, sql, sum } from 'drizzle-orm';
import type { RecordingAnswer, RecordingEvent, RecordingHead, RunEntry, RunQuery } from '@cork-elbow/core/contract';
import { bytesOfRows, folded, rowsOfBytes, unfolded, type RecordingPiece } from '@cork-elbow/core/recording';
import type { Store } from './open';
import { pieces, runs } from './schema';

type RunRow = typeof runs.$inferSelect;
const { head, ...columns } = getTableColumns(runs);
const entry = { ...columns, isRecorded: isNotNull(head).mapWith(Boolean) };
/** Pieces that are read at once: some minutes of a run. */
const AT_ONCE = 200;

export const beginRun = (
  store: Store,
  row: Omit<RunRow, 'endedAt' | 'outcome' | 'durationMs' | 'worstError' | 'name'>,
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

/** Signs that mean something in a pattern stand for themselves. */
const within = (text: string): string => `%${text.replace(/[\\%_]/g, '\\$&')}%`;
function fitting(rigId: string, { routine, outcome, named, text }: Partial<RunQuery>) {
  const has = (column: typeof runs.name) => sql`${like(column, within(text!))} escape '\\'`;
  return and(
    eq(runs.rigId, rigId),
    routine === undefined ? undefined : eq(runs.routineId, routine),
    outcome === undefined ? undefined : eq(runs.outcome, outcome),
    named ? ne(runs.name, '') : undefined,
    text ? or(has(runs.name), has(runs.routineName as never), has(runs.board as never)) : undefined,
  );
}
/** So many runs of a rig from one on, the latest first, and how many there are that fit. */
export async function listRuns(
  { db }: Store,
  rigId: string,
  query: RunQuery,
): Promise<{ total: number; runs: RunEntry[] }> {
  const fit = fitting(rigId, query);
  const [all] = await db.select({ total: count() }).from(runs).where(fit);
  const list = db.select(entry).from(runs).where(fit).orderBy(desc(runs.startedAt), runs.id);
  return { total: all?.total ?? 0, runs: await list.limit(query.count).offset(query.from) };
}

export async function runOf({ db }: Store, rigId: string, id: string): Promise<RunEntry | null> {
  const [row] = await db
    .select(entry)
    .from(runs)
    .where(and(eq(runs.rigId, rigId), eq(runs.id, id)));
  return row ?? null;
}
export const nameRun = (store: Store, id: string, name: string): Promise<unknown> =>
  store.write((db) => db.update(runs).set({ name }).where(eq(runs.id, id)));
export const deleteRun = (store: Store, id: string): Promise<unknown> =>
  store.write(async (db) => {
    await db.delete(pieces).where(eq(pieces.runId, id));
    await db.delete(runs).where(eq(runs.id, id));
  });

// ── Recordings ────────────────────────────────────────────────────────────────────────────────────────────────────

export const keepPiece = (
  store: Store,
  runId: string,
  no: number,
  recorded: RecordingHead,
  { rows, events }: RecordingPiece,
  rowLength: number,
): Promise<unknown> => {
  const small = deflateRawSync(bytesOfRows(folded(recorded, rows)), { level: 1 });
  const row = { runId, no, count: rows.length / rowLength, rows: small, events };
  return store.write((db) => db.insert(pieces).values(row));
};

/** What is kept of a run without its rows; null where nothing is. */
export async function recordingOf(store: Store, run: RunEntry): Promise<RecordingAnswer | null> {
  const { db } = store;
  const [row] = await db.select({ head }).from(runs).where(eq(runs.id, run.id));
  if (!row?.head) return null;
  const [all] = await db
    .select({ rows: sum(pieces.count).mapWith(Number) })
    .from(pieces)
    .where(eq(pieces.runId, run.id));
  const told = await db
    .select({ events: pieces.events })
    .from(pieces)
    .where(and(eq(pieces.runId, run.id), ne(pieces.events, sql`'[]'`)))
    .orderBy(pieces.no);
  const events = told.flatMap((piece): readonly RecordingEvent[] => piece.events);
  return { run, head: row.head, rows: all?.rows ?? 0, events };
}

/** The rows of a recording, piece by piece, so that an hour is never in memory. */
export async function* rowsOf({ db }: Store, runId: string, recorded: RecordingHead): AsyncGenerator<Int32Array> {
  for (let last = -1; ;) {
    const found = await db
      .select({ no: pieces.no, rows: pieces.rows })
      .from(pieces)
      .where(and(eq(pieces.runId, runId), gt(pieces.no, last)))
      .orderBy(pieces.no)
      .limit(AT_ONCE);
    for (const { no, rows } of found) {
      last = no;
      yield unfolded(recorded, rowsOfBytes(inflateRawSync(rows)));
    }
    if (found.length < AT_ONCE) return;
  }
}

/** Lets go of recordings of runs without a name that began before a day; their rows in the list stay. */
export const dropRecordings = (store: Store, before: Date): Promise<void> =>
  store.write(async (db) => {
    const old = await db
      .select({ id: runs.id })
      .from(runs)
      .where(
        and(
          isNotNull(runs.head),
          isNotNull(runs.outcome),
          eq(runs.name, ''),
          lt(runs.startedAt, before.toISOString()),
        ),
      );
    for (const { id } of old) {
      await db.delete(pieces).where(eq(pieces.runId, id));
      await db.update(runs).set({ head: null }).where(eq(runs.id, id));
    }
  });
