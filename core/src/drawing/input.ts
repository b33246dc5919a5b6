/** What a drawing is made from, and what comes out. */
import type { Vec3 } from '../linear';
import type { Mechanism } from '../mechanism';
import type { Hardware } from '../rig';
import type { View, ViewKind } from './project';
import type { ShownLayers } from './layers/shown';
import type { Shape } from './shapes';

/** A dimension with a letter instead of a number, from point to point (m, world). */
export interface LetterSpan {
  readonly letter: string;
  readonly from: Vec3;
  readonly to: Vec3;
  readonly along: 'level' | 'upright' | 'straight';
}

export interface DrawingInput {
  readonly rig: Hardware;
  readonly mechanism: Mechanism;
  /** The pose, slots in SI. */
  readonly q: Float64Array;
  readonly kind: ViewKind;
  readonly width: number;
  readonly height: number;
  /** What must be on the page: all the arm may reach (default), where it works (its rest, `poses`, what stands around), or this pose alone. */
  readonly fit?: 'reach' | 'work' | 'pose';
  /** Poses (slots, SI) that the arm works in. */
  readonly poses?: readonly Float64Array[];
  /** Points (m, world) that are brought into the picture as well, as far as that leaves the arm half of its size. */
  readonly also?: readonly Vec3[];
  /** Only the limb that ends in this tool, its base and what stands around. */
  readonly limb?: string | null;
  readonly dimensions?: boolean;
  /** Letters of measures to take; in place of dimensions. */
  readonly letters?: readonly LetterSpan[];
  readonly selected?: string | null;
  /** What is laid on it. */
  readonly layers?: ShownLayers;
  /** All of a reach map is on the page, what lies below the ground too. */
  readonly whole?: boolean;
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
