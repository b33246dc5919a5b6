/** Masses of links and tools in SI, in the frames that everything is computed in. */
import { apply, type Vec3 } from '../linear';
import type { Tool } from '../rig';
import { M_PER_MM, toKg } from '../units/convert';

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
    mass: toKg(massG),
    com: apply(into, [comMm[0] * M_PER_MM, comMm[1] * M_PER_MM, comMm[2] * M_PER_MM], at),
    inertia: inertiaKgM2 ? turned(inertiaKgM2, into, at) : [0, 0, 0, 0, 0, 0],
  };
}

/** A body that is known in one frame, seen in the frame that `into` (a rotation and a shift) carries that one into. */
export const seenIn = ({ mass, com, inertia }: RigidBody, into: Float64Array, at = 0): RigidBody => ({
  mass,
  com: apply(into, com, at),
  inertia: turned(inertia, into, at),
});

/** Bodies that are fixed to each other as one (parallel-axis theorem), all of them and the result in one frame. */
export function together(bodies: readonly RigidBody[]): RigidBody {
  const mass = bodies.reduce((sum, body) => sum + body.mass, 0);
  const com = [0, 1, 2].map((axis) =>
    mass > 0 ? bodies.reduce((sum, body) => sum + body.mass * body.com[axis], 0) / mass : 0,
  );
  const inertia: [number, number, number, number, number, number] = [0, 0, 0, 0, 0, 0];
  for (const body of bodies) {
    const [x, y, z] = body.com.map((v, axis) => v - com[axis]);
    const moved = [y * y + z * z, x * x + z * z, x * x + y * y, -x * y, -x * z, -y * z];
    for (let k = 0; k < 6; k++) inertia[k] += body.inertia[k] + body.mass * moved[k];
  }
  return { mass, com: [com[0], com[1], com[2]], inertia };
}

/** R·I·Rᵀ for the six numbers of a symmetric I. */
function turned([xx, yy, zz, xy, xz, yz]: RigidBody['inertia'], r: Float64Array, at: number): RigidBody['inertia'] {
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
