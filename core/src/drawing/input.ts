/** What a drawing is made from, and what comes out. */
import type { Vec3 } from '../linear';
import type { Mechanism } from '../mechanism';
import type { Rig } from '../rig';
import type { View, ViewKind } from './project';
import type { ReachRegion } from './reach-outline';
import type { MapLayer } from './reach-map';
import type { Shape } from './shapes';

/** A dimension with a letter instead of a number, from point to point (m, world). */
export interface LetterSpan {
  readonly letter: string;
  readonly from: Vec3;
  readonly to: Vec3;
  readonly along: 'level' | 'upright' | 'straight';
}

export interface DrawingInput {
  readonly rig: Rig;
  readonly mechanism: Mechanism;
  /** The pose, slots in SI. */
  readonly q: Float64Array;
  readonly kind: ViewKind;
  readonly width: number;
  readonly height: number;
  /** What must be on the page: all the arm may reach (default), or this pose alone. */
  readonly fit?: 'reach' | 'pose';
  /** Only the limb that ends in this tool, its base and what stands around. */
  readonly limb?: string | null;
  readonly dimensions?: boolean;
  /** Letters of measures to take; in place of dimensions. */
  readonly letters?: readonly LetterSpan[];
  readonly selected?: string | null;
  /** A second pose in outline. */
  readonly ghost?: Float64Array | null;
  readonly target?: Vec3 | null;
  /** Words beside the target, e.g. "38 mm short". */
  readonly targetNote?: string;
  readonly region?: ReachRegion | null;
  /** A reach map to lie under the arm, where it is of this view's plane. */
  readonly map?: MapLayer | null;
  /** All of the map is on the page, what lies below the ground too. */
  readonly whole?: boolean;
  /** Path of the tool point (world, m), x y z after one another. */
  readonly trace?: Float64Array | null;
  /** Places of the tool's point at even times along the trace. */
  readonly beats?: Float64Array | null;
  /** Places (x, y, z of each, world, m) where something would be touched. */
  readonly hits?: Float64Array | null;
  /** World frame of the tool that each payload stands in, by payload id (see routine/payloads). */
  readonly payloads?: ReadonlyMap<string, Float64Array>;
  readonly spots?: boolean;
  /** Named frames and the tools' own frames. */
  readonly frames?: boolean;
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
