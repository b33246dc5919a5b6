/** Long computations in the compute worker: progress, cancel, and late answers dropped. */
import { defineStore } from 'pinia';
import { proxy, wrap, type Remote } from 'comlink';
import { shallowReactive } from 'vue';
import type { ComputeWorker } from '../workers/compute';

export interface RunningJob {
  readonly key: string;
  readonly label: string;
  progress: number;
  cancel(): void;
}

let remote: Remote<ComputeWorker> | null = null;
const worker = (): Remote<ComputeWorker> =>
  (remote ??= wrap<ComputeWorker>(
    new Worker(new URL('../workers/compute.worker.ts', import.meta.url), { type: 'module' }),
  ));

export const useJobsStore = defineStore('jobs', () => {
  const running = shallowReactive(new Map<string, RunningJob>());
  const current = new Map<string, number>();
  let count = 0;

  /** Runs `start` in the worker; a later request with the same key supersedes it, and it then answers null. */
  async function run<T>(
    key: string,
    label: string,
    start: (worker: Remote<ComputeWorker>, id: number, onProgress: (share: number) => void) => Promise<T | null>,
  ): Promise<T | null> {
    const number = ++count;
    const before = current.get(key);
    if (before !== undefined) void worker().cancel(before);
    current.set(key, number);
    const progress = (share: number): void => {
      if (current.get(key) === number) running.set(key, { key, label, progress: share, cancel: () => cancel(key) });
    };
    try {
      const value = await start(worker(), number, proxy(progress));
      return current.get(key) === number ? value : null;
    } finally {
      if (current.get(key) === number) {
        current.delete(key);
        running.delete(key);
      }
    }
  }
  function cancel(key: string): void {
    const number = current.get(key);
    if (number === undefined) return;
    void worker().cancel(number);
    current.delete(key);
    running.delete(key);
  }
  /** Whether something with this key is under way. */
  const isBusy = (key: string): boolean => current.has(key);
  return { running, run, cancel, isBusy };
});
