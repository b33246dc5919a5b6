import { fork, spawn, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { connect, createServer, type AddressInfo, type Server } from 'node:net';
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest';
import type { ClientMessageInput, Links, ServerMessage, Status } from '@cork-elbow/core/contract';
import { encodeBoard } from '@cork-elbow/core/board';
import { compile } from '../../core/src/firmware/compiled.testkit';
import { portTrouble } from '../src/links/port-trouble';
import { refused, start, status, type Page, type Running } from './harness';

let server: Running;
let page: Page;
const children: ChildProcess[] = [];
beforeAll(async () => {
  server = await start();
  page = await server.live();
});
afterEach(async () => {
  const last = page.heard.findLast((m) => m.type === 'status');
  if (last?.status.link !== 'absent') {
    page.say({ type: 'disconnect' });
    await page.until(status((s) => s.link === 'absent'));
  }
  for (const child of children.splice(0)) child.kill('SIGKILL');
});
afterAll(async () => {
  page.close();
  await server.close();
});

const boardFile = new URL('../../.cache/server-threads/board.js', import.meta.url).pathname;
/** A simulated board as a process of its own, and its port. */
async function board(...args: string[]): Promise<{ child: ChildProcess; port: number }> {
  const child = fork(boardFile, ['--rig', 'tile-dipper', '--port', '0', ...args], { silent: true });
  children.push(child);
  const [said] = (await once(child, 'message')) as [{ board: string; port: number }];
  expect(said.board).toBe('pwm');
  return { child, port: said.port };
}
const tcp = (port: number): Links => ({ pwm: { kind: 'tcp', host: '127.0.0.1', port } });
const serial = (path: string): Links => ({ pwm: { kind: 'serial', path, baud: 115_200 } });
const connecting = (links: Links): ClientMessageInput => ({
  ...{ type: 'connect', rigId: 'tile-dipper', buildId: 'b1', links },
  // What is really there lives in real time whatever is asked for.
  timeScale: 50,
});
const run: ClientMessageInput = {
  ...{ type: 'run', rigId: 'tile-dipper', revision: 1, buildId: 'b1', routineId: 'dip' },
};

/** A pair of pseudo-terminals: the path of one end; what is written there comes out of the other, and the other way round. */
async function terminals(): Promise<{ child: ChildProcess; path: string; end: ChildProcess['stdout'] }> {
  const child = spawn('script', ['-q', '-c', 'stty raw -echo; tty; exec sleep 600', '/dev/null'], {
    stdio: ['pipe', 'pipe', 'inherit'],
  });
  children.push(child);
  let said = '';
  while (!/\n/.test(said)) said += String((await once(child.stdout, 'data'))[0]);
  return { child, path: said.trim(), end: child.stdout };
}
/** … with a program at the other end of it, that speaks on its input and output. */
async function pluggedProgram(program: string): Promise<string> {
  const { child, path } = await terminals();
  const board = spawn(program, ['live'], { stdio: ['pipe', 'pipe', 'inherit'] });
  children.push(board);
  child.stdout!.on('data', (bytes: Buffer) => board.stdin.write(bytes));
  board.stdout.on('data', (bytes: Buffer) => child.stdin!.write(bytes));
  for (const end of [board.stdin, child.stdin!]) end.on('error', () => undefined);
  return path;
}
/** … with a board at the other end of it. */
async function plugged(port: number): Promise<{ child: ChildProcess; path: string }> {
  const { child, path } = await terminals();
  const socket = connect({ port, host: '127.0.0.1', noDelay: true });
  child.stdout!.on('data', (bytes: Buffer) => socket.write(bytes));
  socket.on('data', (bytes) => child.stdin!.write(bytes));
  socket.on('error', () => undefined);
  child.stdin!.on('error', () => undefined);
  return { child, path };
}

/** What becomes of a connection: of this one, not of one before it. */
async function connected(links: Links): Promise<Status> {
  page.say(connecting(links));
  await page.until(status((s) => s.link === 'connecting'));
  return (await page.until(status((s) => s.link === 'connected' || s.link === 'lost'))).status;
}
/** Armed, run for a second, stopped on the way: real time is dear. */
async function runABit(links: Links): Promise<Status> {
  expect(await connected(links)).toMatchObject({ link: 'connected', notice: '' });
  page.say({ type: 'arm' });
  await page.until(status((s) => s.armed && s.mode === 'normal'));
  page.say(run);
  const isOver = status((s) => s.runId !== null && ['stopped', 'failed'].includes(s.run));
  const isUnderway = (m: ServerMessage): boolean =>
    m.type === 'telemetry' && Object.keys(m.measured).length === 5 && m.runS > 0.5;
  const met = await page.until((m) => isUnderway(m) || isOver(m) || refused(m));
  if (met.type !== 'telemetry') throw new Error(JSON.stringify(met));
  page.say({ type: 'stop' });
  return (await page.until(isOver)).status;
}

describe('a board that is a process of its own', () => {
  it('is run over TCP as the one inside is, on a clock of its own', async () => {
    const { port } = await board('--clock-ppm', '3000');
    const ended = await runABit(tcp(port));
    expect(ended).toMatchObject({ run: 'stopped', board: `board at 127.0.0.1:${port}` });
  });

  it('keeps its motors where they were left, for who connects next', async () => {
    const { port } = await board();
    await runABit(tcp(port));
    // Motors come to rest a moment after the last point.
    let before = '';
    await page.until((m) => {
      const at = m.type === 'telemetry' ? JSON.stringify(m.measured) : '';
      const rests = at !== '' && at === before;
      before = at || before;
      return rests;
    });
    page.say({ type: 'disconnect' });
    await page.until(status((s) => s.link === 'absent'));
    const left = page.heard.findLast((m) => m.type === 'telemetry')!;
    await connected(tcp(port));
    const found = await page.until((m) => m.type === 'telemetry' && Object.keys(m.measured).length === 5);
    for (const [id, value] of Object.entries((left as typeof found & { measured: object }).measured))
      expect((found as typeof left).measured[id]).toBeCloseTo(value as number, 0);
  });

  it('that is killed in mid-run ends it, and says so', async () => {
    const { child, port } = await board();
    await connected(tcp(port));
    page.say({ type: 'arm' });
    await page.until(status((s) => s.armed && s.mode === 'normal'));
    page.say(run);
    await page.until(status((s) => s.run === 'running' || s.run === 'starting'));
    child.kill('SIGKILL');
    const { status: lost } = await page.until(status((s) => s.link === 'lost'));
    expect(lost).toMatchObject({ armed: false, run: 'failed' });
    expect(lost.notice).toMatch(/^The line to the board failed: .*127\.0\.0\.1.* (cut|closed the connection)\.$/);
  });

  it.each([
    [['--port', '99999'], '--port is “99999”; a whole number from 0 to 65535 is allowed.'],
    [['--clock-ppm', 'fast'], '--clock-ppm is “fast”; a number is allowed.'],
    [['--clock-ppm', '50000'], 'ppm'],
    [['--board', 'other'], 'There is no board “other” with a line of its own; there are pwm.'],
    [['--rig', 'nowhere.json'], '“nowhere.json” is neither a rig of the demo'],
    [['--colour', 'red'], "Unknown option '--colour'. Switches: --rig"],
  ])('says in a sentence what it does not take: %j', async (args, sentence) => {
    const child = fork(boardFile, args, { silent: true });
    children.push(child);
    let said = '';
    child.stderr!.on('data', (text) => (said += String(text)));
    const [code] = (await once(child, 'close')) as [number];
    expect(code).toBe(1);
    expect(said).toContain(sentence);
    expect(said.trim().split('\n')).toHaveLength(1);
  });

  it('takes one computer at a time', async () => {
    const { port } = await board();
    await connected(tcp(port));
    const second = connect({ port, host: '127.0.0.1' });
    second.resume();
    await once(second, 'close');
    expect(page.heard.findLast((m) => m.type === 'status')).toMatchObject({ status: { link: 'connected' } });
  });
});

describe('a board on a serial port', () => {
  it('is run over it, and is gone when its cable is pulled', async () => {
    const { port } = await board();
    const { child, path } = await plugged(port);
    const ended = await runABit(serial(path));
    expect(ended).toMatchObject({ run: 'stopped', board: `${path} at 115200 baud` });
    child.kill('SIGKILL');
    const { status: lost } = await page.until(status((s) => s.link === 'lost'));
    expect(lost.armed).toBe(false);
    expect(lost.notice).toBe(`The line to the board failed: ${path} is gone, as when its cable is pulled.`);
  });

  it('that runs its firmware as it was handed off is armed, plays a whole routine, and says what it was made for', async () => {
    const { body } = await server.send('POST', '/api/compute/commands', {
      ...{ rigId: 'tile-dipper', format: 'firmware', options: { kind: 'bridge' } },
    });
    const path = await pluggedProgram(compile(body.files));
    const made = await connected(serial(path));
    expect(made).toMatchObject({ link: 'connected', notice: '' });
    expect(JSON.stringify(made.madeFor)).toContain('"revision":1');
    page.say({ type: 'arm' });
    const armed = await page.until((m) => status((s) => s.armed && s.mode === 'normal')(m) || refused(m));
    expect(armed).toMatchObject({ type: 'status' });
    page.say({ ...run, routineId: 'park' } as ClientMessageInput);
    const done = await page.until((m) => status((s) => s.run === 'finished' || s.run === 'failed')(m) || refused(m));
    expect(done).toMatchObject({ status: { run: 'finished' } });
  });

  it('that is not there is named', async () => {
    const lost = await connected(serial('/dev/ttyUSB93'));
    expect(lost.notice).toContain('there is no port /dev/ttyUSB93');
  });

  it('at the wrong speed is told from one that is silent', async () => {
    const { child, path } = await terminals();
    const noise = setInterval(() => child.stdin!.write(Buffer.from([0xf8, 0x80, 0x1c, 0xe0, 10, 0x7f])), 20);
    const lost = await connected(serial(path));
    clearInterval(noise);
    expect(lost.notice).toMatch(/nothing that came makes sense \(\d+ bytes\): its speed may be another one/);
  });

  it.each([
    ['Error: Permission denied, cannot open /dev/x', 'join the group that owns it'],
    ['Error Resource temporarily unavailable Cannot lock port', 'another program has /dev/x open'],
    ['Error: No such file or directory, cannot open /dev/x', 'there is no port /dev/x'],
    ['Error: setting custom baud rate failed', 'cannot be set to this speed'],
    ['Error: Input/output error', 'as when its cable is pulled'],
  ])('says what “%s” means', (message, words) => expect(portTrouble(message, '/dev/x')).toContain(words));
});

describe('a TCP address', () => {
  let quiet: Server;
  beforeAll(async () => {
    quiet = createServer(() => undefined).listen(0, '127.0.0.1');
    await once(quiet, 'listening');
  });
  afterAll(() => quiet.close());

  it('at which nothing listens, nobody speaks, or another version does, is named with the reason', async () => {
    const { port } = quiet.address() as AddressInfo;
    const gone = createServer().listen(0, '127.0.0.1');
    await once(gone, 'listening');
    const { port: free } = gone.address() as AddressInfo;
    gone.close();
    const other = createServer((socket) => {
      socket.on('error', () => undefined);
      socket.on('data', () =>
        socket.write(encodeBoard({ word: 'board', version: 9, kind: 'servo', channels: 16, buffer: 64, made: null })),
      );
    }).listen(0, '127.0.0.1');
    await once(other, 'listening');
    for (const [to, words] of [
      [free, `nothing listens at 127.0.0.1, port ${free}`],
      [port, 'the board has not said a word within 4 s'],
      [(other.address() as AddressInfo).port, 'version 9'],
    ] as const) {
      const lost = await connected(tcp(to));
      expect(lost.notice).toContain(words);
    }
    other.close();
  });
});

describe('a line of one’s own', () => {
  it('is sealed, numbered and answered while nothing is armed; what moves never leaves', async () => {
    page.say({ type: 'connect', rigId: 'tile-dipper', buildId: 'b1', timeScale: 10 });
    await page.until(status((s) => s.link === 'connected'));
    page.say({ type: 'listen', on: true });
    page.say({ type: 'line', board: 'pwm', text: 'hello 0' });
    const lines = (test: (text: string, way: string) => boolean) => (m: ServerMessage) =>
      m.type === 'lines' && m.lines.some(({ text, way }) => test(text, way));
    await page.until(lines((text, way) => way === 'out' && /^hello 0\*[0-9a-f]{4}$/.test(text)));
    page.say({ type: 'line', board: 'pwm', text: 'sleep #' });
    await page.until(lines((text, way) => way === 'in' && /^done sleep \d+/.test(text)));
    page.say({ type: 'line', board: 'pwm', text: 'hello 1*0000' });
    await page.until(lines((text, way) => way === 'in' && /^refused line \d+ garbled/.test(text)));
    for (const text of ['wake # 0:1500', 'point 0 20 0:1500', 'more 0 1 0:1500', 'bounds # 0 1 9 9', 'report # 0']) {
      page.say({ type: 'line', board: 'pwm', text });
      expect((await page.until(refused)).code).toBe('line-moves');
    }
    for (const text of ['', ' hello 0', 'a\nwake 1 0:1500', 'é', 'x'.repeat(114)]) {
      page.say({ type: 'line', board: 'pwm', text });
      expect((await page.until(refused)).code).not.toBe('line-moves');
    }
    page.say({ type: 'line', board: 'none', text: 'hello 0' });
    expect((await page.until(refused)).code).toBe('board-absent');
    page.say({ type: 'arm' });
    await page.until(status((s) => s.armed));
    page.say({ type: 'line', board: 'pwm', text: 'hello 0' });
    expect((await page.until(refused)).code).toBe('line-armed');
    const sent = page.heard.flatMap((m) => (m.type === 'lines' ? m.lines : [])).filter(({ way }) => way === 'out');
    expect(sent.filter(({ text }) => /wake \d+ 0:1500$|report \d+ 0\*/.test(text))).toEqual([]);
  });
});

describe('how boards are reached', () => {
  const path = '/api/rigs/tile-dipper/builds/b1/links';
  it('is kept per build, outside the document, and goes with the rig', async () => {
    expect((await server.get(path)).body).toEqual({ links: {} });
    const links = { pwm: { kind: 'serial', path: '/dev/ttyACM0', baud: 115_200 } };
    expect((await server.send('PUT', path, { links })).body).toEqual({ links });
    expect((await server.get(path)).body).toEqual({ links });
    expect((await server.get('/api/rigs/tile-dipper')).body.revision).toBe(1);
    expect((await server.get('/api/rigs/tile-dipper/builds/other/links')).body).toEqual({ links: {} });
    const { body } = await server.get('/api/rigs/tile-dipper');
    const made = (await server.send('POST', '/api/rigs', { rig: body.rig, id: 'short-lived' })).body;
    const own = `/api/rigs/${made.id}/builds/b1/links`;
    expect((await server.send('PUT', own, { links })).status).toBe(200);
    await server.send('DELETE', `/api/rigs/${made.id}`, undefined);
    await server.send('POST', '/api/rigs', { rig: body.rig, id: made.id });
    expect((await server.get(own)).body).toEqual({ links: {} });
  });

  it.each([
    [{ pwm: { kind: 'serial', path: '/dev/../etc/passwd', baud: 9600 } }, 'the path of a port'],
    [{ pwm: { kind: 'serial', path: '/home/x', baud: 9600 } }, 'the path of a port'],
    [{ pwm: { kind: 'tcp', host: 'a b', port: 7010 } }, 'a name or an address'],
    [{ pwm: { kind: 'tcp', host: 'a', port: 0 } }, 'port'],
    [{ pwm: { kind: 'smoke' } }, 'kind'],
  ])('refuses %j', async (links, words) => {
    const { status: code, body } = await server.send('PUT', path, { links });
    expect(code).toBe(400);
    expect(body.message).toContain(words);
  });

  it('wants a build that is there', async () => {
    for (const url of ['/api/rigs/tile-dipper/builds/b9/links', '/api/rigs/none/builds/b1/links'])
      expect((await server.send('PUT', url, { links: {} })).status).toBe(404);
  });

  it('lists the ports of this computer, or says why not', async () => {
    const { status: code, body } = await server.get('/api/ports');
    expect(code).toBe(200);
    expect(body.problem === null || /typed/.test(body.problem)).toBe(true);
    for (const port of body.ports) expect(port.path).toMatch(/^(\/dev\/|COM)/);
  });
});
