/** The demo rigs of the Fernhollow pottery club, as the server seeds them. */
import type { Rig } from '@cork-elbow/core/rig';
import { dotPainter } from './dot-painter';
import { heronGreeter } from './heron-greeter';
import { kilnLoader } from './kiln-loader';
import { tileDipper } from './tile-dipper';
import { twinCarriers } from './twin-carriers';

export { must } from './club';
export { dotPainter, heronGreeter, kilnLoader, tileDipper, twinCarriers };
/** Last on the shelf first: what is seeded last is the newest, and stands in front. */
export const demoRigs = (): { id: string; rig: Rig }[] => [
  { id: 'twin-carriers', rig: twinCarriers() },
  { id: 'heron-greeter', rig: heronGreeter() },
  { id: 'dot-painter', rig: dotPainter() },
  { id: 'kiln-shelf-loader', rig: kilnLoader() },
  { id: 'tile-dipper', rig: tileDipper() },
];
