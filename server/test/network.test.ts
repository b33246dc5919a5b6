import { readFile } from 'node:fs/promises';
import { request } from 'node:https';
import { connect } from 'node:net';
import { join } from 'node:path';
import { X509Certificate } from 'node:crypto';
import WebSocket from 'ws';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { networkAnswer, type NetworkAnswer, type ServerMessage } from '@cork-elbow/core/contract';
import { start, type Running } from './harness';

let server: Running;
let port: number;
beforeAll(async () => {
  server = await start();
  port = await freePort();
});
afterAll(() => server.close());

async function freePort(): Promise<number> {
  const { createServer } = await import('node:net');
  return new Promise((done) => {
    const probe = createServer().listen(0, '127.0.0.1', () => {
      const { port: free } = probe.address() as { port: number };
      probe.close(() => done(free));
    });
  });
}
const network = async (): Promise<NetworkAnswer> => networkAnswer.parse((await server.get('/api/network')).body);
const open = (is: boolean): ReturnType<Running['send']> => server.send('PUT', '/api/network', { open: is, port });
const codeNow = async (): Promise<string> =>
  ((await server.send('POST', '/api/network/code', {})).body as NetworkAnswer).code!.text;

interface Answer {
  readonly status: number;
  readonly headers: Record<string, string | string[] | undefined>;
  readonly text: string;
}
/** Over HTTPS, as a device of the network asks; only the certificate of this computer is trusted. */
async function ask(
  path: string,
  { method = 'GET', cookie = '', body = '', headers = {} as Record<string, string> } = {},
): Promise<Answer> {
  const ca = await readFile(join(server.folder, 'network-cert.pem'));
  return new Promise((done, fail) => {
    const asked = request(
      {
        ...{ host: '127.0.0.1', port, path, method, ca, servername: 'localhost' },
        headers: { ...(cookie ? { cookie } : {}), ...headers },
      },
      (response) => {
        let text = '';
        response.on('data', (piece) => (text += String(piece)));
        response.on('end', () => done({ status: response.statusCode!, headers: response.headers, text }));
      },
    );
    asked.on('error', fail);
    asked.end(body);
  });
}
const form = (code: string, name = 'Bench tablet'): Promise<Answer> =>
  ask('/pair', {
    method: 'POST',
    body: new URLSearchParams({ code, name }).toString(),
    headers: { 'content-type': 'application/x-www-form-urlencoded', origin: `https://127.0.0.1:${port}` },
  });
/** A device that is paired: what it sends to be known, and its id. */
async function paired(name = 'Bench tablet'): Promise<{ cookie: string; id: string }> {
  const { status, headers } = await form(await codeNow(), name);
  expect(status).toBe(303);
  const [set] = headers['set-cookie'] as string[];
  expect(set).toMatch(/HttpOnly/i);
  expect(set).toMatch(/Secure/i);
  expect(set).toMatch(/SameSite=Strict/i);
  return { cookie: set.split(';')[0], id: (await network()).devices.at(-1)!.id };
}
/** A live line of a device, and what it hears. */
async function live(cookie: string, origin = `https://127.0.0.1:${port}`) {
  const ca = await readFile(join(server.folder, 'network-cert.pem'));
  const socket = new WebSocket(`wss://127.0.0.1:${port}/api/live`, { ca, origin, headers: { cookie } });
  const heard: ServerMessage[] = [];
  let wake = (): void => undefined;
  socket.on('message', (text: Buffer) => {
    heard.push(JSON.parse(text.toString()) as ServerMessage);
    wake();
  });
  const closed = new Promise<void>((done) => socket.on('close', () => done()));
  const refused = new Promise<number>((done) =>
    socket.on('unexpected-response', (_r, { statusCode }) => done(statusCode!)),
  );
  socket.on('error', () => undefined);
  const until = async (test: (message: ServerMessage) => boolean): Promise<ServerMessage> => {
    for (;;) {
      const found = heard.find(test);
      if (found) return found;
      await new Promise<void>((done) => (wake = done));
    }
  };
  const say = (message: object): void => socket.send(JSON.stringify(message));
  return { socket, until, say, closed, refused, heard };
}

describe('the local network', () => {
  it('is shut until somebody opens it, and shut again to whoever is inside', async () => {
    expect(await network()).toMatchObject({ open: false, addresses: [], code: null, devices: [] });
    expect((await server.send('POST', '/api/network/code', {})).body.code).toBe('network-closed');
    await open(true);
    const now = await network();
    expect(now).toMatchObject({ open: true, port, problem: null });
    const cert = new X509Certificate(await readFile(join(server.folder, 'network-cert.pem')));
    expect(now.fingerprint).toBe(cert.fingerprint256);
    const device = await paired();
    const line = await live(device.cookie);
    await line.until(({ type }) => type === 'right');
    await open(false);
    await line.closed;
    await expect(ask('/pair')).rejects.toThrow();
    // The same certificate and the same devices as before.
    await open(true);
    expect((await network()).fingerprint).toBe(now.fingerprint);
    expect((await ask('/api/rigs', device)).status).toBe(200);
    await server.send('DELETE', `/api/network/devices/${device.id}`, undefined);
  });

  describe('opened', () => {
    beforeEach(() => open(true));

    it('hands nothing to a device that is not paired but the page to pair it on', async () => {
      // Somebody else's pairing opens nothing for it.
      await paired('Somebody’s');
      for (const path of ['/', '/rigs/tile-dipper/bench', '/assets/index.js'])
        expect(await ask(path)).toMatchObject({ status: 302, headers: { location: '/pair' } });
      for (const path of ['/api/rigs', '/api/network', '/api/openapi.json', '/api/backup'])
        expect([(await ask(path)).status, path]).toEqual([401, path]);
      const made = await ask('/api/rigs', {
        method: 'POST',
        body: '{}',
        headers: { 'content-type': 'application/json' },
      });
      expect(made.status).toBe(401);
      const { text } = await ask('/pair');
      expect(text).toContain('Pair this device');
      expect(text).not.toContain('<script');
      expect(await (await live('')).refused).toBe(401);
      expect(await (await live('cork-elbow-device=' + 'a'.repeat(64))).refused).toBe(401);
      // The page's own token of this computer opens nothing here.
      const page = (
        await fetch(`${server.url}/api/health`, { headers: { 'sec-fetch-site': 'same-origin' } })
      ).headers.get('set-cookie')!;
      expect((await ask('/api/rigs', { cookie: page.split(';')[0] })).status).toBe(401);
    });

    it('pairs one device a code; it watches and stops until it may drive, and is out once it is removed', async () => {
      const code = await codeNow();
      const first = await form(code);
      expect(first.status).toBe(303);
      expect((await form(code)).text).toContain('No code is shown');
      const [set] = first.headers['set-cookie'] as string[];
      const cookie = set.split(';')[0];
      const device = (await network()).devices.at(-1)!;
      expect(device).toMatchObject({ name: 'Bench tablet', right: 'watch' });
      // Neither code nor token stands in the file.
      const kept = await readFile(join(server.folder, 'network.json'), 'utf8');
      expect(kept).not.toContain(cookie.split('=')[1]);

      const json = { 'content-type': 'application/json' };
      const save = (): Promise<Answer> =>
        ask('/api/rigs/tile-dipper/builds/b1/links', { method: 'PUT', cookie, body: '{"links":{}}', headers: json });
      expect((await ask('/api/rigs/tile-dipper', { cookie })).status).toBe(200);
      expect(JSON.parse((await save()).text)).toMatchObject({ code: 'right-watch' });
      // However the address is written.
      for (const path of [
        '/%61pi/rigs/tile-dipper',
        '/api/compute/%2e%2e/rigs/tile-dipper',
        '/api/compute/..%2frigs',
      ])
        expect((await ask(path, { method: 'DELETE', cookie, headers: json, body: '{}' })).status, path).not.toBe(200);
      expect((await ask('/api/rigs/tile-dipper', { cookie })).status).toBe(200);
      const forward = { rigId: 'tile-dipper', joints: {} };
      const asked = await ask('/api/compute/forward', {
        method: 'POST',
        cookie,
        body: JSON.stringify(forward),
        headers: json,
      });
      expect(asked.status).toBe(200);

      const line = await live(cookie);
      expect(await line.until(({ type }) => type === 'right')).toMatchObject({
        right: 'watch',
        device: 'Bench tablet',
      });
      const moves = [
        { type: 'take' },
        { type: 'connect', rigId: 'tile-dipper', buildId: 'b1', timeScale: 10 },
        { type: 'arm' },
        { type: 'clear' },
      ];
      for (const message of moves) {
        const before = line.heard.length;
        line.say(message);
        await line.until((m) => line.heard.indexOf(m) >= before && m.type === 'refused' && m.code === 'right-watch');
      }
      for (const type of ['stop', 'halt', 'pause']) line.say({ type });
      line.say({ type: 'hello', page: 'tablet', openedAt: '2026-11-29T10:00:00.000Z' });

      await server.send('PUT', `/api/network/devices/${device.id}`, { right: 'drive' });
      await line.until((m) => m.type === 'right' && m.right === 'drive');
      expect((await save()).status).toBe(200);
      const { length } = line.heard.filter(({ type }) => type === 'refused');
      line.say({ type: 'connect', rigId: 'tile-dipper', buildId: 'b1', timeScale: 10 });
      await line.until((m) => m.type === 'status' && m.status.link === 'connected');
      expect(line.heard.filter(({ type }) => type === 'refused')).toHaveLength(length);
      line.say({ type: 'disconnect' });
      await line.until((m) => m.type === 'status' && m.status.link === 'absent');

      await server.send('DELETE', `/api/network/devices/${device.id}`, undefined);
      await line.closed;
      expect((await save()).status).toBe(401);
    });

    it('lets no device say who may come in, or put another shelf in place of this one', async () => {
      const device = await paired();
      await server.send('PUT', `/api/network/devices/${device.id}`, { right: 'drive' });
      const asks: [string, string][] = [
        ...([
          ['GET', '/api/network'],
          ['PUT', '/api/network'],
          ['POST', '/api/network/code'],
        ] as [string, string][]),
        ...([
          ['PUT', `/api/network/devices/${device.id}`],
          ['POST', '/api/restore'],
        ] as [string, string][]),
        ...([
          ['GET', '/api/network?x'],
          ['GET', '/api/%6eetwork'],
          ['PUT', '/%61pi/network'],
          ['DELETE', `/api/network/devices/${device.id}`],
        ] as [string, string][]),
      ];
      for (const [method, path] of asks) {
        const { status, text } = await ask(path, { ...device, method });
        expect([status, path, (JSON.parse(text) as { code: string }).code]).toEqual([403, path, 'here-only']);
      }
      await server.send('DELETE', `/api/network/devices/${device.id}`, undefined);
    });

    it('refuses other names, other pages, and what does not speak HTTPS', async () => {
      expect((await ask('/pair', { headers: { host: 'evil.example' } })).status).toBe(403);
      const device = { cookie: 'x=y' };
      expect((await ask('/api/rigs', { ...device, headers: { origin: 'https://evil.example' } })).status).toBe(403);
      expect((await ask('/api/rigs', { ...device, headers: { origin: server.url } })).status).toBe(403);
      const plain = await new Promise<string>((done) => {
        let text = '';
        const socket = connect(port, '127.0.0.1', () =>
          socket.write('GET /api/rigs HTTP/1.1\r\nHost: 127.0.0.1\r\n\r\n'),
        );
        socket.on('data', (bytes) => (text += bytes.toString('latin1')));
        socket.on('error', () => undefined);
        socket.on('close', () => done(text));
      });
      expect(plain).not.toContain('tile-dipper');
    });

    it('says that its port is taken, and opens at another one', async () => {
      const { createServer } = await import('node:net');
      const other = createServer();
      await new Promise<void>((done) => other.listen(0, '127.0.0.1', done));
      const taken = (other.address() as { port: number }).port;
      const { body } = await server.send('PUT', '/api/network', { open: true, port: taken });
      expect(body).toMatchObject({ open: false, problem: `Port ${taken} is taken by another program.` });
      other.close();
      await open(true);
      expect((await network()).problem).toBeNull();
    });
  });

  it('stays open over a restart, with its devices', async () => {
    const device = await paired('Phone');
    const { folder } = server;
    await server.close(true);
    server = await start({ folder });
    await expect.poll(async () => (await network()).open).toBe(true);
    expect((await network()).devices.map(({ name }) => name)).toContain('Phone');
    expect((await ask('/api/rigs', device)).status).toBe(200);
  });

  it('makes who guesses wait, longer each time, whatever code is shown', async () => {
    const before = (await network()).devices.length;
    const code = await codeNow();
    const wrong = code === '00000000' ? '11111111' : '00000000';
    expect((await form(wrong)).text).toContain('not the code');
    const early = await form(code);
    expect([early.status, early.text]).toEqual([403, expect.stringContaining('not looked at')]);
    await codeNow();
    expect((await form(wrong)).text).toContain('not looked at');
    expect((await network()).devices).toHaveLength(before);
  });
});

describe('answers', () => {
  it('that are long go compressed to who takes that', async () => {
    const asked = await fetch(`${server.url}/api/rigs/tile-dipper`, { headers: { 'accept-encoding': 'gzip' } });
    expect(asked.headers.get('content-encoding')).toBe('gzip');
    expect(((await asked.json()) as { rig: { name: string } }).rig.name).toBe('Tile dipper');
    const plain = await fetch(`${server.url}/api/rigs/tile-dipper`, { headers: { 'accept-encoding': 'identity' } });
    expect(plain.headers.get('content-encoding')).toBeNull();
  });
});
