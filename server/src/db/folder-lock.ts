/**
 * One server a data folder. The lock is a transaction that stays open in a small database beside the real one: the operating system
 * lifts it with the process, however that ends, so that nothing stale is ever left.
 */
import { readFile, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { createClient } from '@libsql/client';
import { apiError } from '../errors';

export interface Held {
  servesAt(address: string): Promise<void>;
  release(): Promise<void>;
}

/** Throws `data-in-use` with the address of the other server where there is one. */
export async function takeFolder(folder: string): Promise<Held> {
  const address = join(folder, 'served-at.txt');
  const client = createClient({ url: `file:${join(folder, 'in-use.sqlite')}` });
  try {
    const lock = await client.transaction('write');
    await rm(address, { force: true });
    return {
      servesAt: (at) => writeFile(address, `${at}\n`),
      async release() {
        await rm(address, { force: true });
        lock.close();
        client.close();
      },
    };
  } catch (error) {
    client.close();
    if ((error as { code?: string }).code !== 'SQLITE_BUSY') throw error;
    const at = await readFile(address, 'utf8').then(
      (text) => text.trim(),
      () => '',
    );
    throw at ? apiError('data-in-use', { address: at }) : apiError('data-in-use-elsewhere', { folder });
  }
}
