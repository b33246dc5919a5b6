import fc from 'fast-check';
import { inject } from 'vitest';
import { strictSentences } from '../core/src/findings';

/** One variable, PROPERTY_RUNS, sets how many cases every property test tries. A fixed seed keeps failures repeatable. */
strictSentences();
fc.configureGlobal({ numRuns: inject('propertyRuns'), seed: 20261 });

declare module 'vitest' {
  export interface ProvidedContext {
    propertyRuns: number;
  }
}
