import { jobOf, piecesOf } from '@cork-elbow/core/jobs';
import { lengthsJob, type LengthAdvice, type LengthRange, type LengthRequest } from '@cork-elbow/core/reach';
import { defineJob } from '../define-job';

/** Lengths with the ranges that they were looked for in, in the same order. */
export interface Advised {
  readonly advice: LengthAdvice;
  readonly ranges: readonly LengthRange[];
}

/** The smallest arm that reaches all spots. */
export const lengths = defineJob({
  label: 'Looking for the smallest arm',
  run: ({ rig, build }, ask: Omit<LengthRequest, 'doc' | 'mounting'>) =>
    jobOf(
      (function* (): Generator<number, Advised, void> {
        const whole = lengthsJob({ doc: rig.mechanism, mounting: build.mounting, ...ask });
        return { advice: yield* piecesOf(whole), ranges: ask.ranges };
      })(),
    ),
});
