import { createHash } from 'node:crypto';
import { cpSync, existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createClient, type Client } from '@libsql/client';
import { sql } from 'drizzle-orm';
import { afterEach, describe, expect, it } from 'vitest';
import { tileDipper } from '@cork-elbow/demo';
import { saveableOf } from '../src/compute/doors';
import { openStore } from '../src/db/open';
import { addRow, rowOf, saveRow } from '../src/db/rigs';
import { start } from './harness';

const migrations = new URL('../drizzle', import.meta.url).pathname;
const rig = tileDipper();
const made: string[] = [];
const folder = (): string => {
  made.push(mkdtempSync(join(tmpdir(), 'cork-elbow-')));
  return made.at(-1)!;
};
afterEach(() => made.splice(0).forEach((path) => rmSync(path, { recursive: true, force: true })));
const databaseOf = (path: string): string => join(path, 'cork-elbow.sqlite');
async function raw<T>(path: string, work: (client: Client) => Promise<T>): Promise<T> {
  const client = createClient({ url: `file:${databaseOf(path)}` });
  try {
    return await work(client);
  } finally {
    client.close();
  }
}
const fingerprint = (file: string): string => createHash('sha256').update(readFileSync(file)).digest('hex');

/** The migrations as they stood after the first `count`. */
function olderMigrations(count: number): string {
  const older = folder();
  cpSync(migrations, older, { recursive: true });
  const journal = join(older, 'meta/_journal.json');
  const { entries, ...rest } = JSON.parse(readFileSync(journal, 'utf8')) as { entries: object[] };
  writeFileSync(journal, JSON.stringify({ ...rest, entries: entries.slice(0, count) }));
  return older;
}
/** A data folder as an earlier version left it, with one rig. */
async function older(count = 3): Promise<string> {
  const path = folder();
  const store = await openStore(path, olderMigrations(count)).catch((error: Error) => error);
  if (store instanceof Error) throw store;
  await store.close();
  await raw(path, (client) =>
    client.execute({
      sql: 'INSERT INTO rigs (id, name, revision, document, updated_at) VALUES (?, ?, 1, ?, ?)',
      args: ['old', 'Old', JSON.stringify(rig), '2026-01-01T00:00:00.000Z'],
    }),
  );
  return path;
}

describe('the database on the disk', () => {
  it('is one whole file after a clean stop', async () => {
    const path = folder();
    const server = await start({ folder: path });
    await server.close(true);
    const beside = `${databaseOf(path)}-wal`;
    expect(existsSync(beside) ? statSync(beside).size : 0).toBe(0);
    // The one file alone, somewhere else.
    const alone = folder();
    cpSync(databaseOf(path), databaseOf(alone));
    const again = await start({ folder: alone, demo: false });
    expect((await again.get('/api/rigs')).body.rigs).toHaveLength(5);
    await again.close();
  });
  it('is copied before it is brought up to date, the copy as it was; what the shelf says is filled in', async () => {
    const path = await older();
    const store = await openStore(path, migrations);
    const [copy, ...others] = readdirSync(store.copies);
    expect(others).toEqual([]);
    await store.close();
    const client = createClient({ url: `file:${join(path, 'copies', copy!)}` });
    const columns = await client.execute("SELECT name FROM pragma_table_info('rigs')");
    expect(columns.rows.map(({ name }) => name)).not.toContain('joints');
    expect((await client.execute('SELECT document FROM rigs')).rows[0]!.document).toBe(JSON.stringify(rig));
    client.close();
    const server = await start({ folder: path, demo: false });
    const [listed] = (await server.get('/api/rigs')).body.rigs;
    expect(listed).toMatchObject({ joints: rig.mechanism.joints.length, routines: rig.routines.length });
    // Nothing to bring up to date: no other copy.
    expect(readdirSync(join(path, 'copies'))).toEqual([copy]);
    await server.close();
  });
  it('keeps the newest five copies', async () => {
    const path = await older();
    const copies = join(path, 'copies');
    cpSync(databaseOf(path), join(copies, 'x'), { recursive: true });
    for (let k = 0; k < 7; k++) cpSync(databaseOf(path), join(copies, `before-update-1-${k}.sqlite`));
    await (await openStore(path, migrations)).close();
    const kept = readdirSync(copies).filter((name) => name.endsWith('.sqlite'));
    expect(kept).toHaveLength(5);
    const { entries } = JSON.parse(readFileSync(join(migrations, 'meta/_journal.json'), 'utf8')) as {
      entries: object[];
    };
    expect(kept.some((name) => name.startsWith(`before-update-${entries.length}-`))).toBe(true);
  });
  it('says that the disk is full, and leaves what is saved as it is', async () => {
    const path = folder();
    const store = await openStore(path, migrations);
    const row = await addRow(store, saveableOf(rig), 'dipper');
    const { rows } = await store.db.run(sql`PRAGMA page_count`);
    await store.db.run(sql.raw(`PRAGMA max_page_count = ${Number(Object.values(rows[0]!)[0])}`));
    const long = { ...saveableOf(rig), document: JSON.stringify({ ...rig, note: 'x'.repeat(300_000) }) };
    await expect(saveRow(store, 'dipper', 1, long)).rejects.toMatchObject({ code: 'data-full', status: 507 });
    expect(await rowOf(store, 'dipper')).toEqual(row);
    await store.close();
  });
  it('closes runs that a crash cut off', async () => {
    const path = folder();
    const first = await start({ folder: path });
    await first.close(true);
    await raw(path, (client) =>
      client.execute(
        "INSERT INTO runs (id, rig_id, revision, build_id, routine_id, routine_name, board, started_at) VALUES ('r', 'tile-dipper', 1, 'b1', 'dip', 'Dip', 'a board', '2026-01-01')",
      ),
    );
    const second = await start({ folder: path });
    const { runs } = (await second.get('/api/rigs/tile-dipper/runs')).body;
    expect(runs.map(({ id, outcome }: { id: string; outcome: string }) => [id, outcome])).toEqual([['r', 'cut-off']]);
    await second.close();
  });
});

describe('a data folder that is not as it should be', () => {
  const refused = async (path: string): Promise<{ code: string; message: string }> => {
    const store = await openStore(path, migrations).catch((error: { code: string; message: string }) => error);
    if ('db' in store) throw new Error('it was opened');
    expect(store.message).toMatch(/^[^\n]+\.$/);
    expect(store.message).not.toMatch(/SQLITE|SELECT|PRAGMA/);
    return store;
  };
  it.each<[string, string, (path: string) => Promise<unknown> | void]>([
    [
      'data-not-database',
      'a text',
      (path) => writeFileSync(databaseOf(path), 'not a database, but a note of mine\n'.repeat(50)),
    ],
    [
      'data-foreign',
      'another program’s',
      (path) => raw(path, (client) => client.execute('CREATE TABLE songs (title text)')),
    ],
    [
      'data-newer',
      'a newer version’s',
      async (path) => {
        await (await openStore(path, migrations)).close();
        await raw(path, (client) =>
          client.execute("INSERT INTO __drizzle_migrations (hash, created_at) VALUES ('of tomorrow', 9999999999999)"),
        );
      },
    ],
  ])('is refused as %s where the file is %s, which stays as it is', async (code, _what, prepare) => {
    const path = folder();
    await prepare(path);
    const before = fingerprint(databaseOf(path));
    expect((await refused(path)).code).toBe(code);
    expect(fingerprint(databaseOf(path))).toBe(before);
    // And is let go: another one may try.
    expect((await refused(path)).code).toBe(code);
  });
  it('is refused where it is a file, or another program holds the database', async () => {
    const file = join(folder(), 'a-file');
    writeFileSync(file, 'mine');
    expect((await refused(file)).code).toBe('data-folder-file');
    expect((await refused(join(file, 'inside'))).code).toBe('data-folder-file');
    expect(readFileSync(file, 'utf8')).toBe('mine');
    const path = await older();
    await raw(path, async (client) => {
      const holds = await client.transaction('write');
      expect((await refused(path)).code).toBe('data-locked');
      holds.close();
    });
    await (await openStore(path, migrations)).close();
  });
  it('is served by one server at a time: the second is told where the first one is', async () => {
    const server = await start();
    const { code, message } = await refused(server.folder);
    expect([code, message]).toEqual(['data-in-use', expect.stringContaining(`open ${server.url} in the browser`)]);
    expect((await server.get('/api/rigs')).status).toBe(200);
    await server.close(true);
    await (await openStore(server.folder, migrations)).close();
    rmSync(server.folder, { recursive: true });
  });
});

describe('a rig that can no longer be read', () => {
  it('stays on the shelf as what it is, takes nothing down, and goes back to the state before', async () => {
    const path = folder();
    const first = await start({ folder: path });
    const put = async (id: string, change: object): Promise<void> => {
      const { revision, rig: there } = (await first.get(`/api/rigs/${id}`)).body;
      const { status } = await first.send('PUT', `/api/rigs/${id}`, { revision, rig: { ...there, ...change } });
      expect(status).toBe(200);
    };
    await put('tile-dipper', { name: 'Dipper, mended' });
    await put('kiln-shelf-loader', { name: 'Loader, mended' });
    await first.close(true);
    const broken: Record<string, string> = {
      'tile-dipper': '{"format":"cork-elbow-rig","version":6,"na',
      'kiln-shelf-loader': '{"format":"cork-elbow-rig","version":6,"name":"L","mechanism":{"joints":"gone"}}',
      'twin-carriers': '',
    };
    await raw(path, async (client) => {
      for (const [id, document] of Object.entries(broken))
        await client.execute({ sql: 'UPDATE rigs SET document = ? WHERE id = ?', args: [document, id] });
    });
    const server = await start({ folder: path });
    // The demo is there and the list is whole; each row says how it is once it was looked at.
    for (const id of Object.keys(broken)) {
      const { status, body } = await server.get(`/api/rigs/${id}`);
      expect([status, body.code]).toEqual([409, 'rig-invalid-stored']);
    }
    const { rigs } = (await server.get('/api/rigs')).body;
    expect(rigs).toHaveLength(5);
    const states = Object.fromEntries(rigs.map((r: any) => [r.id, r.unreadable?.canGoBack ?? null]));
    expect(states).toMatchObject({ 'tile-dipper': true, 'kiln-shelf-loader': true, 'twin-carriers': false });
    expect(Object.values(states).filter((state) => state === null)).toHaveLength(2);
    for (const { unreadable } of rigs) if (unreadable) expect(unreadable.reason).toMatch(/\.$/);
    for (const [id, document] of Object.entries(broken)) {
      const response = await fetch(`${server.url}/api/rigs/${id}/text`);
      expect([response.status, await response.text()]).toEqual([200, document]);
      expect(response.headers.get('content-disposition')).toContain(`${id}.txt`);
    }
    for (const id of ['tile-dipper', 'kiln-shelf-loader']) {
      expect((await server.send('POST', `/api/rigs/${id}/go-back`, undefined)).status).toBe(200);
      const { body } = await server.get(`/api/rigs/${id}`);
      expect(body.revision).toBe(3);
      expect(body.rig.name).not.toMatch(/mended/);
      // What can be read is not gone back from.
      const again = await server.send('POST', `/api/rigs/${id}/go-back`, undefined);
      expect([again.status, again.body.code]).toEqual([409, 'rig-readable']);
    }
    const lost = await server.send('POST', '/api/rigs/twin-carriers/go-back', undefined);
    expect([lost.status, lost.body.code]).toEqual([409, 'rig-no-good-state']);
    expect((await server.send('DELETE', '/api/rigs/twin-carriers', undefined)).status).toBe(204);
    expect((await server.get('/api/rigs')).body.rigs.filter((r: any) => r.unreadable)).toEqual([]);
    await server.close();
  });
});

describe('the shelf as a file', () => {
  const TYPE = 'application/vnd.sqlite3';
  const put = async (url: string, body: Uint8Array | string): Promise<{ status: number; body: any }> => {
    const response = await fetch(`${url}/api/restore`, { method: 'POST', headers: { 'content-type': TYPE }, body });
    return { status: response.status, body: await response.json() };
  };
  it('is taken while the server runs, and put back whole; what was there is kept', async () => {
    const server = await start();
    const response = await fetch(`${server.url}/api/backup`);
    expect(response.headers.get('content-disposition')).toMatch(/cork-elbow-[\dT-]+\.sqlite/);
    const backup = new Uint8Array(await response.arrayBuffer());
    const before = await server.get('/api/rigs/tile-dipper');
    await server.send('DELETE', '/api/rigs/tile-dipper', undefined);
    const { revision, rig: there } = (await server.get('/api/rigs/kiln-shelf-loader')).body;
    await server.send('PUT', '/api/rigs/kiln-shelf-loader', { revision, rig: { ...there, name: 'Changed' } });
    expect(await put(server.url, backup)).toEqual({ status: 200, body: { rigs: 5 } });
    expect(await server.get('/api/rigs/tile-dipper')).toEqual(before);
    expect((await server.get('/api/rigs/kiln-shelf-loader')).body.rig.name).not.toBe('Changed');
    // It is served on as it was: saved, restarted, one folder.
    const saved = await server.send('PUT', '/api/rigs/tile-dipper', { revision: 1, rig: before.body.rig });
    expect(saved.status).toBe(200);
    const [kept] = readdirSync(join(server.folder, 'copies'));
    const client = createClient({ url: `file:${join(server.folder, 'copies', kept!)}` });
    const names = (await client.execute('SELECT id, name FROM rigs')).rows.map(({ name }) => name);
    client.close();
    expect(names).toContain('Changed');
    await server.close(true);
    const again = await start({ folder: server.folder });
    expect((await again.get('/api/rigs/tile-dipper')).body.revision).toBe(2);
    await again.close();
  });
  it('is refused where it is no backup, and nothing changes', async () => {
    const server = await start();
    const other = folder();
    await raw(other, (client) => client.execute('CREATE TABLE songs (title text)'));
    const good = new Uint8Array(await (await fetch(`${server.url}/api/backup`)).arrayBuffer());
    const hurt = good.slice();
    hurt.fill(0x5a, 4096, 40_000);
    const newer = folder();
    writeFileSync(databaseOf(newer), good);
    await raw(newer, (client) =>
      client.execute("INSERT INTO __drizzle_migrations (hash, created_at) VALUES ('of tomorrow', 9999999999999)"),
    );
    const before = (await server.get('/api/rigs')).body;
    for (const [file, code] of [
      ['', /restore-empty|body-missing|bad-json/],
      ['a note of mine, and no database at all', /data-not-database/],
      [readFileSync(databaseOf(other)), /data-foreign/],
      [hurt, /data-damaged|data-not-database/],
      [good.slice(0, 20_000), /data-damaged|data-not-database/],
      [readFileSync(databaseOf(newer)), /data-newer/],
    ] as const) {
      const { status, body } = await put(server.url, file);
      expect(status).toBeGreaterThanOrEqual(400);
      expect(body.code).toMatch(code);
      expect(body.message).toMatch(/^[^\n]+\.$/);
      expect(body.message).not.toContain(server.folder);
    }
    expect((await server.get('/api/rigs')).body).toEqual(before);
    expect(readdirSync(join(server.folder, 'copies')).filter((name) => name.includes('part'))).toEqual([]);
    await server.close();
  });
});
