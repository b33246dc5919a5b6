/** Masses of links and tools in SI, in the frames that everything is computed in. */
import { apply, type Vec3 } from '../linear';
import type { Tool } from '../rig';
import { M_PER_MM } from '../units/convert';

const KG_PER_G = 1e-3;

/** A rigid body; `com` (m) and `inertia` in the frame it is said of. */
export interface RigidBody {
  /** kg. */
  readonly mass: number;
  readonly com: Vec3;
  /** About the centre of mass along the frame's axes: xx, yy, zz, xy, xz, yz (kg·m²); all 0 for a point mass. */
  readonly inertia: readonly [number, number, number, number, number, number];
}

/** Of what a document gives of a link or a tool, seen in a frame that `into` (a rotation and a shift) carries it into. */
export function bodyOf(
  given: Pick<Tool, 'massG' | 'comMm' | 'inertiaKgM2'> | undefined,
  into: Float64Array,
  at = 0,
): RigidBody {
  if (!given) return { mass: 0, com: [0, 0, 0], inertia: [0, 0, 0, 0, 0, 0] };
  const { massG, comMm, inertiaKgM2 } = given;
  return {
    mass: massG * KG_PER_G,
    com: apply(into, [comMm[0] * M_PER_MM, comMm[1] * M_PER_MM, comMm[2] * M_PER_MM], at),
    inertia: inertiaKgM2 ? turned(inertiaKgM2, into, at) : [0, 0, 0, 0, 0, 0],
  };
}

/** R·I·Rᵀ for the six numbers of a symmetric I. */
function turned(
  [xx, yy, zz, xy, xz, yz]: NonNullable<Tool['inertiaKgM2']>,
  r: Float64Array,
  at: number,
): RigidBody['inertia'] {
  const full = [
    [xx, xy, xz],
    [xy, yy, yz],
    [xz, yz, zz],
  ];
  const entry = (i: number, j: number): number => {
    let sum = 0;
    for (let k = 0; k < 3; k++) for (let l = 0; l < 3; l++) sum += r[at + 3 * i + k] * full[k][l] * r[at + 3 * j + l];
    return sum;
  };
  return [entry(0, 0), entry(1, 1), entry(2, 2), entry(0, 1), entry(0, 2), entry(1, 2)];
}
