import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { createClient, type Client } from '@libsql/client';
import { drizzle, type LibSQLDatabase } from 'drizzle-orm/libsql';
import { migrate } from 'drizzle-orm/libsql/migrator';
import * as schema from './schema';

export interface Store {
  readonly db: LibSQLDatabase<typeof schema>;
  /** Runs one write (or transaction) after the other; never await other I/O inside. */
  write<T>(work: (db: LibSQLDatabase<typeof schema>) => Promise<T>): Promise<T>;
  close(): Promise<void>;
}

/** Opens (and creates or migrates) the database in `folder`. */
export async function openStore(folder: string, migrations: string): Promise<Store> {
  await mkdir(folder, { recursive: true });
  const client: Client = createClient({ url: `file:${join(folder, 'cork-elbow.sqlite')}` });
  await client.execute('PRAGMA journal_mode = WAL');
  await client.execute('PRAGMA foreign_keys = ON');
  const db = drizzle(client, { schema });
  await migrate(db, { migrationsFolder: migrations });
  let last: Promise<unknown> = Promise.resolve();
  return {
    db,
    write(work) {
      const next = last.then(() => work(db));
      last = next.catch(() => undefined);
      return next;
    },
    async close() {
      await last;
      client.close();
    },
  };
}
