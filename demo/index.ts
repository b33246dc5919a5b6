/** The demo rigs, as the server seeds them. */
import type { Rig } from '@cork-elbow/core/rig';
import { tileDipper } from './tile-dipper';

export { must, tileDipper } from './tile-dipper';
export const demoRigs = (): { id: string; rig: Rig }[] => [{ id: 'tile-dipper', rig: tileDipper() }];
