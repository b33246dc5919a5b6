/**
 * Which pairs of parts have to be looked at along a motion, and when. A pair that is apart cannot touch before its parts have
 * come as far towards each other as they are apart (conservative advancement: Mirtich 1996, *Impulse-based Dynamic Simulation*,
 * sec. 2.3); what is close is looked at whenever it may have moved by {@link STRIDE_M}.
 */
import { forward } from '../kinematics';
import { positionOf, vec3 } from '../linear';
import { FIXED, SLIDING, type Mechanism } from '../mechanism';
import type { ContactScene, Part } from './parts';
import { clearanceOf, Placing, type Placed } from './placed';

/** Way (m) that two parts may go towards each other between two looks where they are close. */
export const STRIDE_M = 0.002;

/** Bound (m per rad or m) on how far any part of a closed loop moves for each slot: what spans the arm, for its turns. */
export function reachOfSlots(
  { mechanism, parts }: Pick<ContactScene, 'mechanism' | 'parts'>,
  q: Float64Array,
): Float64Array {
  const frames = forward(mechanism, q);
  const points = [...frames.joints.values(), ...frames.tools.values()].map((f) => positionOf(f));
  let span = 0;
  for (const p of points) for (const other of points) span = Math.max(span, vec3.distance(p, other));
  // What is held reaches further than the tool.
  let beyond = 0;
  for (const { held, solid } of parts)
    if (held !== undefined && solid.kind === 'filled') beyond = Math.max(beyond, vec3.norm(solid.half) * 2);
  span += beyond;
  return Float64Array.from({ length: mechanism.m }, (_, s) =>
    mechanism.units[mechanism.jointOfSlot[s]] === 'mm' ? 1 : span,
  );
}

/** Joints from the one that both parts hang on, out to each of them: what moves one against the other. */
function between({ parent, type }: Mechanism, a: Part, b: Part): { joint: number; part: 0 | 1 }[] {
  const up = (joint: number): number[] => {
    const path: number[] = [];
    for (let at = joint; at >= 0; at = parent[at]) path.push(at);
    return path;
  };
  const [pa, pb] = [up(a.joint), up(b.joint)];
  const own = (path: number[], other: number[], part: 0 | 1) =>
    path.filter((joint) => !other.includes(joint) && type[joint] !== FIXED).map((joint) => ({ joint, part }));
  return [...own(pa, pb, 0), ...own(pb, pa, 1)];
}

export class PairWatch {
  /** Joints of pair k: entries start[k] … start[k + 1] − 1; each moves part `side` (0, 1) of it by `radius` m per rad or m. */
  private readonly start: Int32Array;
  private readonly joint: Int32Array;
  private readonly side: Uint8Array;
  private readonly radius: Float64Array;
  /** How far (m) each pair may still go, and whether that was found at the pose at hand. */
  private readonly left: Float64Array;
  private readonly fresh: Uint8Array;
  /** Closed loops do not move joint by joint; what bounds them is one sum for all. */
  private readonly loose: Float64Array | null;

  private readonly placing: Placing;
  private isPlaced = false;
  private readonly here: Float64Array;
  /** How far (rad or m) each joint goes on the way that is considered. */
  private readonly moves: Float64Array;
  private looseMove = 0;

  constructor(
    private readonly scene: ContactScene,
    q: Float64Array,
  ) {
    const { mechanism, parts, pairs } = scene;
    const paths = pairs.map(([i, j]) => (mechanism.delta ? [] : between(mechanism, parts[i], parts[j])));
    this.start = new Int32Array(pairs.length + 1);
    paths.forEach((path, k) => (this.start[k + 1] = this.start[k] + path.length));
    const flat = paths.flat();
    this.joint = Int32Array.from(flat, ({ joint }) => joint);
    this.side = Uint8Array.from(flat, ({ part }) => part);
    this.radius = new Float64Array(flat.length);
    this.left = new Float64Array(pairs.length);
    this.fresh = new Uint8Array(pairs.length);
    this.loose = mechanism.delta && reachOfSlots(scene, q);
    this.placing = new Placing(mechanism, parts);
    this.here = q.slice();
    this.moves = new Float64Array(mechanism.n);
  }

  /** Where the parts are here. */
  private placed(index: number): Placed {
    if (!this.isPlaced) this.placing.at(this.here);
    this.isPlaced = true;
    return this.placing.part(index);
  }

  /** The two parts of a pair, both where they are here. */
  parts(pair: number): readonly [Placed, Placed] {
    const [i, j] = this.scene.pairs[pair];
    return [this.placed(i), this.placed(j)];
  }

  /** Looks how far a pair may go from here; gives how far (m) it is apart at least. */
  look(pair: number): number {
    const { mechanism } = this.scene;
    const [a, b] = this.parts(pair);
    const apart = clearanceOf(a, b);
    let most = 0;
    for (let e = this.start[pair]; e < this.start[pair + 1]; e++) {
      const joint = this.joint[e];
      const { ball } = this.side[e] ? b : a;
      this.radius[e] =
        mechanism.type[joint] === SLIDING || !ball
          ? 1
          : vec3.distance(this.placing.axisPoint(joint), ball.centre) + ball.radius;
      most = Math.max(most, this.radius[e]);
    }
    // On its way a part may come to stand further from an axis, by as much as it goes.
    const may = Math.max(STRIDE_M, this.loose ? 0 : Math.min(apart, most / 2));
    for (let e = this.start[pair]; e < this.start[pair + 1]; e++)
      if (mechanism.type[this.joint[e]] !== SLIDING) this.radius[e] += may;
    this.left[pair] = may;
    this.fresh[pair] = 1;
    return apart;
  }
  /** Whether a pair was looked at where it is now. */
  isFresh(pair: number): boolean {
    return this.fresh[pair] === 1;
  }

  /**
   * Considers going on to `q` in `dt` s, with the slots' speeds here and there: what joints do in between is no less than what they
   * end up at, and no less than by their speeds, should they turn back on the way.
   */
  consider(q: Float64Array, speedHere: Float64Array, speedThere: Float64Array, dt: number): void {
    const { mechanism } = this.scene;
    const { n, m, slotOfJoint, followStart, followSlot, followFactor } = mechanism;
    const slotMove = (s: number): number =>
      Math.max(Math.abs(q[s] - this.here[s]), ((Math.abs(speedHere[s]) + Math.abs(speedThere[s])) / 2) * dt);
    for (let j = 0; j < n; j++) {
      const slot = slotOfJoint[j];
      if (slot >= 0) {
        this.moves[j] = slotMove(slot);
        continue;
      }
      let move = 0;
      for (let k = followStart[j]; k < followStart[j + 1]; k++)
        move += Math.abs(followFactor[k]) * slotMove(followSlot[k]);
      this.moves[j] = move;
    }
    if (!this.loose) return;
    this.looseMove = 0;
    for (let s = 0; s < m; s++) this.looseMove += slotMove(s) * this.loose[s];
  }
  /** How far (m) the parts of a pair may come towards each other on the way that is considered. */
  wayOf(pair: number): number {
    if (this.loose) return this.looseMove;
    let way = 0;
    for (let e = this.start[pair]; e < this.start[pair + 1]; e++) way += this.moves[this.joint[e]] * this.radius[e];
    return way;
  }
  leftOf(pair: number): number {
    return this.left[pair];
  }
  /** Goes the way that is considered, to `q`. */
  go(q: Float64Array): void {
    for (let pair = 0; pair < this.left.length; pair++) {
      const way = this.wayOf(pair);
      this.left[pair] -= way;
      if (way > 0) this.fresh[pair] = 0;
    }
    this.here.set(q);
    this.isPlaced = false;
  }
}
