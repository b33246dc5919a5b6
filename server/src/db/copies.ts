/** Copies of a database as single files: made beside the running server, and looked at before one takes its place. */
import { createClient, type Client } from '@libsql/client';
import { readMigrationFiles } from 'drizzle-orm/migrator';
import { apiError } from '../errors';
import { troubleOf } from './trouble';

/** How many of the changes that this version knows were made to a database (none to a new one); another program's or a newer version's is refused. */
export async function versionOf(
  client: Client,
  file: string,
  migrations: string,
): Promise<{ done: number; known: number }> {
  const known = readMigrationFiles({ migrationsFolder: migrations });
  const { rows: tables } = await client.execute("SELECT name FROM sqlite_master WHERE type = 'table'");
  if (!tables.length) return { done: 0, known: known.length };
  const names = tables.map(({ name }) => String(name));
  if (!['__drizzle_migrations', 'rigs'].every((name) => names.includes(name))) throw apiError('data-foreign');
  const { rows } = await client.execute('SELECT hash FROM __drizzle_migrations');
  if (rows.some(({ hash }) => !known.some((m) => m.hash === hash))) throw apiError('data-newer', { file });
  return { done: rows.length, known: known.length };
}

async function within<T>(file: string, work: (client: Client) => Promise<T>): Promise<T> {
  const client = createClient({ url: `file:${file}` });
  try {
    return await work(client);
  } catch (error) {
    throw troubleOf(error, file);
  } finally {
    client.close();
  }
}

/** One consistent file of what is saved at this moment. */
export const copyInto = (file: string, into: string): Promise<void> =>
  within(file, async (client) => {
    await client.execute({ sql: 'VACUUM INTO ?', args: [into] });
  });

/** Refuses what could not take the place of the database. `named`: as people know the file. */
export const checkCopy = (file: string, named: string, migrations: string): Promise<void> =>
  within(file, async (client) => {
    try {
      const { done } = await versionOf(client, named, migrations);
      const { rows } = await client.execute('PRAGMA quick_check(1)');
      if (Object.values(rows[0]!)[0] !== 'ok') throw apiError('data-damaged', { file: named });
      if (!done) throw apiError('data-foreign');
    } catch (error) {
      throw troubleOf(error, named);
    }
  });
