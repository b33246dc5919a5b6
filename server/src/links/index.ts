/** The kinds of link that there are; each opens with options of its own. */
import type { LinkOptions } from '@cork-elbow/core/contract';
import type { LineEnd, Link } from './link';
import { simulatedLink } from './simulated';

export { LineLog } from './line-log';

type Kinds = {
  readonly [K in LinkOptions['kind']]: (
    end: LineEnd,
    options: Extract<LinkOptions, { kind: K }>,
    startMs: number,
  ) => Link;
};
const kinds: Kinds = {
  simulated: (end, options, startMs) => simulatedLink(end, startMs, options),
};

/** `startMs`: the loop's clock as it opens. */
export const openLink = (end: LineEnd, options: LinkOptions, startMs: number): Link =>
  kinds[options.kind](end, options, startMs);
