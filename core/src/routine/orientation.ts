/**
 * What of its orientation a tool keeps on a way: all of its turn, the direction it points in, its tilt from up, or nothing. Arms with
 * few joints cannot keep all of it everywhere; what they keep at a frame is the first of these, from the top, that can be had.
 */
import { framesInto, kinematicsSpace, probeOf, solveInverse, type Placed } from '../kinematics';
import { axisOf, positionOf, seededRandom, STRIDE, symmetricEigenvalues, vec3, type Vec3 } from '../linear';
import { TURNING, type CompiledTool, type Mechanism } from '../mechanism';
import type { Keep } from '../rig';

/** From the most that can be kept to the least. */
export const keeps: readonly Keep[] = ['turn', 'direction', 'tilt', 'nothing'];
const UP: Vec3 = [0, 0, 1];

/** Of two the one that keeps less; one that is left out says nothing. */
export const lesser = (a: Keep | undefined, b: Keep | undefined): Keep | undefined =>
  a === undefined ? b : b === undefined ? a : keeps.indexOf(a) > keeps.indexOf(b) ? a : b;

/** Angle (rad) of a frame's +Z from up. */
export const fromUpOf = (frame: Float64Array): number => vec3.angleBetween(axisOf(frame, 2), UP);

/**
 * Tilts on the way from frame `a` to frame `b`, evenly: a tool that leans out at one end and in at the other, as seen from `foot`,
 * goes over the upright in between.
 */
export function tiltsBetween(a: Float64Array, b: Float64Array, foot: Vec3): (share: number) => number {
  const outward = (frame: Float64Array): number => {
    const [z, off] = [axisOf(frame, 2), vec3.sub(positionOf(frame), foot)];
    return z[0] * off[0] + z[1] * off[1];
  };
  const [low, high] = [fromUpOf(a), fromUpOf(b)];
  if (outward(a) * outward(b) >= 0) return (share) => low + share * (high - low);
  // Over the nearer of up and down.
  const end = low + high < Math.PI ? -high : 2 * Math.PI - high;
  return (share) => {
    const angle = low + share * (end - low);
    return angle > Math.PI ? 2 * Math.PI - angle : Math.abs(angle);
  };
}

/** A point of the axis that an arm turns about at a pose, upright and before all other turns; else of its base. */
export function footOf(mechanism: Mechanism, tool: CompiledTool, q: Float64Array): Vec3 {
  const space = kinematicsSpace(mechanism);
  framesInto(space, mechanism, q);
  const { frames } = space;
  const first = tool.joint.find((j) => mechanism.type[j] === TURNING);
  const upright = first !== undefined && Math.abs(frames[STRIDE * first + 8]) > 0.99;
  return upright ? positionOf(frames, STRIDE * first) : positionOf(mechanism.base);
}

/** What a solver is asked for where a tool is to stand at a frame and keep so much of its orientation. */
export function taskKeeping(frame: Float64Array, keep: Keep): Placed {
  const position = positionOf(frame);
  switch (keep) {
    case 'turn':
      return { kind: 'full', position, rotation: frame };
    case 'direction':
      return { kind: 'direction', position, direction: axisOf(frame, 2) };
    case 'tilt':
      return { kind: 'tilt', position, fromUp: fromUpOf(frame), up: UP };
    case 'nothing':
      return { kind: 'free', position };
  }
}

export interface Holding {
  /** What is worth trying, the most first: below what the arm's joints can always keep there is nothing to gain. */
  readonly ladder: readonly Keep[];
  /** Joints to spare while so much is kept. */
  readonly spare: Readonly<Record<Keep, number>>;
}

const known = new WeakMap<CompiledTool, Holding>();
const DEMANDS: Readonly<Record<Keep, number>> = { turn: 6, direction: 5, tilt: 4, nothing: 3 };

/** What the joints of an arm can keep, from the rank of its Jacobian at seeded poses. */
export function holdingOf(mechanism: Mechanism, tool: CompiledTool): Holding {
  let found = known.get(tool);
  if (found) return found;
  const random = seededRandom(1);
  const rank: Record<Keep, number> = { turn: 0, direction: 0, tilt: 0, nothing: 0 };
  for (let look = 0; look < 4; look++) {
    const q = mechanism.home.map((home, s) => {
      const [low, high] = [mechanism.lower[s], mechanism.upper[s]];
      return Number.isFinite(high - low) ? low + (0.1 + 0.8 * random()) * (high - low) : home + random();
    });
    for (const keep of keeps) rank[keep] = Math.max(rank[keep], rankAt(mechanism, tool, q, keep));
  }
  const always = keeps.findIndex((keep) => rank[keep] === DEMANDS[keep]);
  // An arm that can always keep a direction still cannot lead it over the upright: a tilt it can.
  const least = always < 0 ? keeps.length : always === 0 ? 0 : Math.max(always, keeps.indexOf('tilt'));
  const ladder = keeps.slice(0, least + 1);
  const spare = Object.fromEntries(keeps.map((keep) => [keep, tool.slots.length - rank[keep]]));
  known.set(tool, (found = { ladder, spare: spare as Record<Keep, number> }));
  return found;
}

/** Share of the largest singular value below which a direction of motion counts as none. */
const NO_RANK = 1e-6;

function rankAt(mechanism: Mechanism, tool: CompiledTool, q: Float64Array, keep: Keep): number {
  const probe = probeOf(mechanism, tool);
  const t = probe.frameAt(q);
  const J = probe.jacobian();
  const rows = DEMANDS[keep];
  const level = Math.hypot(t[2], t[5]);
  const gram = new Float64Array(rows * rows);
  for (const s of tool.slots) {
    const c = 6 * s;
    const w = [J[c + 3], J[c + 4], J[c + 5]].map((v) => v * probe.length);
    const about = (x: number, y: number, z: number): number => w[0] * x + w[1] * y + w[2] * z;
    const turned =
      keep === 'turn'
        ? w
        : keep === 'direction'
          ? [about(t[0], t[3], t[6]), about(t[1], t[4], t[7])]
          : keep === 'tilt'
            ? [level > 1e-9 ? about(-t[5] / level, t[2] / level, 0) : 0]
            : [];
    const column = [J[c], J[c + 1], J[c + 2], ...turned];
    for (let i = 0; i < rows; i++) for (let j = 0; j < rows; j++) gram[i * rows + j] += column[i] * column[j];
  }
  const values = symmetricEigenvalues(gram, rows);
  const most = Math.max(...values);
  return values.filter((v) => v > NO_RANK ** 2 * most).length;
}

/** What an arm keeps at least where nothing else is said: what its joints always can. */
export const leastOf = (mechanism: Mechanism, tool: CompiledTool): Keep => holdingOf(mechanism, tool).ladder.at(-1)!;

/** The pose nearest to `near` at which the tool stands at a frame, keeping as much as can be, at least `least`. */
export function poseKeeping(
  mechanism: Mechanism,
  tool: CompiledTool,
  frame: Float64Array,
  near: Float64Array,
  least: Keep,
): { readonly q: Float64Array; readonly keep: Keep } | null {
  for (const keep of keeps.slice(0, keeps.indexOf(least) + 1)) {
    const options = { explained: false, starts: GOAL_STARTS };
    const found = solveInverse(mechanism, tool, taskKeeping(frame, keep), near, options).solutions[0];
    if (found) return { q: found.q.slice(), keep };
  }
  return null;
}
const GOAL_STARTS = 16;
