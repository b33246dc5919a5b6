import { randomUUID } from 'node:crypto';
import { and, desc, eq } from 'drizzle-orm';
import type { CalibrationEntry } from '@cork-elbow/core/contract';
import { subjectOf } from '@cork-elbow/core/calibration';
import type { Fact } from '@cork-elbow/core/rig';
import type { Store } from './open';
import { calibrations } from './schema';

/** Rows of one build's history, the latest first. */
const MOST = 500;

const entryOf = ({ id, takenAt, note, fact }: typeof calibrations.$inferSelect): CalibrationEntry => ({
  ...{ id, takenAt, note, fact },
});

export async function listCalibrations({ db }: Store, rigId: string, buildId: string): Promise<CalibrationEntry[]> {
  const rows = await db
    .select()
    .from(calibrations)
    .where(and(eq(calibrations.rigId, rigId), eq(calibrations.buildId, buildId)))
    .orderBy(desc(calibrations.takenAt))
    .limit(MOST);
  return rows.map(entryOf);
}

export async function addCalibration(
  store: Store,
  rigId: string,
  buildId: string,
  fact: Fact,
  note: string,
): Promise<CalibrationEntry> {
  const row = {
    id: randomUUID(),
    rigId,
    buildId,
    subject: subjectOf(fact),
    takenAt: new Date().toISOString(),
    note,
    fact,
  };
  await store.write((db) => db.insert(calibrations).values(row));
  return entryOf(row);
}
