import { desc, eq, inArray, sql } from 'drizzle-orm';
import type { RigSummary } from '@cork-elbow/core/contract';
import { freeId } from '@cork-elbow/core/rig';
import { apiError } from '../errors';
import type { Saveable } from '../compute/doors';
import type { Store } from './open';
import { calibrations, links, pieces, rigs, runs } from './schema';

export interface RigRow {
  readonly id: string;
  readonly revision: number;
  readonly updatedAt: string;
  readonly document: string;
}
type Content = Pick<Saveable, 'name' | 'joints' | 'routines' | 'document'>;

const now = (): string => new Date().toISOString();
const contentOf = ({ name, joints, routines, document }: Content): Content => ({ name, joints, routines, document });
const isJson = sql<number>`json_valid(${rigs.document})`;

/** The shelf without its documents, last changed first. */
export async function listRows({
  db,
}: Store): Promise<(Omit<RigSummary, 'unreadable'> & { isJson: boolean; hasGood: boolean })[]> {
  const { id, name, revision, updatedAt, joints, routines } = rigs;
  const hasGood = sql<number>`${rigs.lastGood} is not null`;
  const rows = await db
    .select({ id, name, revision, updatedAt, joints, routines, isJson, hasGood })
    .from(rigs)
    .orderBy(desc(updatedAt));
  return rows.map((row) => ({ ...row, isJson: !!row.isJson, hasGood: !!row.hasGood }));
}
export const allIds = async ({ db }: Store): Promise<string[]> =>
  (await db.select({ id: rigs.id }).from(rigs)).map(({ id }) => id);

export async function rowOf({ db }: Store, id: string): Promise<RigRow | null> {
  const { revision, updatedAt, document } = rigs;
  const [row] = await db.select({ id: rigs.id, revision, updatedAt, document }).from(rigs).where(eq(rigs.id, id));
  return row ?? null;
}
export async function lastGood({ db }: Store, id: string): Promise<string | null> {
  const [row] = await db.select({ lastGood: rigs.lastGood }).from(rigs).where(eq(rigs.id, id));
  return row?.lastGood ?? null;
}

/** Ids of a rig's builds; null where there is no such rig, or it cannot be read. */
export async function buildsOf({ db }: Store, id: string): Promise<string[] | null> {
  const builds = sql<string | null>`case when ${isJson} then json_extract(${rigs.document}, '$.builds') end`;
  const [row] = await db.select({ builds }).from(rigs).where(eq(rigs.id, id));
  return row?.builds ? (JSON.parse(row.builds) as { id: string }[]).map((build) => build.id) : null;
}

export function addRow(store: Store, content: Content, wished?: string): Promise<RigRow> {
  return store.write(async (db) => {
    const taken = (await db.select({ id: rigs.id }).from(rigs)).map((row) => row.id);
    const row = { id: freeId(wished ?? content.name, taken), revision: 1, updatedAt: now() };
    await db.insert(rigs).values({ ...row, ...contentOf(content) });
    return { ...row, document: content.document };
  });
}

/** Saves over revision `revision`; null where another one is there meanwhile. */
export async function saveRow(
  store: Store,
  id: string,
  revision: number,
  content: Content,
): Promise<{ revision: number; updatedAt: string } | null> {
  return store.write(async (db) => {
    const [row] = await db.select({ revision: rigs.revision }).from(rigs).where(eq(rigs.id, id));
    if (!row) throw apiError('not-found', { kind: 'rig', id });
    if (row.revision !== revision) return null;
    const updatedAt = now();
    const before = sql`case when json_valid(${rigs.document}) then ${rigs.document} else ${rigs.lastGood} end`;
    await db
      .update(rigs)
      .set({ ...contentOf(content), revision: revision + 1, updatedAt, lastGood: before })
      .where(eq(rigs.id, id));
    return { revision: revision + 1, updatedAt };
  });
}

export function deleteRig(store: Store, id: string): Promise<void> {
  return store.write(async (db) => {
    const gone = await db.delete(rigs).where(eq(rigs.id, id)).returning({ id: rigs.id });
    if (!gone.length) throw apiError('not-found', { kind: 'rig', id });
    await db
      .delete(pieces)
      .where(inArray(pieces.runId, db.select({ id: runs.id }).from(runs).where(eq(runs.rigId, id))));
    await db.delete(runs).where(eq(runs.rigId, id));
    await db.delete(calibrations).where(eq(calibrations.rigId, id));
    await db.delete(links).where(eq(links.rigId, id));
  });
}
