/** Long computations in the compute worker: progress, cancel, and late answers dropped. */
import { defineStore } from 'pinia';
import { proxy, wrap, type Remote } from 'comlink';
import { shallowReactive } from 'vue';
import type { Build, Rig } from '@cork-elbow/core/rig';
import type { ComputeWorker } from '../workers/compute';
import type { AnswerOf, JobName, RequestOf } from '../workers/jobs';

export interface RunningJob {
  readonly key: JobName;
  readonly label: string;
  progress: number;
  cancel(): void;
}
/** What is asked of: a document as one of its builds has it. */
export interface Asked {
  readonly rig: Rig;
  readonly build: Pick<Build, 'id'>;
}

let remote: Remote<ComputeWorker> | null = null;
const worker = (): Remote<ComputeWorker> =>
  (remote ??= wrap<ComputeWorker>(
    new Worker(new URL('../workers/compute.worker.ts', import.meta.url), { type: 'module' }),
  ));

/** The document that the worker was given last, and its number there. */
let open: { rig: Rig; buildId: string; number: number } | null = null;
let documents = 0;
function numberOf({ rig, build }: Asked): number {
  if (open?.rig !== rig || open.buildId !== build.id) {
    open = { rig, buildId: build.id, number: ++documents };
    // As the server gets it too: an edit may have left something in it that the page watches, and that cannot be sent.
    void worker().open(open.number, JSON.stringify(rig), build.id);
  }
  return open.number;
}

export const useJobsStore = defineStore('jobs', () => {
  const running = shallowReactive(new Map<JobName, RunningJob>());
  const current = shallowReactive(new Map<JobName, number>());
  let count = 0;

  /** Asks the worker; a later request of the same name supersedes it, and it then answers null. */
  async function ask<K extends JobName>(name: K, of: Asked, request: RequestOf<K>): Promise<AnswerOf<K> | null> {
    const number = ++count;
    const before = current.get(name);
    if (before !== undefined) void worker().cancel(before);
    current.set(name, number);
    const progress = (share: number, label: string): void => {
      if (current.get(name) === number)
        running.set(name, { key: name, label, progress: share, cancel: () => cancel(name) });
    };
    try {
      const run = worker().run as unknown as (...args: unknown[]) => Promise<AnswerOf<K> | null>;
      const answer = await run(name, number, numberOf(of), request, proxy(progress));
      return current.get(name) === number ? answer : null;
    } finally {
      if (current.get(name) === number) {
        current.delete(name);
        running.delete(name);
      }
    }
  }
  function cancel(name: JobName): void {
    const number = current.get(name);
    if (number === undefined) return;
    void worker().cancel(number);
    current.delete(name);
    running.delete(name);
  }
  /** Whether something of this name is under way. */
  const isBusy = (name: JobName): boolean => current.has(name);
  return { running, ask, cancel, isBusy };
});
