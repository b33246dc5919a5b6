/**
 * What is laid on a drawing of the arm: a kind is a file here, which draws it on the page, and one in web/src/stage/layers, which
 * stands it in space; either may be missing where it makes no sense.
 */
import type { DrawingInput } from '../input';
import type { View } from '../project';
import type { Shape } from '../shapes';
import type { LayerKind, Layers } from './shown';

/** The page that a layer draws on. */
export interface LayerPage {
  readonly view: View;
  readonly input: DrawingInput;
  /** The arm in another pose, in outline. */
  readonly outline: (q: Float64Array) => Shape[];
}

/** Where a layer lies: on the floor of the page, under the arm, behind it, in its hand, at its joints, over all. */
export type LayerPlace = 'floor' | 'under' | 'behind' | 'hand' | 'joints' | 'over';

export interface Layer2d<K extends LayerKind = LayerKind> {
  readonly kind: K;
  readonly place: LayerPlace;
  /** Drawn by the view alone, not by the pose of the arm: kept while the view is the same. */
  readonly still?: true;
  readonly draw: (page: LayerPage, shown: Layers[K]) => readonly Shape[];
}
/** For the list of all: the kind and what it shows belong together. */
export const layer2d = <K extends LayerKind>(layer: Layer2d<K>): Layer2d => layer as unknown as Layer2d;
