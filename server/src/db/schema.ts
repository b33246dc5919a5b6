import { blob, index, integer, primaryKey, sqliteTable, text } from 'drizzle-orm/sqlite-core';
import type { Links, RecordingEvent, RecordingHead } from '@cork-elbow/core/contract';
import type { CatalogueEntry, Fact } from '@cork-elbow/core/rig';

/** Rig documents. Only browsers change them; the revision goes up with every save. */
export const rigs = sqliteTable('rigs', {
  id: text('id').primaryKey(),
  name: text('name').notNull(),
  revision: integer('revision').notNull(),
  /** Read by hand: what cannot be read in one row is no reason to give up the others. */
  document: text('document').notNull(),
  updatedAt: text('updated_at').notNull(),
  /** What the shelf says of it, so that a list reads no documents. */
  joints: integer('joints').notNull().default(0),
  routines: integer('routines').notNull().default(0),
  /** The document before the last save, to go back to where this one cannot be read. */
  lastGood: text('last_good'),
});

/** Measurements of builds, one row each: never changed, so that an earlier one can be applied again. */
export const calibrations = sqliteTable(
  'calibrations',
  {
    id: text('id').primaryKey(),
    rigId: text('rig_id').notNull(),
    buildId: text('build_id').notNull(),
    /** The drive, sensor or joint that it is about. */
    subject: text('subject').notNull(),
    takenAt: text('taken_at').notNull(),
    note: text('note').notNull(),
    fact: text('fact', { mode: 'json' }).$type<Fact>().notNull(),
  },
  (table) => [index('calibrations_by_build').on(table.rigId, table.buildId, table.takenAt)],
);

/** How the boards of a build are reached from this computer: ports are named differently on another one, so no document says it. */
export const links = sqliteTable(
  'links',
  {
    rigId: text('rig_id').notNull(),
    buildId: text('build_id').notNull(),
    boards: text('boards', { mode: 'json' }).$type<Links>().notNull(),
  },
  (table) => [primaryKey({ columns: [table.rigId, table.buildId] })],
);

/** Kinds of motor that people added to the catalogue. */
export const motors = sqliteTable('motors', {
  id: text('id').primaryKey(),
  words: text('words').notNull(),
  figures: text('figures', { mode: 'json' }).$type<CatalogueEntry['figures']>().notNull(),
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
    /** Largest distance between commanded and measured, per joint, in document units. */
    worstError: text('worst_error', { mode: 'json' }).$type<Record<string, number>>(),
    /** Given by somebody; what has one is kept. */
    name: text('name').notNull().default(''),
    /** Of its recording; null where none is kept. */
    head: text('head', { mode: 'json' }).$type<RecordingHead>(),
  },
  (table) => [index('runs_by_rig').on(table.rigId, table.startedAt)],
);

/** Recordings of runs, a row about each second: rows of numbers, made small, and what happened. */
export const pieces = sqliteTable(
  'pieces',
  {
    runId: text('run_id').notNull(),
    no: integer('no').notNull(),
    /** How many rows these are. */
    count: integer('count').notNull(),
    rows: blob('rows', { mode: 'buffer' }).notNull(),
    events: text('events', { mode: 'json' }).$type<readonly RecordingEvent[]>().notNull(),
  },
  (table) => [primaryKey({ columns: [table.runId, table.no] })],
);

/** What was chosen for this computer, by name. */
export const settings = sqliteTable('settings', {
  name: text('name').primaryKey(),
  value: text('value', { mode: 'json' }).$type<unknown>().notNull(),
});
