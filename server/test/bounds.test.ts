import { connect } from 'node:net';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { tileDipper } from '@cork-elbow/demo';
import type { Rig } from '@cork-elbow/core/rig';
import { start, type Running } from './harness';

/** One thread, three seconds, two that may wait: what is too much is soon too much. */
let server: Running;
beforeAll(async () => {
  server = await start({ bounds: { seconds: 3, threads: 1, queue: 2 } });
});
afterAll(() => server.close());

/** A rig whose routine is too long to plan in the time there is. */
const long = (steps: number): Rig => {
  const rig = structuredClone(tileDipper()) as Rig;
  // Ever other ways: what was worked out once is not worked out again.
  rig.spots = Array.from({ length: 151 }, (_, k) => ({
    ...rig.spots[0]!,
    ...{ id: `far-${k}`, name: `Far ${k}` },
    xyzMm: [150 + (k % 13) * 4, -75 + k, 110 + (k % 7) * 3] as [number, number, number],
  }));
  rig.routines[0]!.steps = Array.from({ length: steps }, (_, k) => ({
    ...{ id: `s${k}`, kind: 'straight-move', enabled: true, note: '' },
    ...{ target: { spot: `far-${(k * 64) % 151}`, direction: null }, pace: { speedShare: 1 } },
  })) as never;
  return rig;
};
const heavy = (): { rig: Rig; routineId: string; sampleMs: number } => ({
  rig: long(5000),
  routineId: tileDipper().routines[0]!.id,
  sampleMs: 20,
});

describe('computing that takes too long', () => {
  it('is given up with what it was at, and the next call is computed', async () => {
    const { status, body } = await server.send('POST', '/api/compute/plan', heavy());
    expect([status, body.code]).toEqual([422, 'work-spent']);
    expect(body.message).toMatch(
      /^POST \/api\/compute\/plan: (?:planning the routine “.+”|sampling the plan|checking what was asked) took more than the 3 s .* after \d+ pieces of work\.$/,
    );
    expect(body.remedy).toContain('CORK_ELBOW_SECONDS');
    const next = await server.send('POST', '/api/compute/forward', { rigId: 'tile-dipper' });
    expect(next.status).toBe(200);
  });
  it('is ended also inside of one piece of work that never asks', async () => {
    const { status, body } = await server.send('POST', '/api/compute/forward', {
      rigId: 'tile-dipper',
      joints: Object.fromEntries(Array.from({ length: 400_000 }, (_, k) => [`joint-${k}`, 0])),
    });
    // Refused by what it asks or by its time: never waited for without end.
    expect([400, 422]).toContain(status);
    expect(body.message).toMatch(/\.$/);
    expect((await server.send('POST', '/api/compute/forward', { rigId: 'tile-dipper' })).status).toBe(200);
  });
  it('gives of many answers those that are made, and says where it stopped', async () => {
    const { body: whole } = await server.send('POST', '/api/compute/inverse', {
      rigId: 'kiln-shelf-loader',
      best: true,
      batch: Array.from({ length: 20_000 }, (_, k) => ({ target: { positionMm: [300 + (k % 50), 100, 400] } })),
    });
    expect(whole.stopped).toMatchObject({ code: 'work-cut' });
    expect(whole.stopped.message).toContain(`after ${whole.answers.length} of 20000`);
    expect(whole.answers.length).toBeGreaterThan(10);
    expect(whole.answers.every((answer: unknown) => answer !== null)).toBe(true);
  });
  it('is turned away where too much waits, with the time to ask again', async () => {
    const asked = heavy();
    const answers = await Promise.all(
      Array.from({ length: 6 }, async () => {
        const response = await fetch(`${server.url}/api/compute/plan`, {
          method: 'POST',
          headers: { 'content-type': 'application/json' },
          body: JSON.stringify(asked),
        });
        return {
          status: response.status,
          again: response.headers.get('retry-after'),
          body: (await response.json()) as { code: string },
        };
      }),
    );
    const statuses = answers.map(({ status }) => status).sort();
    // One is computed and two wait; the others are told at once.
    expect(statuses).toEqual([422, 422, 422, 503, 503, 503]);
    for (const { status, again, body } of answers)
      if (status === 503) expect([again, body.code]).toEqual(['2', 'server-busy']);
  });
  it('ends with whoever asked: what nobody waits for makes room', async () => {
    const quick = (): Promise<{ status: number }> =>
      server.send('POST', '/api/compute/forward', { rigId: 'tile-dipper' });
    for (let k = 0; k < 6; k++) {
      const gone = new AbortController();
      const left = fetch(`${server.url}/api/compute/plan`, {
        method: 'POST',
        signal: gone.signal,
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify(heavy()),
      }).catch((error: Error) => error.name);
      await server.get('/api/health');
      gone.abort();
      expect(await left).toBe('AbortError');
    }
    expect((await quick()).status).toBe(200);
  });
  it('holds up no save: what is opened and saved has a thread of its own', async () => {
    const done: string[] = [];
    const busy = Array.from({ length: 3 }, () =>
      server.send('POST', '/api/compute/plan', heavy()).then((answer) => {
        done.push('plan');
        return answer;
      }),
    );
    const { body } = await server.get('/api/rigs/tile-dipper');
    const saved = await server.send('PUT', '/api/rigs/tile-dipper', { revision: body.revision, rig: body.rig });
    done.push('save');
    expect(saved.status).toBe(200);
    expect((await Promise.all(busy)).map(({ status }) => status)).toEqual([422, 422, 422]);
    // Two plans after it at least: those that waited for the one thread.
    expect(done.indexOf('save')).toBeLessThan(2);
  });
});

describe('saves that come without end', () => {
  it('are turned away beyond what a minute takes, with the time to try again; nothing else is', async () => {
    const few = await start({ bounds: { writesPerMinute: 5 } });
    const { body } = await few.get('/api/rigs/tile-dipper');
    const statuses: number[] = [];
    for (let k = 0; k < 7; k++) {
      const saved = await few.send('PUT', '/api/rigs/tile-dipper', { revision: k + 1, rig: body.rig });
      statuses.push(saved.status);
      if (saved.status !== 200) expect(saved.body.message).toMatch(/^More than 5 saves .* Try again in \d+ s\.$/);
    }
    expect(statuses).toEqual([200, 200, 200, 200, 200, 429, 429]);
    expect((await few.get('/api/rigs/tile-dipper')).body.revision).toBe(6);
    expect((await few.send('POST', '/api/compute/forward', { rigId: 'tile-dipper' })).status).toBe(200);
    await few.close();
  });
});

describe('bodies that are no good', () => {
  it.each([
    ['nothing', '', 'body-missing|bad-json'],
    ['half', '{"rigId": "tile', 'bad-json'],
    ['a list', '[]', 'body-missing|shape'],
    ['null', 'null', 'body-missing'],
    ['a prototype', '{"rigId":"tile-dipper","__proto__":{"x":1}}', 'bad-json'],
    ['a text', '"tile-dipper"', 'body-missing'],
  ])('%s is refused in one sentence', async (_name, text, codes) => {
    const { status, body } = await server.send('POST', '/api/compute/forward', text);
    expect(status).toBe(400);
    expect(body.code).toMatch(new RegExp(`^(${codes})$`));
    expect(body.message).toMatch(/\.$/);
  });
  it('a call that asks for nothing has no body', async () => {
    const { status, body } = await server.send('POST', '/api/compute/forward', undefined);
    expect([status, body.code]).toEqual([400, 'body-missing']);
  });
});

describe('a body that is too large', () => {
  it.each([
    ['with its length told before', `content-length: ${3 * 1_000_000}`, (piece: string) => piece],
    ['in pieces', 'transfer-encoding: chunked', (piece: string) => `${piece.length.toString(16)}\r\n${piece}\r\n`],
  ])('%s is answered while it is still written, and the line goes on', async (_, head, written) => {
    const { hostname, port } = new URL(server.url);
    const line = connect(Number(port), hostname);
    let heard = '';
    line.setEncoding('utf8').on('data', (text: string) => (heard += text));
    const ended = new Promise<void>((done, fail) => line.once('close', () => done()).once('error', fail));
    const piece = 'x'.repeat(1_000_000);
    line.write(`POST /api/presets/servo-arm-4 HTTP/1.1\r\nhost: ${hostname}:${port}\r\n`);
    line.write(`content-type: application/json\r\n${head}\r\n\r\n`);
    line.write(written(piece));
    await expect.poll(() => heard, { timeout: 60_000 }).toMatch(/^HTTP\/1.1 413 [^]*The body is larger than/);
    // Whoever is cut off while it writes does not hear why.
    for (let k = 0; k < 2; k++) line.write(written(piece));
    if (head.startsWith('transfer')) line.write('0\r\n\r\n');
    line.end(`GET /api/health HTTP/1.1\r\nhost: ${hostname}:${port}\r\n\r\n`);
    await ended;
    expect(heard).toMatch(/HTTP\/1.1 200 [^]*"ok":true/);
  });
});
