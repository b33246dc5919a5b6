import WebSocket from 'ws';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { ClientMessageInput, ServerMessage } from '@cork-elbow/core/contract';
import { CALM, refused, start, status, type Page, type Running } from './harness';

let server: Running;
beforeAll(async () => {
  server = await start();
});
afterAll(() => server.close());

const hello = (page: string): ClientMessageInput => ({ type: 'hello', page, openedAt: '2026-11-28T14:02:00.000Z' });
const connect: ClientMessageInput = { type: 'connect', rigId: 'tile-dipper', buildId: 'b1', timeScale: 10 };
const run: ClientMessageInput = {
  ...{ type: 'run', rigId: 'tile-dipper', revision: 1, buildId: 'b1', routineId: 'dip' },
};

/** A page that is there; what it is told from now on. */
async function opened(name: string): Promise<Page> {
  const page = await server.live();
  page.say(hello(name));
  return page;
}
/** A page with an armed board, until `test` is done with it. */
async function withArm(name: string, test: (page: Page) => Promise<void>): Promise<void> {
  const page = await opened(name);
  page.say({ type: 'take' });
  page.say(connect);
  await page.until(status((s) => s.link === 'connected' && s.control?.page === name));
  page.say({ type: 'arm' });
  await page.until(status((s) => s.armed && s.mode === 'normal'));
  try {
    await test(page);
  } finally {
    page.freeze(false);
    page.say({ type: 'take' });
    page.say({ type: 'away', run: 'stand', then: 'hold', afterS: 600 });
    page.say({ type: 'disconnect' });
    await page.until(status((s) => s.link === 'absent'));
    page.close();
  }
}

describe('what a page says', () => {
  it('is done in its order: what comes right behind a word that has a document read waits for it', () =>
    withArm('quick', async (page) => {
      const hand: ClientMessageInput = {
        type: 'by-hand',
        on: true,
        rigId: 'tile-dipper',
        revision: 1,
        buildId: 'b1',
      };
      for (const to of [12, -7]) {
        page.say({ ...hand, limitsOf: 'turn' });
        page.say({ type: 'guide', joints: { turn: to }, share: 0.5 });
        await page.until((m) => {
          if (refused(m)) throw new Error(m.code);
          return m.type === 'telemetry' && Math.abs(m.commanded.turn - to) < 0.05;
        });
      }
      page.say({ ...hand, on: false });
      await page.until(status((s) => s.mode === 'normal'));
    }));
});

describe('the controls of a board', () => {
  it('are one page’s: another one watches, may pause and stop, and takes them only on purpose', () =>
    withArm('first', async (first) => {
      const second = await opened('second');
      await second.until(status((s) => s.control?.page === 'first'));
      const only: ClientMessageInput[] = [
        ...[connect, run, { type: 'arm' } as const, { type: 'disarm' } as const, { type: 'resume' } as const],
        ...[{ type: 'disconnect' } as const, { type: 'away', run: 'finish', then: 'hold', afterS: 60 } as const],
      ];
      for (const message of only) {
        second.say(message);
        const { code, message: says } = await second.until(refused);
        expect([message.type, code]).toEqual([message.type, 'control-elsewhere']);
        expect(says).toContain('14:02');
      }
      first.say(run);
      await first.until(status((s) => s.run === 'running'));
      second.say({ type: 'pause' });
      await second.until(status((s) => s.run === 'paused'));
      second.say({ type: 'resume' });
      expect((await second.until(refused)).code).toBe('control-elsewhere');
      // A rig that runs stays.
      const kept = await server.send('DELETE', '/api/rigs/tile-dipper', undefined);
      expect([kept.status, kept.body.code]).toEqual([409, 'rig-runs']);
      second.say({ type: 'take' });
      await first.until(status((s) => s.control?.page === 'second'));
      first.say({ type: 'resume' });
      expect((await first.until(refused)).code).toBe('control-elsewhere');
      second.say({ type: 'resume' });
      await second.until(status((s) => s.run === 'running' || s.run === 'starting'));
      first.say({ type: 'stop' });
      await first.until(status((s) => s.run === 'stopped'));
      second.close();
    }));

  it('stay with a page that comes back under its name', () =>
    withArm('one', async () => {
      const back = await opened('one');
      back.say({ type: 'disarm' });
      await back.until(status((s) => !s.armed));
      expect(back.heard.filter(refused)).toEqual([]);
      back.close();
    }));

  it('are anybody’s where no board is connected, whoever took them before', async () => {
    const taker = await opened('taker');
    taker.say({ type: 'take' });
    const page = await opened('whoever');
    const seen = await page.until(status((s) => s.link === 'absent'));
    expect(seen.status.control).toBeNull();
    taker.say({ type: 'beat' });
    page.say(connect);
    await page.until(status((s) => s.link === 'connected' && s.control?.page === 'whoever'));
    page.say({ type: 'disconnect' });
    await page.until(status((s) => s.link === 'absent' && s.control === null));
    taker.close();
    page.close();
  });
});

describe('a page that is gone', () => {
  it('lets its run slow to a stand, the motors hold, and that is shown when it is back', () =>
    withArm('gone', async (page) => {
      page.say(run);
      await page.until(status((s) => s.run === 'running'));
      page.freeze();
      const stood = await page.until(status((s) => s.run === 'paused'));
      expect(stood.status).toMatchObject({ alone: true, armed: true, control: { page: 'gone' } });
      expect(stood.status.notice).toMatch(/was gone: the run slowed to a stand\.$/);
      page.freeze(false);
      await page.until(status((s) => !s.alone));
      page.say({ type: 'resume' });
      await page.until(status((s) => s.run === 'running'));
    }));

  it('lets its run go on to the end where that was chosen', () =>
    withArm('finishing', async (page) => {
      page.say({ type: 'away', run: 'finish', then: 'hold', afterS: 5 });
      page.say(run);
      await page.until(status((s) => s.run === 'running' && s.away.run === 'finish'));
      page.freeze();
      await page.until(status((s) => s.alone && s.run === 'running'));
      const done = await page.until(status((s) => ['finished', 'stopped', 'paused', 'failed'].includes(s.run)));
      expect(done.status).toMatchObject({ run: 'finished', armed: true });
    }));

  it('lets the arm lie down after the time that was chosen, and go off where it rests', () =>
    withArm('resting', async (page) => {
      page.say({ type: 'away', run: 'stand', then: 'rest', afterS: 20 });
      page.say(run);
      await page.until(status((s) => s.run === 'running'));
      page.freeze();
      await page.until(status((s) => s.run === 'paused'));
      await page.until(status((s) => s.mode === 'lying-down'));
      const off = await page.until(status((s) => !s.armed));
      expect(off.status).toMatchObject({ mode: 'normal', run: 'stopped', alone: true });
      expect(off.status.notice).toMatch(/lay down and its motors are off\.$/);
      const { rig } = (await server.get('/api/rigs/tile-dipper')).body;
      const rest = rig.poses.find((p: { id: string }) => p.id === rig.powerUp.rest)?.joints ?? {};
      const told = page.heard.filter((m) => m.type === 'telemetry').at(-1)!;
      for (const [id, value] of Object.entries(rest)) expect(told.commanded[id]).toBeCloseTo(value as number, 1);
      // Never at once: the way there took its time, joint by joint.
      const stands = page.heard.filter((m) => m.type === 'telemetry');
      for (let k = 1; k < stands.length; k++)
        for (const [id, v] of Object.entries(stands[k]!.commanded))
          expect(Math.abs(v - (stands[k - 1]!.commanded[id] ?? v))).toBeLessThan(200);
    }));
});

describe('the live line', () => {
  const tries = (headers: Record<string, string>): Promise<string> =>
    new Promise((done) => {
      const socket = new WebSocket(`${server.url.replace('http', 'ws')}/api/live`, { headers });
      socket.once('open', () => {
        socket.close();
        done('open');
      });
      socket.once('unexpected-response', (_request, { statusCode }) => done(String(statusCode)));
      socket.once('error', () => undefined);
    });
  it('is opened by pages of this server only, and by scripts', async () => {
    expect(await tries({})).toBe('open');
    expect(await tries({ origin: 'http://elsewhere.example' })).toBe('403');
    expect(await tries({ origin: 'http://127.0.0.1:9' })).toBe('403');
    // The right origin is not enough: the page was loaded from here.
    expect(await tries({ origin: server.url })).toBe('403');
    const loaded = await fetch(`${server.url}/api/health`, { headers: { 'sec-fetch-site': 'same-origin' } });
    const cookie = loaded.headers.get('set-cookie')!;
    expect(cookie).toMatch(/HttpOnly; SameSite=Strict/);
    expect(await tries({ origin: server.url, cookie: cookie.split(';')[0]! })).toBe('open');
    expect(await tries({ origin: server.url, cookie: 'cork-elbow-page=00' })).toBe('403');
    expect(await tries({ origin: 'http://127.0.0.1:9', cookie: cookie.split(';')[0]! })).toBe('403');
    // Pages of others are not given it.
    const other = await fetch(`${server.url}/api/health`, { headers: { 'sec-fetch-site': 'cross-site' } });
    expect(other.headers.get('set-cookie')).toBeNull();
  });
});

describe('a page that watches and reads nothing', () => {
  it('is dropped once its line is full, and neither the run nor who reads hears late of anything', () =>
    withArm('driver', async (driver) => {
      driver.say(run);
      await driver.until(status((s) => s.run === 'running'));
      const watcher = new WebSocket(server.url.replace('http', 'ws') + '/api/live');
      await new Promise((done) => watcher.once('open', done));
      let isDropped = false;
      watcher.once('close', () => (isDropped = true)).on('error', () => (isDropped = true));
      watcher.pause();
      // Whatever it says is answered; it takes in none of it.
      let said = 0;
      for (; !isDropped && said < 200_000; said += 50) {
        for (let k = 0; k < 50; k++) watcher.send('not a message');
        await new Promise((done) => setImmediate(done));
      }
      expect(isDropped).toBe(true);
      expect(said).toBeGreaterThan(1000);
      const done = await driver.until(status((s) => ['finished', 'stopped', 'paused', 'failed'].includes(s.run)));
      expect(done.status).toMatchObject({ run: 'finished', notice: expect.stringMatching(CALM) });
      const told = driver.heard.flatMap((m) => (m.type === 'telemetry' ? [m.runS] : []));
      expect(told.length).toBeGreaterThan(20);
      // Whoever is there still hears all of it, in order.
      expect(told).toEqual([...told].sort((a, b) => a - b));
    }));
});

describe('the lines to the boards', () => {
  const lines = (m: ServerMessage): m is Extract<ServerMessage, { type: 'lines' }> => m.type === 'lines';
  const heardBy = (page: Page): string[] => page.heard.filter(lines).flatMap((m) => m.lines.map(({ text }) => text));

  it('are heard by pages that listen, watchers too, with what went before; by nobody else, and no more once they do not', () =>
    withArm('driver', async (driver) => {
      const watcher = await opened('watcher');
      watcher.say({ type: 'listen', on: true });
      const first = await watcher.until(lines);
      // What was kept from the beginning: the host greets, the board says what it is, both with their sums.
      expect(first.lines[0]).toMatchObject({ way: 'out' });
      expect(first.lines[0].text).toMatch(/^hello\b.*\*[0-9A-F]{4}$/i);
      expect(first.lines.some(({ way, text }) => way === 'in' && /^board /.test(text))).toBe(true);
      // New ones come as they are said, each once.
      driver.say({ type: 'disarm' });
      await watcher.until((m) => lines(m) && m.lines.some(({ way, text }) => way === 'out' && /^sleep/.test(text)));
      const numbers = watcher.heard.filter(lines).flatMap((m) => m.lines.map(({ no }) => no));
      expect(new Set(numbers).size).toBe(numbers.length);
      expect(heardBy(driver)).toEqual([]);
      watcher.say({ type: 'listen', on: false });
      const before = heardBy(watcher).length;
      driver.say({ type: 'arm' });
      await watcher.until(status((s) => s.armed && s.mode === 'normal'));
      expect(heardBy(watcher).length - before).toBeLessThan(40);
      watcher.close();
    }));
});
