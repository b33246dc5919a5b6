import { spawn, type ChildProcess } from 'node:child_process';
import { mkdtemp, readdir, rm, writeFile } from 'node:fs/promises';
import { createServer, type Server } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, describe, expect, it } from 'vitest';

/** As it was bundled before the tests. */
const main = new URL('../../.cache/server-threads/main.js', import.meta.url).pathname;
const root = new URL('../..', import.meta.url).pathname;
const clean: (() => unknown)[] = [];
afterEach(async () => {
  for (const work of clean.splice(0)) await work();
});

interface Started {
  readonly process: ChildProcess;
  readonly said: () => string;
  /** The address, or the code that it ended with. */
  readonly outcome: Promise<string | number | null>;
}
/** The server in a process of its own, as npm start runs it, on a data folder of its own. */
async function start(env: Record<string, string>, args: string[] = []): Promise<Started> {
  const folder = env.CORK_ELBOW_DATA ?? (await mkdtemp(join(tmpdir(), 'cork-elbow-start-')));
  const child = spawn(process.execPath, [main, ...args], {
    cwd: root,
    env: { ...process.env, HOST: '127.0.0.1', CORK_ELBOW_DATA: folder, ...env },
    stdio: ['ignore', 'pipe', 'pipe', 'ipc'],
  });
  let said = '';
  child.stdout!.on('data', (text) => (said += text));
  child.stderr!.on('data', (text) => (said += text));
  const outcome = new Promise<string | number | null>((done) => {
    child.on('message', (message: { address: string }) => done(message.address));
    child.on('exit', (code) => done(code));
  });
  clean.push(async () => {
    if (child.exitCode === null && child.signalCode === null)
      await new Promise((done) => child.once('exit', done).kill('SIGKILL'));
    await rm(folder, { recursive: true, force: true });
  });
  return { process: child, said: () => said, outcome };
}
async function taken(): Promise<number> {
  const server: Server = createServer();
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  clean.push(() => new Promise((done) => server.close(done)));
  return (server.address() as { port: number }).port;
}

describe('starting the server', () => {
  it('takes the next free port where its own is taken, and says both', async () => {
    const port = await taken();
    const { outcome, said } = await start({ PORT: String(port) });
    const address = await outcome;
    expect(address).toMatch(/^http:\/\/127\.0\.0\.1:\d+$/);
    expect(Number(String(address).split(':').at(-1))).toBeGreaterThan(port);
    expect(said()).toContain(`Port ${port} is taken by another program`);
    const health = await fetch(`${String(address)}/api/health`);
    expect(await health.json()).toMatchObject({ ok: true });
  });
  it('with the demo has its rigs once, and ends cleanly when asked to', async () => {
    const { outcome, process: child } = await start({ PORT: '0' }, ['--demo']);
    const address = String(await outcome);
    const { rigs } = (await (await fetch(`${address}/api/rigs`)).json()) as { rigs: { id: string }[] };
    expect(rigs.map((r) => r.id)).toContain('tile-dipper');
    const ended = new Promise((done) => child.once('exit', (code) => done(code)));
    child.kill('SIGTERM');
    expect(await ended).toBe(0);
  });
  it('refuses a port that is a word, a fraction, too large or negative, in one sentence, and writes nothing', async () => {
    const wrong = await Promise.all(
      ['forty', '43.5', '70000', '-1'].map(async (PORT) => {
        const folder = await mkdtemp(join(tmpdir(), 'cork-elbow-port-'));
        const { outcome, said } = await start({ PORT, CORK_ELBOW_DATA: folder });
        return [await outcome, said().trim(), await readdir(folder), PORT] as const;
      }),
    );
    for (const [code, said, files, PORT] of wrong)
      expect([code, said, files]).toEqual([1, `PORT is “${PORT}”; a whole number from 0 to 65535 is allowed.`, []]);
  });
  it('ends with what is wrong where its folder is a file, and leaves the file as it is', async () => {
    const parent = await mkdtemp(join(tmpdir(), 'cork-elbow-file-'));
    clean.push(() => rm(parent, { recursive: true, force: true }));
    const path = join(parent, 'data');
    await writeFile(path, 'mine');
    const { outcome, said } = await start({ PORT: '0', CORK_ELBOW_DATA: path });
    expect(await outcome).toBe(1);
    expect(said().trim().split('\n')).toHaveLength(1);
  });
  it('says where it is served already, and is no failure then; after a crash the next one serves what was saved', async () => {
    const folder = await mkdtemp(join(tmpdir(), 'cork-elbow-twice-'));
    const env = { PORT: '0', CORK_ELBOW_DATA: folder };
    let first = await start(env, ['--demo']);
    const address = String(await first.outcome);
    const second = await start(env, ['--demo']);
    expect(await second.outcome).toBe(0);
    expect(second.said()).toContain(`open ${address} in the browser`);
    let told = address;
    for (let round = 0; round < 3; round++) {
      const read = async (): Promise<{ revision: number; rig: { name: string } }> =>
        (await (await fetch(`${told}/api/rigs/tile-dipper`)).json()) as never;
      const { revision, rig } = await read();
      const answers: number[] = [];
      for (let k = 0; k < 5; k++) {
        const { status } = await fetch(`${told}/api/rigs/tile-dipper`, {
          method: 'PUT',
          headers: { 'content-type': 'application/json' },
          body: JSON.stringify({ revision: revision + k, rig: { ...rig, name: `Dipper ${round}.${k}` } }),
        });
        answers.push(status);
      }
      expect(answers).toEqual([200, 200, 200, 200, 200]);
      const gone = new Promise((done) => first.process.once('exit', done));
      first.process.kill('SIGKILL');
      await gone;
      first = await start(env, ['--demo']);
      told = String(await first.outcome);
      expect(await read()).toMatchObject({ revision: revision + 5, rig: { name: `Dipper ${round}.4` } });
    }
  });
  it('refuses bounds that are none', async () => {
    for (const [name, value] of [
      ['CORK_ELBOW_SECONDS', 'ten'],
      ['CORK_ELBOW_WORKERS', '0'],
    ] as const) {
      const { outcome, said } = await start({ PORT: '0', [name]: value });
      expect(await outcome).toBe(1);
      expect(said().trim()).toMatch(new RegExp(`^${name} is “${value}”; [\\d.]+ to \\d+ is allowed\\.$`));
    }
  });
});
