/** The page's worker: jobs in slices, so that a cancel gets through between them. */
import { expose } from 'comlink';
import type { Job } from '@cork-elbow/core/jobs';
import { compile } from '@cork-elbow/core/mechanism';
import { planJob, type Plan } from '@cork-elbow/core/routine';
import type { Rig } from '@cork-elbow/core/rig';

const cancelled = new Set<number>();
/** Time (ms) for one slice. */
const SLICE = 12;

async function work<T>(id: number, job: Job<T>, onProgress: (share: number) => void): Promise<T | null> {
  let told = performance.now();
  for (;;) {
    const end = performance.now() + SLICE;
    let progress: number;
    do {
      const step = job.step(8);
      if (step.done) {
        cancelled.delete(id);
        return step.value;
      }
      progress = step.progress;
    } while (performance.now() < end);
    if (performance.now() - told > 80) {
      told = performance.now();
      onProgress(progress);
    }
    await new Promise((next) => setTimeout(next));
    if (cancelled.delete(id)) return null;
  }
}

const api = {
  cancel(id: number): void {
    cancelled.add(id);
  },
  async plan(
    id: number,
    rig: Rig,
    buildId: string,
    routineId: string,
    onProgress: (share: number) => void,
  ): Promise<Plan | null> {
    const build = rig.builds.find((b) => b.id === buildId) ?? rig.builds[0];
    const compiled = compile(rig.mechanism, build.mounting);
    const routine = rig.routines.find((r) => r.id === routineId);
    if (!compiled.ok || !routine) return null;
    return work(id, planJob(rig, compiled.mechanism, build, routine), onProgress);
  },
};
export type ComputeWorker = typeof api;
expose(api);
