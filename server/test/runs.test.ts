/** Runs and their recordings over HTTP: taken down by the real server, listed, named, given out, kept and let go. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { recordingAnswer, runList, type RecordingAnswer, type RunEntry } from '@cork-elbow/core/contract';
import { rowLength, rowsOfBytes, Track, gapsOf } from '@cork-elbow/core/recording';
import { openStore } from '../src/db/open';
import { dropRecordings } from '../src/db/runs';
import { pieces, runs } from '../src/db/schema';
import { start, status, type Page, type Running } from './harness';

let server: Running;
let page: Page;
beforeAll(async () => {
  server = await start();
  page = await server.live();
  page.say({ type: 'connect', rigId: 'tile-dipper', buildId: 'b1', timeScale: 20 });
  await page.until(status((s) => s.link === 'connected'));
  page.say({ type: 'arm' });
  await page.until(status((s) => s.armed && s.mode === 'normal'));
});
afterAll(async () => {
  page.close();
  await server.close();
});
const dip = { type: 'run' as const, rigId: 'tile-dipper', revision: 1, buildId: 'b1', routineId: 'dip' };
const path = '/api/rigs/tile-dipper/runs';
const list = async (query = ''): Promise<RunEntry[]> =>
  runList.parse((await server.get(`${path}${query}`)).body).runs;
const recording = async (id: string): Promise<RecordingAnswer> =>
  recordingAnswer.parse((await server.get(`${path}/${id}`)).body);
async function ran(stopAfterS?: number): Promise<RunEntry> {
  page.say({ type: 'clear' });
  page.say(dip);
  const begun = await page.until(status((s) => s.run === 'running'));
  if (stopAfterS !== undefined) {
    await page.until(status((s) => s.runS > stopAfterS));
    page.say({ type: 'stop' });
  }
  await page.until(status((s) => ['finished', 'stopped'].includes(s.run)));
  // What is told comes a moment before it is written.
  for (;;) {
    const found = (await list()).find(({ id }) => id === begun.status.runId);
    if (found?.outcome) return found;
  }
}

describe('a recorded run', () => {
  it('is had again: head, events, rows, and the same rows as CSV and JSON', async () => {
    const run = await ran();
    expect(run).toMatchObject({ isRecorded: true, outcome: 'finished', name: '' });
    const { head, rows, events } = await recording(run.id);
    expect(head).toMatchObject({ program: 'test', sampleMs: 20, boards: [{ id: 'pwm' }] });
    const bytes = new Uint8Array(await (await fetch(`${server.url}${path}/${run.id}/rows`)).arrayBuffer());
    expect(bytes.length).toBe(rows * rowLength(head) * 4);
    const track = new Track(head, rowsOfBytes(bytes));
    expect(track.ownS(track.length - 1)).toBeCloseTo(run.durationMs! / 1000, 2);
    for (const { joint, worst } of gapsOf(track)) expect(run.worstError![joint]).toBeCloseTo(worst, 6);
    expect(events.filter(({ kind }) => kind === 'step').length).toBeGreaterThan(5);
    expect(events.map(({ atS }) => atS)).toEqual(events.map(({ atS }) => atS).sort((a, b) => a - b));
    const csv = await fetch(`${server.url}${path}/${run.id}/csv`);
    expect(csv.headers.get('content-disposition')).toMatch(/filename="dip-one-tile-run-.*\.csv"/);
    const lines = (await csv.text()).trimEnd().split('\r\n');
    expect(lines).toHaveLength(rows + 1);
    expect(Number(lines[100].split(',')[3])).toBe(track.value(99, 0, 'commanded'));
    const json = (await server.get(`${path}/${run.id}/json`)).body as { rows: number[][]; run: RunEntry };
    expect(json.rows).toHaveLength(rows);
    expect(json.run.id).toBe(run.id);
  });

  it('is found by how it ended, its routine, a name and what stands in it; signs of a pattern stand for themselves', async () => {
    const stopped = await ran(2);
    const { body } = await server.send('PUT', `${path}/${stopped.id}`, { name: ' 100 % slip, new belt ' });
    expect(body).toMatchObject({ name: '100 % slip, new belt', outcome: 'stopped' });
    const ids = async (query: string): Promise<string[]> => (await list(query)).map(({ id }) => id);
    expect(await ids('?named=true')).toEqual([stopped.id]);
    expect(await ids('?outcome=stopped')).toEqual([stopped.id]);
    expect(await ids(`?text=${encodeURIComponent('% SLIP')}`)).toEqual([stopped.id]);
    expect(await ids(`?text=${encodeURIComponent('1%new')}`)).toEqual([]);
    expect(await ids('?text=_')).toEqual([]);
    expect(await ids('?text=dip')).toHaveLength(2);
    expect(await ids('?routine=fold')).toEqual([]);
    expect((await ids('?routine=dip&outcome=finished&from=0&count=1')).length).toBe(1);
    for (const query of ['?outcome=exploded', '?named=perhaps', '?count=0', '?color=red'])
      expect((await server.get(path + query)).status).toBe(400);
  });

  it('that is not there, or goes on, is said in a sentence', async () => {
    for (const what of ['', '/rows', '/csv', '/json']) {
      const { status: code, body } = await server.get(`${path}/nobody${what}`);
      expect([code, body.code]).toEqual([404, 'not-found']);
    }
    // Of another rig.
    const [first] = await list();
    expect((await server.get(`/api/rigs/heron-greeter/runs/${first.id}`)).status).toBe(404);
    expect((await server.send('PUT', `${path}/${first.id}`, { name: 'x'.repeat(81) })).status).toBe(400);
    page.say({ type: 'clear' });
    page.say(dip);
    const begun = await page.until(status((s) => s.run === 'running'));
    const refusal = await server.send('DELETE', `${path}/${begun.status.runId}`, undefined);
    expect([refusal.status, refusal.body.code]).toEqual([409, 'run-goes-on']);
    page.say({ type: 'stop' });
    await page.until(status((s) => s.run === 'stopped'));
    expect((await server.send('DELETE', `${path}/${begun.status.runId}`, undefined)).status).toBe(204);
    expect((await list()).some(({ id }) => id === begun.status.runId)).toBe(false);
  });

  it('is kept for as long as was chosen: the choice is read again, and what it may be is said', async () => {
    expect((await server.get('/api/settings/recordings')).body).toEqual({ days: 30 });
    for (const days of [7, null]) {
      expect((await server.send('PUT', '/api/settings/recordings', { days })).body).toEqual({ days });
      expect((await server.get('/api/settings/recordings')).body).toEqual({ days });
    }
    for (const days of [0, 1.5, 'long']) {
      const { status: code, body } = await server.send('PUT', '/api/settings/recordings', { days });
      expect(code).toBe(400);
      expect(body.message).toMatch(/days/);
    }
  });
});

it('what a server that ends leaves of a run is there again, cut off; old ones go unless they have a name; a rig takes all of it along', async () => {
  const first = await start();
  const one = await first.live();
  one.say({ type: 'connect', rigId: 'tile-dipper', buildId: 'b1', timeScale: 20 });
  await one.until(status((s) => s.link === 'connected'));
  one.say({ type: 'arm' });
  await one.until(status((s) => s.armed && s.mode === 'normal'));
  one.say(dip);
  await one.until(status((s) => s.run === 'running' && s.runS > 4));
  one.close();
  await first.close(true);
  const second = await start({ folder: first.folder });
  const [run] = runList.parse((await second.get(path)).body).runs;
  expect(run).toMatchObject({ outcome: 'cut-off', isRecorded: true });
  expect((await second.get(`${path}/${run.id}`)).body.rows).toBeGreaterThan(100);
  await second.close(true);

  const store = await openStore(first.folder, new URL('../drizzle', import.meta.url).pathname);
  const [row] = await store.db.select().from(runs);
  const copy = { ...row, startedAt: '2020-01-01T00:00:00.000Z' };
  await store.db.insert(runs).values([
    { ...copy, id: 'old' },
    { ...copy, id: 'named', name: 'mine' },
  ]);
  for (const id of ['old', 'named'])
    await store.db.insert(pieces).values({ runId: id, no: 0, count: 0, rows: Buffer.alloc(0), events: [] });
  await dropRecordings(store, new Date('2021-01-01'));
  const left = await store.db.select({ id: runs.id, head: runs.head }).from(runs);
  expect(
    left
      .filter(({ head }) => head)
      .map(({ id }) => id)
      .sort(),
  ).toEqual([run.id, 'named'].sort());
  expect(left).toHaveLength(3);
  const withPieces = new Set((await store.db.select({ id: pieces.runId }).from(pieces)).map(({ id }) => id));
  expect([...withPieces].sort()).toEqual([run.id, 'named'].sort());
  await store.close();

  const third = await start({ folder: first.folder });
  expect((await third.send('DELETE', '/api/rigs/tile-dipper', undefined)).status).toBe(204);
  await third.close(true);
  const last = await openStore(first.folder, new URL('../drizzle', import.meta.url).pathname);
  expect(await last.db.select().from(pieces)).toEqual([]);
  expect(await last.db.select().from(runs)).toEqual([]);
  await last.close();
});
