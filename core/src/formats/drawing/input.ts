/** What a drawing is made from, and what comes out. */
import type { Vec3 } from '../../linear';
import type { Mechanism } from '../../mechanism';
import type { Rig } from '../../rig';
import type { View } from './project';
import type { ReachRegion } from './reach-outline';
import type { Shape } from './shapes';

export interface DrawingInput {
  readonly rig: Rig;
  readonly mechanism: Mechanism;
  /** The pose, slots in SI. */
  readonly q: Float64Array;
  readonly kind: 'side' | 'plan';
  readonly width: number;
  readonly height: number;
  readonly dimensions?: boolean;
  readonly selected?: string | null;
  /** A second pose in outline. */
  readonly ghost?: Float64Array | null;
  readonly target?: Vec3 | null;
  /** Words beside the target, e.g. "38 mm short". */
  readonly targetNote?: string;
  readonly region?: ReachRegion | null;
  readonly regionLabel?: string;
  /** Path of the tool point (world, m), x y z after one another. */
  readonly trace?: Float64Array | null;
  /** World frame of the tool that each payload stands in, by payload id (see routine/payloads). */
  readonly payloads?: ReadonlyMap<string, Float64Array>;
  readonly spots?: boolean;
  /** Without grid numbers, marks and names: for a thumbnail. */
  readonly bare?: boolean;
}

export interface Drawing {
  readonly width: number;
  readonly height: number;
  readonly view: View;
  readonly shapes: readonly Shape[];
  readonly title: string;
}
