/** The kinds of link that there are; each opens with options of its own. */
import type { LinkOptions } from '@cork-elbow/core/contract';
import type { LineEnd, Link } from './link';
import { serialLink } from './serial';
import { simulatedLink } from './simulated';
import { tcpLink } from './tcp';

export { LineLog } from './line-log';

/** `startMs`: the loop's clock as it opens. */
export function openLink(end: LineEnd, options: LinkOptions, startMs: number): Link {
  switch (options.kind) {
    case 'simulated':
      return simulatedLink(end, startMs, options);
    case 'tcp':
      return tcpLink(options);
    case 'serial':
      return serialLink(options);
  }
}
