/** Springs in SI, in the frames that everything is computed in. */
import { apply, identity, type Vec3 } from '../linear';
import { isSliding, type PlaceOn, type TreeDoc } from '../rig';
import { M_PER_MM, RAD_PER_DEG } from '../units/convert';

/** A place on a joint's link (its aligned frame) or, with −1, on the base. */
export interface CompiledPlace {
  readonly joint: number;
  readonly at: Vec3;
}
export type CompiledSpring =
  /** N·m per rad (N per m) away from `slackAt` (SI). */
  | { readonly kind: 'at-joint'; readonly joint: number; readonly stiffness: number; readonly slackAt: number }
  /** N per m longer than `free` (m). */
  | {
      readonly kind: 'between';
      readonly from: CompiledPlace;
      readonly to: CompiledPlace;
      readonly stiffness: number;
      readonly free: number;
    };

/** `unalign`: 12 numbers a joint, as in bodies. */
export function springsOf(
  { joints, springs = [] }: TreeDoc,
  index: ReadonlyMap<string, number>,
  unalign: Float64Array,
): CompiledSpring[] {
  const place = ({ joint, xyzMm: [x, y, z] }: PlaceOn): CompiledPlace => {
    const j = joint === null ? -1 : index.get(joint)!;
    const point: Vec3 = [x * M_PER_MM, y * M_PER_MM, z * M_PER_MM];
    return { joint: j, at: j < 0 ? apply(identity(), point) : apply(unalign, point, 12 * j) };
  };
  return springs.map((spring): CompiledSpring => {
    if (spring.kind === 'between') {
      const { from, to, nPerMm, freeMm } = spring;
      const stiffness = nPerMm / M_PER_MM;
      return { kind: 'between', from: place(from), to: place(to), stiffness, free: freeMm * M_PER_MM };
    }
    const { joint, stiffness, slackAt } = spring;
    // N·m per ° or N per mm: what is per unit becomes per SI unit.
    const unit = isSliding(joints.find(({ id }) => id === joint)!) ? M_PER_MM : RAD_PER_DEG;
    return { kind: 'at-joint', joint: index.get(joint)!, stiffness: stiffness / unit, slackAt: slackAt * unit };
  });
}
