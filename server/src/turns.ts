/** Long work in turns: other calls are served in between. */
import type { Job } from '@cork-elbow/core/jobs';

/** The thread is left after so long (ms). */
export const TURN_MS = 8;
export const turn = (): Promise<void> => new Promise((next) => setImmediate(next));

/** Runs a job to its end; a piece of it that cannot be cut holds the thread. */
export async function inTurns<T>(job: Job<T>): Promise<T> {
  for (let since = performance.now(); ;) {
    const step = job.step(1);
    if (step.done) return step.value;
    if (performance.now() - since < TURN_MS) continue;
    await turn();
    since = performance.now();
  }
}
