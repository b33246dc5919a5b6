import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { rigAnswer } from '@cork-elbow/core/contract';
import { demoRigs } from '@cork-elbow/demo';
import { fuzz, type Target } from '../soak/fuzzer';
import { start, type Running } from './harness';
import { answers, written } from './targets';

let server: Running;
beforeAll(async () => {
  server = await start({ bounds: { seconds: 0.25, threads: 2, queue: 8, writesPerMinute: 1e6 } });
});
afterAll(() => server.close());

/** Every call that takes a body, as the docs have it; computing also with whole documents. */
const targets: Target[] = [
  ...written.flatMap(([method, path, body]) =>
    body === undefined ? [] : [{ method, path, body, schema: answers[`${method} ${path}`] }],
  ),
  ...demoRigs().flatMap(({ id, rig }) => [
    { method: 'POST', path: '/api/rigs', body: { id: `${id}-x`, rig }, schema: rigAnswer },
    { method: 'PUT', path: `/api/rigs/${id}`, body: { revision: 1, rig } },
    ...(rig.routines[0]
      ? [{ method: 'POST', path: '/api/compute/plan', body: { rig, routineId: rig.routines[0].id, sampleMs: 50 } }]
      : []),
    { method: 'POST', path: '/api/compute/findings', body: { rig } },
    { method: 'POST', path: '/api/compute/forward', body: { mechanism: rig.mechanism } },
  ]),
];

describe('bodies that nobody would send', () => {
  it('are answered in time with a sentence or with what the call says it answers, and the server serves on', async () => {
    const { statuses, wrong } = await fuzz(server.url, targets, 800, 20261, 30_000);
    expect(wrong).toEqual([]);
    // Some get through, most are refused: both sides are tried.
    expect(statuses[400]).toBeGreaterThan(80);
    expect(statuses[200]).toBeGreaterThan(20);
    expect((await server.get('/api/health')).status).toBe(200);
    expect((await server.get('/api/rigs')).status).toBe(200);
  }, 900_000);
});
