/** Named frames of a rig: where they are in the world, and a frame from three touched points. */
import { identity, mul, vec3, type Vec3 } from '../linear';
import { frameToSi, type Mechanism } from '../mechanism';
import type { NamedFrame } from '../rig';
import type { Frames } from './forward';

/** Points whose triangle is flatter than this share of its longest side do not make a frame. */
const FLAT = 1e-3;

/**
 * World (or parent) transform of the frame with its origin at `origin`, +X through `onX`, and `inPlane` on the +Y side of
 * the XY plane; null where the three lie on one line or two of them coincide. Units as given.
 */
export function frameFromPoints(origin: Vec3, onX: Vec3, inPlane: Vec3): Float64Array | null {
  const x = vec3.unit(vec3.sub(onX, origin));
  const rest = vec3.sub(inPlane, origin);
  if (!x) return null;
  const across = vec3.sub(rest, vec3.scale(x, vec3.dot(rest, x)));
  const longest = Math.max(vec3.distance(origin, onX), vec3.norm(rest));
  const y = vec3.unit(across);
  if (!y || vec3.norm(across) < FLAT * longest) return null;
  const z = vec3.cross(x, y);
  return Float64Array.of(x[0], y[0], z[0], x[1], y[1], z[1], x[2], y[2], z[2], origin[0], origin[1], origin[2]);
}

/** World transforms of named frames by id, the arm standing as `frames` (see forward) says. */
export function namedFrames(
  mechanism: Mechanism,
  frames: Pick<Frames, 'joints'>,
  list: readonly NamedFrame[],
): Map<string, Float64Array> {
  return new Map(
    list.map((frame) => {
      const on =
        frame.fixedTo === 'world'
          ? identity()
          : frame.fixedTo === 'base'
            ? mechanism.base
            : (frames.joints.get(frame.fixedTo.joint) ?? identity());
      return [frame.id, mul(on, frameToSi(frame))];
    }),
  );
}
