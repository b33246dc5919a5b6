/**
 * What is laid on the arm in the 3D view: a kind is a file here, as core/src/drawing/layers has one for the page. A layer stands in one
 * scene as long as rig and theme are the same, and shows what it is given there.
 */
import { Group, Line, LineSegments, Mesh, Points, Sprite, type BufferGeometry, type Object3D } from 'three';
import type { LayerKind, Layers } from '@cork-elbow/core/drawing';
import type { Mechanism } from '@cork-elbow/core/mechanism';
import type { Rig } from '@cork-elbow/core/rig';
import { isKept, type Ink } from '../three/ink';

export interface Stage {
  readonly rig: Rig;
  readonly mechanism: Mechanism;
  /** The pose on show: slots in SI. */
  readonly q: Float64Array;
  readonly ink: Ink;
  /** For what is only imagined. */
  readonly veil: Ink;
}
export interface Standing<D> {
  readonly root: Group;
  show(shown: D | null, stage: Stage): void;
}
export interface Layer3d<K extends LayerKind = LayerKind> {
  readonly kind: K;
  /** The view that shows all of the arm shows it too; `at-once`: also as soon as it comes or goes. */
  readonly framed?: 'when-fitted' | 'at-once';
  readonly stand: () => Standing<Layers[K]>;
}
/** For the list of all: the kind and what it shows belong together. */
export const layer3d = <K extends LayerKind>(layer: Layer3d<K>): Layer3d => layer as unknown as Layer3d;

/** Frees what objects hold on the graphics card; materials and kept bodies of the ink are shared and stay. */
export function free(root: Object3D): void {
  root.traverse((o) => {
    if (o instanceof Mesh || o instanceof LineSegments || o instanceof Line || o instanceof Points) {
      const geometry = o.geometry as BufferGeometry;
      if (!isKept(geometry)) geometry.dispose();
    } else if (o instanceof Sprite) {
      o.material.map?.dispose();
      o.material.dispose();
    }
  });
}

/** A layer that is made anew whenever what it shows changes; `follows`: also whenever the arm moves. */
export const drawn = <K extends LayerKind>(
  kind: K,
  draw: (shown: Layers[K], stage: Stage) => readonly Object3D[],
  { follows = false, framed }: { follows?: boolean; framed?: 'when-fitted' | 'at-once' } = {},
): Layer3d =>
  layer3d<K>({
    kind,
    ...(framed ? { framed } : {}),
    stand: () => {
      const root = new Group();
      let last: Layers[K] | null = null;
      return {
        root,
        show(shown, stage) {
          if (shown === last && !(follows && shown)) return;
          last = shown;
          free(root);
          root.clear();
          for (const object of shown ? draw(shown, stage) : []) root.add(object);
          root.updateMatrixWorld(true);
        },
      };
    },
  });
