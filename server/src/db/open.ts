/** The database of one data folder: one server at a time, brought up to date as it opens, one whole file when it closes. */
import { mkdir, readdir, rename, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { createClient, type Client } from '@libsql/client';
import { drizzle, type LibSQLDatabase } from 'drizzle-orm/libsql';
import { migrate } from 'drizzle-orm/libsql/migrator';
import { isNull } from 'drizzle-orm';
import { takeFolder, type Held } from './folder-lock';
import * as schema from './schema';
import { troubleOf } from './trouble';
import { versionOf } from './copies';

export type Db = LibSQLDatabase<typeof schema>;

export interface Store {
  readonly db: Db;
  /** The database's file. */
  readonly file: string;
  /** Where copies are kept. */
  readonly copies: string;
  /** Runs one write (or transaction) after the other; never await other I/O inside. */
  write<T>(work: (db: Db) => Promise<T>): Promise<T>;
  /** Puts another file in the place of this one, which is kept as a copy; nothing is written meanwhile. */
  replaceBy(file: string): Promise<void>;
  /** Says where this server can be reached, for whoever starts another one on the same folder. */
  servesAt(address: string): Promise<void>;
  close(): Promise<void>;
}

const NAME = 'cork-elbow.sqlite';
/** Copies from before a change of the database; older ones go. */
const KEPT = 5;
/** What stands in the log beside the file is put into it so often (ms). */
const FOLD_EVERY = 60_000;

/** Opens (and creates or migrates) the database in `folder`. */
export async function openStore(folder: string, migrations: string): Promise<Store> {
  const file = join(folder, NAME);
  const copies = join(folder, 'copies');
  let held: Held | null = null;
  try {
    await mkdir(folder, { recursive: true });
    held = await takeFolder(folder);
    return await opened(held, file, copies, migrations);
  } catch (error) {
    await held?.release();
    throw troubleOf(error, file);
  }
}

async function opened(held: Held, file: string, copies: string, migrations: string): Promise<Store> {
  let { client, db } = await connect(file, copies, migrations);
  // What a crash cut off is no longer going on.
  await db.update(schema.runs).set({ outcome: 'cut-off' }).where(isNull(schema.runs.outcome));
  let last: Promise<unknown> = Promise.resolve();
  let isFolded = false;
  const inTurn = <T>(work: () => Promise<T>): Promise<T> => {
    const next = last.then(work);
    last = next.catch(() => undefined);
    return next;
  };
  const fold = async (): Promise<void> => {
    if (isFolded) return;
    await client.execute('PRAGMA wal_checkpoint(TRUNCATE)');
    isFolded = true;
  };
  const folding = setInterval(() => void inTurn(fold).catch(() => undefined), FOLD_EVERY).unref();
  return {
    get db() {
      return db;
    },
    file,
    copies,
    write: (work) =>
      inTurn(async () => {
        isFolded = false;
        try {
          return await work(db);
        } catch (error) {
          throw troubleOf(error, file);
        }
      }),
    replaceBy: (other) =>
      inTurn(async () => {
        await fold();
        client.close();
        try {
          await mkdir(copies, { recursive: true });
          await rename(file, join(copies, `before-restore-${stamp()}.sqlite`));
          for (const beside of ['-wal', '-shm']) await rm(file + beside, { force: true });
          await rename(other, file);
        } finally {
          ({ client, db } = await connect(file, copies, migrations));
          await keepNewest(copies);
        }
      }),
    servesAt: (address) => held.servesAt(address),
    async close() {
      clearInterval(folding);
      await last;
      isFolded = false;
      await fold().catch(() => undefined);
      client.close();
      await held.release();
    },
  };
}

async function connect(file: string, copies: string, migrations: string): Promise<{ client: Client; db: Db }> {
  const client = createClient({ url: `file:${file}` });
  try {
    await upToDate(client, file, copies, migrations);
    return { client, db: drizzle(client, { schema }) };
  } catch (error) {
    client.close();
    throw error;
  }
}

async function upToDate(client: Client, file: string, copies: string, migrations: string): Promise<void> {
  // Before anything is written: what is not this server's is left as it is.
  const { done, known } = await versionOf(client, file, migrations);
  await client.execute('PRAGMA journal_mode = WAL');
  await client.execute('PRAGMA foreign_keys = ON');
  if (done > 0 && done < known) {
    await mkdir(copies, { recursive: true });
    const copy = join(copies, `before-update-${known}-${stamp()}.sqlite`);
    await client.execute({ sql: 'VACUUM INTO ?', args: [copy] });
    await keepNewest(copies);
  }
  await migrate(drizzle(client, { schema }), { migrationsFolder: migrations });
}

/** A moment as it can stand in a file's name. */
export const stamp = (): string => new Date().toISOString().replace(/[:.]/g, '-').slice(0, 23);

async function keepNewest(copies: string): Promise<void> {
  const names = (await readdir(copies)).filter((name) => name.endsWith('.sqlite'));
  const aged = await Promise.all(
    names.map(async (name) => ({ path: join(copies, name), at: (await stat(join(copies, name))).mtimeMs })),
  );
  aged.sort((a, b) => b.at - a.at);
  for (const { path } of aged.slice(KEPT)) await rm(path, { force: true });
}
