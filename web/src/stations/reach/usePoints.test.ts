import { afterEach, describe, expect, it } from 'vitest';
import { tileDipper } from '../../../../demo';
import type { TablePoint } from '@cork-elbow/core/reach';
import { inComponent, opened } from '../../opened.testkit';
import { useJobsStore } from '../../stores/jobs';
import { usePoints } from './usePoints';
import { createReach } from './useReach';

let leave: () => void = () => undefined;
afterEach(() => leave());

let count = 0;
async function table() {
  await opened(tileDipper(), `table-${count++}`);
  const reach = inComponent(createReach);
  const points = inComponent(usePoints, reach.provides);
  leave = () => {
    points.leave();
    reach.leave();
  };
  return { points: points.made, jobs: useJobsStore() };
}
const at = (...places: [number, number, number][]): TablePoint[] =>
  places.map(([x, y, z], k) => ({ name: `p${k}`, position: [x, y, z], direction: [0, 0, -1] }));

describe('a table of points', () => {
  it('is counted by what a person asks first: reached, touching, out of reach', async () => {
    const { points } = await table();
    // In the open, in the jar's wall, far away.
    await points.run(at([0.18, 0, 0.12], [0.222, 0, 0.03], [0.9, 0, 0.1]), 0.05);
    expect(points.summary.value).toMatchObject({ all: 3, reached: 2, touching: 1 });
    expect(points.isRunning.value).toBe(false);
    const [free, touching, far] = points.results.value!;
    expect([free.touch, free.reason]).toEqual([null, null]);
    expect(touching.reason?.code).toBe('in-the-way');
    expect(far.solution).toBeNull();
  });
  it('draws its way through the points that are reached alone', async () => {
    const { points } = await table();
    await points.run(at([0.18, 0, 0.12], [0.9, 0, 0.1], [0.2, 0.02, 0.12]), 0.05);
    expect([...points.trace.value!].map((v) => Math.round(v * 1000))).toEqual([180, 0, 120, 200, 20, 120]);
    await points.run(at([0.9, 0, 0.1]), 0.05);
    expect(points.trace.value).toBeNull();
  });
  it('a faster tool asks more of the joints, in proportion', async () => {
    const { points } = await table();
    const line = at([0.16, 0, 0.12], [0.18, 0, 0.12], [0.2, 0, 0.12]);
    await points.run(line, 0.05);
    const slow = points.summary.value.worst;
    await points.run(line, 0.2);
    expect(points.summary.value.worst / slow).toBeCloseTo(4, 6);
    expect(slow).toBeGreaterThan(0);
  });
  it('asked again at once gives the later answer', async () => {
    const { points } = await table();
    const first = points.run(at([0.18, 0, 0.12]), 0.05);
    const second = points.run(at([0.9, 0, 0.1], [0.91, 0, 0.1]), 0.05);
    await Promise.all([first, second]);
    expect(points.summary.value).toMatchObject({ all: 2, reached: 0 });
    expect(points.isRunning.value).toBe(false);
  });
  it('can be stopped, and keeps what was there before', async () => {
    const { points, jobs } = await table();
    await points.run(at([0.18, 0, 0.12]), 0.05);
    const many = at(...Array.from({ length: 400 }, (_, k): [number, number, number] => [0.15 + k * 1e-4, 0, 0.1]));
    const going = points.run(many, 0.05);
    expect(points.isRunning.value).toBe(true);
    jobs.cancel('points');
    await going;
    expect(points.isRunning.value).toBe(false);
    expect(points.summary.value.all).toBe(1);
  });
});
