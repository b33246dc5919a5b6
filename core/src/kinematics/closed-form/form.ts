/** What a recognised arm is made of. */
import type { Vec3 } from '../../linear';
import type { PlanarArm } from './planar-arm';
import type { SphericalSolver } from './spherical-wrist';

/** A slide that carries the whole arm: a rail or a lifting column. */
export interface Carriage {
  readonly slot: number;
  /** Way of the slide, unit vector, world. */
  readonly axis: Vec3;
}

export type InnerForm =
  | { readonly kind: 'planar'; readonly arm: PlanarArm }
  | { readonly kind: 'spherical'; readonly solver: SphericalSolver };

export interface ClosedForm {
  readonly inner: InnerForm;
  readonly slots: readonly number[];
  readonly carriage: Carriage | null;
}
