import type { Code, Data, ErrorBody, Fault } from '@cork-elbow/core/findings';
import { info, say } from '@cork-elbow/core/findings';

/** An answer other than the wished one; the status, sentence and remedy come from the catalogue. */
export class ApiError extends Error {
  constructor(
    readonly code: Code,
    readonly data: Data = {},
    readonly faults: readonly Fault[] = [],
  ) {
    super(faults[0]?.message ?? say(code, data));
  }
  get status(): number {
    return info(this.code).status ?? 400;
  }
  body(): ErrorBody {
    const { remedy } = info(this.code);
    return { code: this.code, message: this.message, ...(remedy ? { remedy } : {}), faults: [...this.faults] };
  }
}

/** Refuses with faults; the first one's code and sentence lead. */
export const refuse = (faults: readonly Fault[]): never => {
  throw new ApiError(faults[0].code, {}, faults);
};
