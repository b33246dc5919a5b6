import { info } from '@cork-elbow/core/catalogue';
import { contractFindings } from '@cork-elbow/core/contract';
import type { ErrorBody, Fault, Needs } from '@cork-elbow/core/findings';

type Entries = typeof contractFindings.entries;

/** An answer other than the wished one; status and remedy come from the catalogue of its code. */
export class ApiError extends Error {
  constructor(
    readonly code: string,
    message: string,
    readonly faults: readonly Fault[] = [],
  ) {
    super(message);
  }
  get status(): number {
    return info(this.code)?.status ?? 400;
  }
  body(): ErrorBody {
    const remedy = info(this.code)?.remedy;
    return { code: this.code, message: this.message, ...(remedy ? { remedy } : {}), faults: [...this.faults] };
  }
}

/** What is wrong with the call itself. */
export const apiError = <C extends keyof Entries>(code: C, ...data: Needs<Entries[C]>): ApiError =>
  new ApiError(code, contractFindings.say(code, ...data));
/** Faults that are told at once: what has more is mended in rounds. */
export const MOST_FAULTS = 50;

/** What is wrong with what it brought: the first fault's code and sentence lead. */
export const faulted = (faults: readonly Fault[]): ApiError =>
  new ApiError(faults[0].code, faults[0].message, faults.slice(0, MOST_FAULTS));

/** Refuses with faults. */
export const refuse = (faults: readonly Fault[]): never => {
  throw faulted(faults);
};
