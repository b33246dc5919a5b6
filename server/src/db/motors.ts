import { eq } from 'drizzle-orm';
import type { CatalogueEntry } from '@cork-elbow/core/rig';
import { apiError } from '../errors';
import type { Store } from './open';
import { motors } from './schema';

export const listMotors = ({ db }: Store): Promise<CatalogueEntry[]> =>
  db.select().from(motors).orderBy(motors.words);

/** Adds kinds of motor, or replaces those of the same id. */
export async function putMotors(store: Store, entries: readonly CatalogueEntry[]): Promise<CatalogueEntry[]> {
  await store.write(async (db) => {
    for (const row of entries)
      await db.insert(motors).values(row).onConflictDoUpdate({ target: motors.id, set: row });
  });
  return listMotors(store);
}

export const removeMotor = (store: Store, id: string): Promise<void> =>
  store.write(async (db) => {
    const gone = await db.delete(motors).where(eq(motors.id, id)).returning({ id: motors.id });
    if (!gone.length) throw apiError('not-found', { kind: 'motor', id });
  });
