/** Masses of links and tools in SI, in the frames that everything is computed in. */
import { apply, identity, type Vec3 } from '../linear';
import { PLATFORM, type Joint, type MechanismDoc, type Tool } from '../rig';
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

/** A point that weighs. */
const pointOf = (massG: number, comMm: readonly number[], into: Float64Array, at = 0): RigidBody =>
  bodyOf({ massG, comMm: [comMm[0], comMm[1], comMm[2]], inertiaKgM2: null }, into, at);

/**
 * All that weighs on each joint's link, in its aligned frame (`unalign`: 12 numbers a joint), and on the base in the base's. The forearms
 * of a delta weigh half on its elbows and half on its platform: exact at rest for even rods.
 */
export function bodiesOf(
  document: MechanismDoc,
  sorted: readonly Joint[],
  unalign: Float64Array,
): { readonly bodies: RigidBody[]; readonly baseBody: RigidBody } {
  const { base, weights = [] } = document;
  const delta = document.family === 'rotary-delta' ? document.delta : null;
  const ofDelta = (id: string, at: number): RigidBody[] => {
    if (!delta) return [];
    const { upperArmMm: long, masses } = delta;
    const half = masses.forearmG / 2;
    if (id === PLATFORM) return [pointOf(masses.platformG + 3 * half, [0, 0, 0], unalign, at)];
    const rod = (toKg(masses.upperArmG) * (long * M_PER_MM) ** 2) / 12;
    const arm = { massG: masses.upperArmG, comMm: [long / 2, 0, 0] as [number, number, number] };
    return [
      bodyOf({ ...arm, inertiaKgM2: [0, rod, rod, 0, 0, 0] }, unalign, at),
      pointOf(half, [long, 0, 0], unalign, at),
    ];
  };
  const on = (joint: string | null, into: Float64Array, at = 0): RigidBody[] =>
    weights.filter((weight) => weight.joint === joint).map(({ massG, xyzMm }) => pointOf(massG, xyzMm, into, at));
  return {
    bodies: sorted.map(({ id, link }, j) =>
      together([bodyOf(link, unalign, 12 * j), ...ofDelta(id, 12 * j), ...on(id, unalign, 12 * j)]),
    ),
    baseBody: together([bodyOf({ ...base, inertiaKgM2: null }, identity()), ...on(null, identity())]),
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
  if (bodies.length === 1) return bodies[0];
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
