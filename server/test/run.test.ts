import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { CALM, refused, start, status, type Page, type Running } from './harness';

let server: Running;
let page: Page;
beforeAll(async () => {
  server = await start();
  page = await server.live();
});
afterAll(async () => {
  page.close();
  await server.close();
});

const run = { type: 'run' as const, rigId: 'tile-dipper', revision: 1, buildId: 'b1', routineId: 'dip' };

describe('a run over the WebSocket', () => {
  it('moves nothing without a board, and nothing unarmed', async () => {
    page.say({ type: 'arm' });
    expect((await page.until(refused)).code).toBe('board-absent');
    page.say({ type: 'connect', rigId: 'tile-dipper', buildId: 'b1', timeScale: 20 });
    await page.until(status((s) => s.link === 'connected'));
    page.say(run);
    expect((await page.until(refused)).code).toBe('board-unarmed');
  });

  it('refuses an old revision and words it does not know', async () => {
    page.say({ ...run, revision: 7 });
    expect((await page.until(refused)).code).toBe('revision-conflict');
    page.raw('{"type":"explode"}');
    expect((await page.until(refused)).message).toMatch(/\.$/);
    page.raw('not json');
    expect((await page.until(refused)).code).toBe('bad-json');
  });

  it('runs the dipping routine to its end and logs it', async () => {
    page.say({ type: 'arm' });
    await page.until(status((s) => s.armed && s.mode === 'normal'));
    page.say(run);
    await page.until(status((s) => s.run === 'running'));
    await page.until((m) => m.type === 'telemetry' && m.runS > 10 && Object.keys(m.measured).length === 5);
    const done = await page.until(status((s) => s.run === 'finished' || s.run === 'failed'));
    expect(done.status).toMatchObject({ run: 'finished', notice: expect.stringMatching(CALM) });
    const telemetry = page.heard.filter((m) => m.type === 'telemetry');
    const worst = Math.max(
      ...telemetry.flatMap((m) => Object.keys(m.measured).map((id) => Math.abs(m.measured[id] - m.commanded[id]))),
    );
    expect(worst).toBeGreaterThan(0.2); // a real motor lags …
    expect(worst).toBeLessThan(30); // … but follows
    // Its end is written once it has been said.
    await vi.waitFor(async () => {
      const { body } = await server.get('/api/rigs/tile-dipper/runs');
      expect(body.runs[0]).toMatchObject({ routineName: 'Dip one tile', outcome: 'finished', revision: 1 });
    }, 20_000);
  });

  it('pauses, goes on, and stops before the end', async () => {
    page.say(run);
    await page.until(status((s) => s.run === 'running' && s.runS > 1));
    page.say({ type: 'pause' });
    const paused = await page.until(status((s) => s.run === 'paused'));
    page.say({ type: 'resume' });
    await page.until(status((s) => s.run === 'running' && s.runS > paused.status.runS + 1));
    page.say({ type: 'stop' });
    const stopped = await page.until(status((s) => s.run === 'stopped'));
    expect(stopped.status.runS).toBeLessThan(stopped.status.totalS);
  });

  it('begins nothing after a stop before that is cleared; halts at once, and then wants to be armed again', async () => {
    page.say(run);
    expect((await page.until(refused)).code).toBe('stop-latched');
    page.say({ type: 'clear' });
    page.say(run);
    await page.until(status((s) => s.run === 'running'));
    page.say({ type: 'halt' });
    await page.until(status((s) => s.run === 'stopped'));
    await page.until(status((s) => !s.armed));
    page.say(run);
    expect((await page.until(refused)).code).toBe('board-unarmed');
    page.say({ type: 'connect', rigId: 'tile-dipper', buildId: 'b1', timeScale: 20 });
    await page.until(status((s) => s.link === 'connected' && s.run === 'idle'));
  });
});

it('finds rigs again after a restart', async () => {
  const first = await start();
  const { body } = await first.send('POST', '/api/rigs', {
    rig: { ...(await first.get('/api/rigs/tile-dipper')).body.rig, name: 'Second dipper' },
  });
  await first.close(true);
  const second = await start({ folder: first.folder });
  expect((await second.get(`/api/rigs/${body.id}`)).body.rig.name).toBe('Second dipper');
  await second.close();
});
