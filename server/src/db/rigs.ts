import { desc, eq } from 'drizzle-orm';
import { contractFindings, type RigSummary } from '@cork-elbow/core/contract';
import { admit } from '@cork-elbow/core/admit';
import { freeId, type Rig } from '@cork-elbow/core/rig';
import { apiError, ApiError } from '../errors';
import type { Store } from './open';
import { calibrations, rigs, runs } from './schema';

export interface StoredRig {
  id: string;
  revision: number;
  updatedAt: string;
  rig: Rig;
}

const now = (): string => new Date().toISOString();

export async function listRigs({ db }: Store): Promise<RigSummary[]> {
  const rows = await db.select().from(rigs).orderBy(desc(rigs.updatedAt));
  return rows.map(({ id, name, revision, updatedAt, document }) => {
    const rig = JSON.parse(document) as Rig;
    return { id, name, revision, updatedAt, joints: rig.mechanism.joints.length, routines: rig.routines.length };
  });
}

export async function getRig({ db }: Store, id: string): Promise<StoredRig> {
  const [row] = await db.select().from(rigs).where(eq(rigs.id, id));
  if (!row) throw apiError('not-found', { kind: 'rig', id });
  const parsed = admit(JSON.parse(row.document));
  if (!parsed.ok)
    throw new ApiError(
      'rig-invalid-stored',
      contractFindings.say('rig-invalid-stored', { reason: parsed.faults[0].message }),
      parsed.faults,
    );
  return { id, revision: row.revision, updatedAt: row.updatedAt, rig: parsed.rig };
}

export function createRig(store: Store, rig: Rig, wished?: string): Promise<StoredRig> {
  return store.write(async (db) => {
    const taken = await db.select({ id: rigs.id }).from(rigs);
    const id = freeId(
      wished ?? rig.name,
      taken.map((row) => row.id),
    );
    const updatedAt = now();
    await db.insert(rigs).values({ id, name: rig.name, revision: 1, document: JSON.stringify(rig), updatedAt });
    return { id, revision: 1, updatedAt, rig };
  });
}

/** Saves over revision `revision`; a 409 carries what is there instead. */
export async function saveRig(
  store: Store,
  id: string,
  revision: number,
  rig: Rig,
): Promise<{ revision: number; updatedAt: string } | { conflict: StoredRig }> {
  return store.write(async (db) => {
    const [row] = await db.select({ revision: rigs.revision }).from(rigs).where(eq(rigs.id, id));
    if (!row) throw apiError('not-found', { kind: 'rig', id });
    if (row.revision !== revision) return { conflict: await getRig(store, id) };
    const updatedAt = now();
    await db
      .update(rigs)
      .set({ name: rig.name, revision: revision + 1, document: JSON.stringify(rig), updatedAt })
      .where(eq(rigs.id, id));
    return { revision: revision + 1, updatedAt };
  });
}

export function deleteRig(store: Store, id: string): Promise<void> {
  return store.write(async (db) => {
    const gone = await db.delete(rigs).where(eq(rigs.id, id)).returning({ id: rigs.id });
    if (!gone.length) throw apiError('not-found', { kind: 'rig', id });
    await db.delete(runs).where(eq(runs.rigId, id));
    await db.delete(calibrations).where(eq(calibrations.rigId, id));
  });
}
