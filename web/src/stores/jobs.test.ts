import { createPinia, setActivePinia } from 'pinia';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import { useJobsStore } from './jobs';

const told: number[] = [];
vi.mock('comlink', async (original) => ({
  ...(await original<object>()),
  wrap: () => ({ cancel: (id: number) => void told.push(id) }),
  proxy: <T>(value: T): T => value,
}));

/** A computation that ends when it is told to. */
function pending<T>() {
  let end!: (value: T | null) => void;
  let fail!: (error: Error) => void;
  let id = -1;
  let progress!: (share: number) => void;
  const answer = new Promise<T | null>((done, bad) => ((end = done), (fail = bad)));
  return {
    start: (_worker: unknown, number: number, onProgress: (share: number) => void) => {
      id = number;
      progress = onProgress;
      return answer;
    },
    end,
    fail,
    get id() {
      return id;
    },
    progress: (share: number) => progress(share),
  };
}

describe('computations of the page', () => {
  beforeEach(() => {
    setActivePinia(createPinia());
    told.length = 0;
  });
  it('show their progress while they run, and nothing after', async () => {
    const jobs = useJobsStore();
    const job = pending<string>();
    const answer = jobs.run('map', 'Mapping', job.start);
    expect(jobs.isBusy('map')).toBe(true);
    expect(jobs.running.size).toBe(0);
    job.progress(0.4);
    expect(jobs.running.get('map')).toMatchObject({ label: 'Mapping', progress: 0.4 });
    job.end('done');
    expect(await answer).toBe('done');
    expect(jobs.isBusy('map')).toBe(false);
    expect(jobs.running.size).toBe(0);
    job.progress(0.9);
    expect(jobs.running.size).toBe(0);
  });
  it('are cancelled in the worker when a later one takes their place, and their late answer is dropped', async () => {
    const jobs = useJobsStore();
    const [old, fresh] = [pending<string>(), pending<string>()];
    const first = jobs.run('plan', 'Planning', old.start);
    const second = jobs.run('plan', 'Planning', fresh.start);
    expect(told).toEqual([old.id]);
    fresh.end('new');
    expect(await second).toBe('new');
    old.progress(0.5);
    expect(jobs.running.size).toBe(0);
    old.end('old');
    expect(await first).toBeNull();
  });
  it('drop a late answer that comes before the newer one, and leave that one running', async () => {
    const jobs = useJobsStore();
    const [old, fresh] = [pending<string>(), pending<string>()];
    const first = jobs.run('plan', 'Planning', old.start);
    const second = jobs.run('plan', 'Planning', fresh.start);
    fresh.progress(0.2);
    old.end('old');
    expect(await first).toBeNull();
    expect(jobs.isBusy('plan')).toBe(true);
    expect(jobs.running.get('plan')?.progress).toBe(0.2);
    fresh.end('new');
    expect(await second).toBe('new');
  });
  it('are cancelled by a person, once, and answer nothing then', async () => {
    const jobs = useJobsStore();
    const job = pending<string>();
    const answer = jobs.run('map', 'Mapping', job.start);
    job.progress(0.1);
    jobs.running.get('map')!.cancel();
    expect(told).toEqual([job.id]);
    expect(jobs.isBusy('map')).toBe(false);
    expect(jobs.running.size).toBe(0);
    jobs.cancel('map');
    jobs.cancel('another');
    expect(told).toEqual([job.id]);
    job.end('too late');
    expect(await answer).toBeNull();
  });
  it('of other kinds go on beside each other', async () => {
    const jobs = useJobsStore();
    const [a, b] = [pending<string>(), pending<string>()];
    const answers = [jobs.run('map', 'Mapping', a.start), jobs.run('plan', 'Planning', b.start)];
    expect(told).toEqual([]);
    expect(a.id).not.toBe(b.id);
    b.end('plan');
    a.end('map');
    expect(await Promise.all(answers)).toEqual(['map', 'plan']);
  });
  it('that fail are over, and say so to who asked', async () => {
    const jobs = useJobsStore();
    const job = pending<string>();
    const answer = jobs.run('map', 'Mapping', job.start);
    job.progress(0.3);
    job.fail(new Error('no'));
    await expect(answer).rejects.toThrow('no');
    expect(jobs.isBusy('map')).toBe(false);
    expect(jobs.running.size).toBe(0);
  });
});
