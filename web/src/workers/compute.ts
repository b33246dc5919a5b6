/** What the page has worked out in its worker: jobs in slices, so that a cancel gets through between them. */
import { transfer } from 'comlink';
import type { Job } from '@cork-elbow/core/jobs';
import type { Rig } from '@cork-elbow/core/rig';
import { openContext, type Context, type JobKind } from './define-job';
import { jobKinds, type AnswerOf, type JobName, type RequestOf } from './jobs';

/** Time (ms) for one slice. */
const SLICE = 12;
/** Units of work between looks at the clock. */
const BUDGET = 8;
/** Progress is told at most this often (ms). */
const TELL = 80;
/** Documents kept open: the one on show, and those that something still asks of. */
const KEPT = 4;

/** A document as its text until something is asked of it: of many edits in a row hardly one is. */
interface Opened {
  readonly text: string;
  readonly buildId: string;
  context?: Context | null;
}
const contexts = new Map<number, Opened>();
/** Under way, and of those the ones that are called off. */
const underway = new Set<number>();
const cancelled = new Set<number>();

export const compute = {
  /** Opens a document (JSON) under a number; what is asked of it names that. */
  open(document: number, text: string, buildId: string): void {
    contexts.set(document, { text, buildId });
    for (const old of contexts.keys()) if (contexts.size > KEPT) contexts.delete(old);
  },
  cancel(id: number): void {
    if (underway.has(id)) cancelled.add(id);
  },
  /** Null where it was cancelled, or where what it asks of is not there. */
  async run<K extends JobName>(
    name: K,
    id: number,
    document: number,
    request: RequestOf<K>,
    onProgress: (share: number, label: string) => void,
  ): Promise<AnswerOf<K> | null> {
    const kind = jobKinds[name] as unknown as JobKind<RequestOf<K>, AnswerOf<K>>;
    const opened = contexts.get(document);
    underway.add(id);
    try {
      // What was superseded while it stood in line is never begun.
      await turn();
      if (!opened || cancelled.has(id)) return null;
      opened.context ??= openContext(JSON.parse(opened.text) as Rig, opened.buildId);
      const job = opened.context && kind.run(opened.context, request);
      return job ? await inSlices(job, id, kind, onProgress) : null;
    } finally {
      underway.delete(id);
      cancelled.delete(id);
    }
  },
};
export type ComputeWorker = typeof compute;

/** Lets messages through. */
const turn = (): Promise<void> => new Promise((next) => setTimeout(next));

async function inSlices<A>(
  job: Job<A>,
  id: number,
  kind: JobKind<never, A>,
  onProgress: (share: number, label: string) => void,
): Promise<A | null> {
  let told = performance.now();
  for (;;) {
    const end = performance.now() + SLICE;
    let progress: number;
    do {
      const step = job.step(BUDGET);
      if (step.done) return kind.moved ? transfer(step.value, kind.moved(step.value)) : step.value;
      progress = step.progress;
    } while (performance.now() < end);
    if (performance.now() - told > TELL) {
      told = performance.now();
      onProgress(progress, kind.label);
    }
    await turn();
    if (cancelled.has(id)) return null;
  }
}
