/** The kinds of link that there are; each opens with options of its own. */
import type { LinkOptions } from '@cork-elbow/core/contract';
import type { LineEnd, Link } from './link';
import { ownLinesLink } from './own-lines';
import { serialLink } from './serial';
import { simulatedLink } from './simulated';
import { tcpLink } from './tcp';

export { LineLog } from './line-log';

/** `startMs`: the loop's clock as it opens. `listen`: what passes over the line itself is heard by. */
export function openLink(
  end: LineEnd,
  options: LinkOptions,
  startMs: number,
  listen: (link: Link) => Link = (link) => link,
): Link {
  const link = listen(bare(end, options, startMs));
  return options.lines ? ownLinesLink(link, end, options, startMs) : link;
}
function bare(end: LineEnd, options: LinkOptions, startMs: number): Link {
  switch (options.kind) {
    case 'simulated':
      return simulatedLink(end, startMs, options);
    case 'tcp':
      return tcpLink(options);
    case 'serial':
      return serialLink(options);
  }
}
