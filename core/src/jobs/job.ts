/**
 * Long computations as resumable steps. A job does a slice of its work per `step` and says how far it is; who runs it
 * decides when the next slice comes, shows the progress, and may simply not call it again.
 */
export type JobStep<T> = { done: false; progress: number } | { done: true; value: T };
export interface Job<T> {
  /** Does about `budget` units of work (what a unit is, the job says). */
  step(budget: number): JobStep<T>;
}

/** A job from a generator that yields its progress (0..1) between pieces of work; one piece is one unit. */
export function jobOf<T>(work: Generator<number, T, void>): Job<T> {
  return {
    step(budget) {
      let progress = 0;
      for (let i = 0; i < budget; i++) {
        const next = work.next();
        if (next.done) return { done: true, value: next.value };
        progress = next.value;
      }
      return { done: false, progress };
    },
  };
}

/** Runs a job to its end at once; for tests and for calls that wait anyway. */
export function finish<T>(job: Job<T>): T {
  for (;;) {
    const step = job.step(1000);
    if (step.done) return step.value;
  }
}

/** A job as pieces of another one's work: yields its progress, from … to of the whole, and returns its value. */
export function* piecesOf<T>(job: Job<T>, from = 0, to = 1): Generator<number, T, void> {
  for (;;) {
    const step = job.step(1);
    if (step.done) return step.value;
    yield from + (to - from) * step.progress;
  }
}

/** Work that cannot be cut, after a moment in which it can still be called off. */
export const inOnePiece = <T>(work: () => T): Job<T> =>
  jobOf(
    (function* () {
      yield 0;
      return work();
    })(),
  );
