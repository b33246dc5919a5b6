/** What each kind of layer shows, on the page and in space. */
import type { Vec3 } from '../../linear';
import type { ReachMap, ShellMesh } from '../../reach';
import type { ReachRegion } from '../reach-outline';

export type MapField = 'postures' | 'margin' | 'manipulability' | 'torque';

export interface MapLayer {
  readonly map: ReachMap;
  readonly field: MapField;
  /** An earlier state to tell gained and lost cells against. */
  readonly before?: ReachMap | null;
}

/** What each kind shows. Places are in m, world; lists of places have x, y, z after one another. */
export interface Layers {
  /** A reach map, where it is of the view's plane. */
  readonly map: MapLayer;
  /** Where the tool's point can be, in the arm's own plane. */
  readonly region: ReachRegion;
  /** The outer surface of all the reach. */
  readonly shell: ShellMesh;
  /** Other poses in outline. */
  readonly ghosts: readonly Float64Array[];
  /** World frame of the tool that each payload stands in, by payload id (see routine/payloads). */
  readonly payloads: ReadonlyMap<string, Float64Array>;
  /** Named frames and the tools' own frames. */
  readonly frames: true;
  /** Path of the tool point. */
  readonly trace: Float64Array;
  /** Places of the tool's point at even times: close together where it is slow. */
  readonly beats: Float64Array;
  /** Places where something would be touched. */
  readonly hits: Float64Array;
  /** What the base stands on, and where its load presses; null: it is pulled off. */
  readonly standing: {
    readonly corners: readonly Vec3[];
    readonly at: Vec3 | null;
    /** The load is inside, by as much as is wanted. */
    readonly isSafe: boolean;
  };
  /** How a place scatters: what a ball of radius 1 becomes by `shape` (m, 3 × 3, row by row), so many times as large as it is. */
  readonly blur: { readonly at: Vec3; readonly shape: Float64Array; readonly times: number };
  /** Where the tool is to be, with words beside it, e.g. "38 mm short". */
  readonly target: { readonly at: Vec3; readonly note?: string };
}
export type LayerKind = keyof Layers;
/** What is on show; left out or null: nothing of that kind. */
export type ShownLayers = { readonly [K in LayerKind]?: Layers[K] | null };
