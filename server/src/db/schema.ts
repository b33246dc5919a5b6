import { index, integer, sqliteTable, text } from 'drizzle-orm/sqlite-core';

/** Rig documents. Only browsers change them; the revision goes up with every save. */
export const rigs = sqliteTable('rigs', {
  id: text('id').primaryKey(),
  name: text('name').notNull(),
  revision: integer('revision').notNull(),
  document: text('document').notNull(),
  updatedAt: text('updated_at').notNull(),
});

/** One row a run: what was run, from which revision, and how it ended. */
export const runs = sqliteTable(
  'runs',
  {
    id: text('id').primaryKey(),
    rigId: text('rig_id').notNull(),
    revision: integer('revision').notNull(),
    buildId: text('build_id').notNull(),
    routineId: text('routine_id').notNull(),
    routineName: text('routine_name').notNull(),
    board: text('board').notNull(),
    startedAt: text('started_at').notNull(),
    endedAt: text('ended_at'),
    outcome: text('outcome'),
    durationMs: integer('duration_ms'),
    /** Largest distance between commanded and measured, per joint, as JSON in document units. */
    worstError: text('worst_error'),
  },
  (table) => [index('runs_by_rig').on(table.rigId, table.startedAt)],
);
