import { beforeAll, describe, expect, it } from 'vitest';
import { catalogue } from '@cork-elbow/core/actuators';
import { kilnLoader, tileDipper } from '@cork-elbow/demo';
import { compute } from './compute';
import { jobKinds, type JobName, type RequestOf } from './jobs';

const rig = tileDipper();
const tool = rig.mechanism.tools[0].id;
const tried = { routineId: rig.routines[0].id, inputs: {} };
const near = Float64Array.of(0, 0.4, 0.9, 0.6, 0.6);
const task = { kind: 'free' as const, position: [0.15, 0.02, 0.1] as const };
const map = { plane: 'side', height: 0.1, direction: [0, 0, -1], samples: 60_000, seed: 1, cell: 0.004 } as const;
const requests: { readonly [K in JobName]: RequestOf<K> } = {
  plan: tried,
  contact: tried,
  along: tried,
  exactness: { toolId: tool, holding: null },
  figures: { airC: 25, other: { rig: kilnLoader(), buildId: 'b1' } },
  worst: { holding: { toolId: tool, payload: rig.payloads[0] }, samples: 3000 },
  trial: { holding: null, samples: 3000, swaps: [{ drive: rig.drives[0].id, reduction: 2 }] },
  lightest: { holding: null, wanted: 0.7, entries: catalogue },
  schools: tried,
  inverse: { asks: [{ toolId: tool, task }], near, held: new Set() },
  fixes: { toolId: tool, task: { kind: 'free', position: [0.9, 0, 0.2] }, near },
  map: { toolId: tool, request: map, pinned: null },
  points: {
    toolId: tool,
    points: [{ name: 'p', position: [0.15, 0, 0.1], direction: null }],
    start: near,
    speed: 0.1,
  },
  spots: { toolId: tool, tasks: [task] },
  sweep: { kind: 'power-up', planned: true },
  lengths: { toolId: tool, spots: [], ranges: [{ of: 'tool', id: tool, min: 20, max: 90 }], margin: 0, seed: 1 },
};
const names = Object.keys(jobKinds) as JobName[];
let number = 0;
const run = <K extends JobName>(
  name: K,
  onProgress: (share: number, label: string) => void = () => undefined,
  document = 1,
) => compute.run(name, ++number, document, requests[name], onProgress);

describe('what the worker works out', () => {
  beforeAll(() => compute.open(1, JSON.stringify(rig), 'b1'));
  it.each(names)('%s is answered', async (name) => {
    expect(await run(name)).not.toBeNull();
  });
  it.each(names)('%s is never begun where it is called off in time', async (name) => {
    const answer = run(name);
    compute.cancel(number);
    expect(await answer).toBeNull();
  });
  it('gives lengths with the ranges that they were asked for, so that no answer is read by another question', async () => {
    const answer = await run('lengths');
    expect(answer!.ranges).toEqual(requests.lengths.ranges);
    expect(answer!.advice.values).toHaveLength(requests.lengths.ranges.length);
  });
  it('says nothing of what is not there: a document, a routine, a tool', async () => {
    expect(await run('plan', undefined, 77)).toBeNull();
    const gone = { routineId: 'gone', inputs: {} };
    for (const name of ['plan', 'contact', 'schools', 'along'] as const)
      expect(await compute.run(name, ++number, 1, gone, () => undefined)).toBeNull();
    for (const name of ['map', 'points', 'spots', 'exactness'] as const) {
      const asked = { ...requests[name], toolId: 'gone' } as never;
      expect(await compute.run(name, ++number, 1, asked, () => undefined)).toBeNull();
    }
    const holding = { toolId: 'gone', payload: rig.payloads[0] };
    expect(await compute.run('worst', ++number, 1, { holding, samples: 10 }, () => undefined)).toBeNull();
    const other = { asks: [...requests.inverse.asks, { toolId: 'gone', task }], near, held: new Set<number>() };
    expect(await compute.run('inverse', ++number, 1, other, () => undefined)).toBeNull();
  });
  it('keeps the last few documents open, each for itself', async () => {
    const loader = kilnLoader();
    const own = { routineId: loader.routines[0].id, inputs: {} };
    for (let document = 10; document < 14; document++)
      compute.open(document, JSON.stringify(document % 2 ? loader : rig), 'b1');
    const planned = (document: number, asked: typeof own) =>
      compute.run('plan', ++number, document, asked, () => undefined);
    expect((await planned(13, own))?.routineId).toBe(own.routineId);
    expect((await planned(12, tried))?.routineId).toBe(tried.routineId);
    expect(await planned(12, { ...own, routineId: 'none of its own' })).toBeNull();
    expect(await planned(1, tried)).toBeNull();
    compute.open(1, JSON.stringify(rig), 'b1');
  });
  it('stops where it is cancelled in the middle', async () => {
    const shares: number[] = [];
    const answer = run('map', (share, label) => {
      expect(label).toBe('Mapping the reach');
      shares.push(share);
      compute.cancel(number);
    });
    expect(await answer).toBeNull();
    // It had only begun.
    expect(Math.max(...shares)).toBeLessThan(0.9);
  });
  it('goes on where another one is cancelled, and tells how far it is', async () => {
    const shares: number[] = [];
    compute.cancel(99_999);
    expect(await run('map', (share) => void shares.push(share))).not.toBeNull();
    expect(shares.length).toBeGreaterThan(0);
    shares.forEach((share, k) => {
      expect(share).toBeGreaterThanOrEqual(shares[k - 1] ?? 0);
      expect(share).toBeLessThanOrEqual(1);
    });
  });
});
