import { createPinia, setActivePinia } from 'pinia';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { tileDipper } from '@cork-elbow/demo';
import type { Rig } from '@cork-elbow/core/rig';
import { reactive } from 'vue';
import { useJobsStore } from './jobs';

/** A computation in the worker that ends when it is told to. */
interface Pending {
  readonly name: string;
  readonly id: number;
  readonly document: number;
  readonly request: unknown;
  progress(share: number, label: string): void;
  end(value: unknown): void;
  fail(error: Error): void;
}
const told: number[] = [];
const asked: Pending[] = [];
const opened: { number: number; rig: Rig; buildId: string }[] = [];
vi.mock('comlink', async (original) => ({
  ...(await original<object>()),
  wrap: () => ({
    cancel: (id: number) => void told.push(id),
    open: (number: number, text: string, buildId: string) =>
      void opened.push({ number, rig: JSON.parse(text) as Rig, buildId }),
    run: (name: string, id: number, document: number, request: unknown, progress: Pending['progress']) =>
      new Promise((end, fail) => asked.push({ name, id, document, request, progress, end, fail })),
  }),
  proxy: <T>(value: T): T => value,
}));

const rig = tileDipper();
const of = { rig, build: rig.builds[0] };
const tried = { routineId: 'dip', inputs: {} };
const mapping = (jobs: ReturnType<typeof useJobsStore>) => jobs.ask('sweep', of, { kind: 'power-up', planned: true });
const planning = (jobs: ReturnType<typeof useJobsStore>) => jobs.ask('plan', of, tried);

describe('computations of the page', () => {
  beforeEach(() => {
    setActivePinia(createPinia());
    told.length = asked.length = opened.length = 0;
  });
  it('show their progress while they run, and nothing after', async () => {
    const jobs = useJobsStore();
    const answer = mapping(jobs);
    const [job] = asked;
    expect(job).toMatchObject({ name: 'sweep', request: { kind: 'power-up', planned: true } });
    expect(jobs.isBusy('sweep')).toBe(true);
    expect(jobs.running.size).toBe(0);
    job.progress(0.4, 'Looking');
    expect(jobs.running.get('sweep')).toMatchObject({ label: 'Looking', progress: 0.4 });
    job.end('done');
    expect(await answer).toBe('done');
    expect(jobs.isBusy('sweep')).toBe(false);
    expect(jobs.running.size).toBe(0);
    job.progress(0.9, 'Looking');
    expect(jobs.running.size).toBe(0);
  });
  it('are cancelled in the worker when a later one takes their place, and their late answer is dropped', async () => {
    const jobs = useJobsStore();
    const [first, second] = [planning(jobs), planning(jobs)];
    const [old, fresh] = asked;
    expect(told).toEqual([old.id]);
    fresh.end('new');
    expect(await second).toBe('new');
    old.progress(0.5, '');
    expect(jobs.running.size).toBe(0);
    old.end('old');
    expect(await first).toBeNull();
  });
  it('drop a late answer that comes before the newer one, and leave that one running', async () => {
    const jobs = useJobsStore();
    const [first, second] = [planning(jobs), planning(jobs)];
    const [old, fresh] = asked;
    fresh.progress(0.2, '');
    old.end('old');
    expect(await first).toBeNull();
    expect(jobs.isBusy('plan')).toBe(true);
    expect(jobs.running.get('plan')?.progress).toBe(0.2);
    fresh.end('new');
    expect(await second).toBe('new');
  });
  it('are cancelled by a person, once, and answer nothing then', async () => {
    const jobs = useJobsStore();
    const answer = mapping(jobs);
    const [job] = asked;
    job.progress(0.1, '');
    jobs.running.get('sweep')!.cancel();
    expect(told).toEqual([job.id]);
    expect(jobs.isBusy('sweep')).toBe(false);
    expect(jobs.running.size).toBe(0);
    jobs.cancel('sweep');
    jobs.cancel('plan');
    expect(told).toEqual([job.id]);
    job.end('too late');
    expect(await answer).toBeNull();
  });
  it('of other kinds go on beside each other', async () => {
    const jobs = useJobsStore();
    const answers = [mapping(jobs), planning(jobs)];
    const [a, b] = asked;
    expect(told).toEqual([]);
    expect(a.id).not.toBe(b.id);
    b.end('plan');
    a.end('map');
    expect(await Promise.all(answers)).toEqual(['map', 'plan']);
  });
  it('that fail are over, and say so to who asked', async () => {
    const jobs = useJobsStore();
    const answer = mapping(jobs);
    const [job] = asked;
    job.progress(0.3, '');
    job.fail(new Error('no'));
    await expect(answer).rejects.toThrow('no');
    expect(jobs.isBusy('sweep')).toBe(false);
    expect(jobs.running.size).toBe(0);
  });
  it('can be asked of a document that holds something the page watches', () => {
    const jobs = useJobsStore();
    const watched = { ...rig, spots: reactive(structuredClone(rig.spots)) as Rig['spots'] };
    expect(() => structuredClone(watched)).toThrow();
    void jobs.ask('plan', { rig: watched, build: { id: 'b1' } }, tried);
    expect(structuredClone(opened[0].rig)).toEqual(rig);
  });
  it('give the worker a document once, and again only when it or the build is another one', () => {
    const jobs = useJobsStore();
    // Whatever was open before.
    const own = { rig: { ...rig }, build: { id: 'b1' } };
    void jobs.ask('plan', own, tried);
    void jobs.ask('contact', own, tried);
    void jobs.ask('plan', own, tried);
    expect(opened).toHaveLength(1);
    expect(opened[0].rig).toEqual(own.rig);
    expect(new Set(asked.map((a) => a.document))).toEqual(new Set([opened[0].number]));
    void jobs.ask('plan', { ...own, build: { id: 'b2' } }, tried);
    void jobs.ask('plan', { rig: { ...rig }, build: { id: 'b2' } }, tried);
    expect(opened.map((o) => o.buildId)).toEqual(['b1', 'b2', 'b2']);
    expect(new Set(opened.map((o) => o.number)).size).toBe(3);
    expect(asked.at(-1)!.document).toBe(opened.at(-1)!.number);
  });
});
