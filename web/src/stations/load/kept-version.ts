/** A state of a rig that was kept to be laid beside later ones; as long as the page is open. */
import { shallowRef } from 'vue';
import type { Rig } from '@cork-elbow/core/rig';

export interface KeptVersion {
  readonly rigId: string;
  /** When, for people. */
  readonly at: string;
  readonly rig: Rig;
}
export const keptVersion = shallowRef<KeptVersion | null>(null);
