/**
 * Inverse dynamics of the whole tree: what joints have to give so that the arm moves as it is wanted to, and what its base bears. Recursive
 * Newton–Euler in world coordinates (Featherstone, *Rigid Body Dynamics Algorithms*, ch. 5; Craig, *Introduction to Robotics*, ch. 6);
 * followers and a delta's platform come in by virtual work. SI throughout: N·m for turning joints, N for sliding ones.
 */
import { apply, axisOf, positionOf, rotate, rotateBack, sincosAllInto, STRIDE, vec3, type Vec3 } from '../linear';
import {
  deltaAccel,
  seenIn,
  SLIDING,
  together,
  TURNING,
  type CompiledPlace,
  type CompiledTool,
  type Mechanism,
  type RigidBody,
} from '../mechanism';
import { GRAVITY } from '../units';
import {
  expandInto,
  framesInto,
  kinematicsSpace,
  platformCentre,
  platformJacobianInto,
  type KinematicsSpace,
} from '../kinematics';

/** What a tool holds, in the tool's frame. */
export interface Held {
  readonly tool: CompiledTool;
  readonly body: RigidBody;
}
/** What else is fixed to a joint's link (its aligned frame), or with −1 to the base. */
export interface Seated {
  readonly joint: number;
  readonly body: RigidBody;
}
/** Force (N) and moment about the world's origin (N·m), world axes. */
export interface Wrench {
  readonly force: Vec3;
  readonly moment: Vec3;
}

/** For one mechanism with what it holds; buffers are kept, so that nothing is allocated per pose of the `Into` functions. */
export class Dynamics {
  private readonly space: KinematicsSpace;
  /** All that is fixed to a joint's link, in its aligned frame: the link, tools on it, what those hold. */
  private readonly bodies: readonly RigidBody[];
  /** The same of the base, in the world. */
  private readonly still: RigidBody;
  /** Per joint (n): speed and acceleration of its value. */
  private readonly rate: Float64Array;
  private readonly gain: Float64Array;
  /** Per joint (3n), world: spin, its change, acceleration of the origin, force and moment about the origin that it passes on. */
  private readonly spin: Float64Array;
  private readonly turn: Float64Array;
  private readonly accel: Float64Array;
  private readonly force: Float64Array;
  private readonly moment: Float64Array;
  /** Per joint: mass of its link and all beyond it; first moment (3n, kg·m) of its link, and of all beyond it too; which way is up; its frame. */
  private readonly mass: Float64Array;
  private readonly own: Float64Array;
  private readonly first: Float64Array;
  private readonly up: Float64Array;
  private readonly jacobian: Float64Array;
  /** Platform of a delta, −1 for trees. */
  private readonly platform: number;
  /** First moment (kg·m, world) of all that weighs at the pose that {@link gravityInto} was asked last, the base among it; and its mass. */
  readonly borne = new Float64Array(3);
  readonly wholeMass: number;

  constructor(
    private readonly mechanism: Mechanism,
    held: readonly Held[] = [],
    seated: readonly Seated[] = [],
  ) {
    const { n, tools, bodies, baseBody, base } = mechanism;
    this.space = kinematicsSpace(mechanism);
    const on = (parent: number): RigidBody[] => [
      ...tools.filter((tool) => tool.mounted && tool.parent === parent).map(({ body, local }) => seenIn(body, local)),
      ...held.filter(({ tool }) => tool.parent === parent).map(({ tool, body }) => seenIn(body, tool.local)),
      ...seated.filter(({ joint }) => joint === parent).map(({ body }) => body),
    ];
    this.bodies = bodies.map((body, j) => together([body, ...on(j)]));
    this.still = seenIn(together([baseBody, ...on(-1)]), base);
    this.wholeMass = this.bodies.reduce((sum, body) => sum + body.mass, this.still.mass);
    this.rate = new Float64Array(n);
    this.gain = new Float64Array(n);
    const triples = (): Float64Array => new Float64Array(3 * n);
    [this.spin, this.turn, this.accel] = [triples(), triples(), triples()];
    [this.force, this.moment] = [triples(), triples()];
    [this.first, this.up] = [triples(), triples()];
    this.own = Float64Array.from(this.bodies.flatMap(({ mass, com }) => com.map((v) => mass * v)));
    this.mass = Float64Array.from(this.bodies, ({ mass }) => mass);
    for (let j = n - 1; j >= 0; j--) if (mechanism.parent[j] >= 0) this.mass[mechanism.parent[j]] += this.mass[j];
    this.jacobian = new Float64Array(18);
    this.platform = mechanism.delta?.platform ?? -1;
  }

  /** By how much (m) a delta's forearms are too short to meet at the pose that was asked last; 0 where they do, and for trees. */
  get gap(): number {
    return this.space.gap;
  }

  /**
   * Bending moment (N·m) that the weight of all beyond a joint has about a point of its axis, so far (m) below its origin, at the pose that
   * {@link gravityInto} was asked last. Of trees; springs are left out.
   */
  bendingOf(j: number, below: number): number {
    const { first, up, mass } = this;
    const t = 3 * j;
    const z = first[t + 2] + mass[j] * below;
    return GRAVITY * Math.hypot(first[t + 1] * up[t + 2] - z * up[t + 1], z * up[t] - first[t] * up[t + 2]);
  }

  /** Σ factor·v of every joint's own slots: what its value changes by when slots change by v. */
  private spreadInto(out: Float64Array, v: Float64Array): void {
    const { n, slotOfJoint, followStart, followSlot, followFactor } = this.mechanism;
    for (let j = 0; j < n; j++) {
      const slot = slotOfJoint[j];
      out[j] = slot >= 0 ? v[slot] : 0;
      if (slot >= 0) continue;
      for (let k = followStart[j]; k < followStart[j + 1]; k++) out[j] += followFactor[k] * v[followSlot[k]];
    }
  }
  /** Adds what a joint bears along its axis to the slots that it follows. */
  private shareInto(out: Float64Array, j: number, along: number): void {
    const { slotOfJoint, followStart, followSlot, followFactor } = this.mechanism;
    const slot = slotOfJoint[j];
    if (slot >= 0) out[slot] += along;
    else for (let k = followStart[j]; k < followStart[j + 1]; k++) out[followSlot[k]] += followFactor[k] * along;
  }
  /** Adds what motors of a delta give for a force (N, world) on its platform, which does not turn. */
  private platformInto(out: Float64Array, x: number, y: number, z: number): void {
    const { mechanism, jacobian, space } = this;
    platformJacobianInto(jacobian, mechanism, space, mechanism.delta!);
    for (let i = 0; i < 3; i++)
      this.shareInto(out, i, x * jacobian[6 * i] + y * jacobian[6 * i + 1] + z * jacobian[6 * i + 2]);
  }

  /** Adds what holds springs as they are tensed at the pose whose frames are known. */
  private springsInto(out: Float64Array): void {
    const { mechanism, space } = this;
    for (const spring of mechanism.springs)
      if (spring.kind === 'at-joint')
        this.shareInto(out, spring.joint, spring.stiffness * (space.all[spring.joint] - spring.slackAt));
      else {
        const [from, to] = [this.placeOf(spring.from), this.placeOf(spring.to)];
        const way = vec3.sub(to, from);
        const length = vec3.norm(way);
        if (!(length > spring.free)) continue;
        const pull = vec3.scale(way, (spring.stiffness * (length - spring.free)) / length);
        this.borneInto(out, spring.from.joint, from, vec3.scale(pull, -1));
        this.borneInto(out, spring.to.joint, to, pull);
      }
  }
  private placeOf({ joint, at: point }: CompiledPlace): Vec3 {
    return joint < 0 ? apply(this.mechanism.base, point) : apply(this.space.frames, point, STRIDE * joint);
  }
  /** Adds what joints give so that a force (N, world) acts at a point (world) of a link. */
  private borneInto(out: Float64Array, link: number, point: Vec3, force: Vec3): void {
    const { type, parent } = this.mechanism;
    const { frames } = this.space;
    for (let j = link; j >= 0; j = parent[j]) {
      const axis = axisOf(frames, 2, STRIDE * j);
      const arm = vec3.sub(point, positionOf(frames, STRIDE * j));
      if (type[j] === TURNING) this.shareInto(out, j, vec3.dot(axis, vec3.cross(arm, force)));
      else if (type[j] === SLIDING) this.shareInto(out, j, vec3.dot(axis, force));
    }
  }

  /**
   * Per slot (m): what holds the arm still at a pose (slots, SI) against its weight and its springs. In each joint's own frame, where all that
   * is asked for is which way is up (as Featherstone, ch. 5.4, has it): half the work of frames in the world, which only springs and deltas need.
   */
  gravityInto(out: Float64Array, q: Float64Array): void {
    const { mechanism, space, mass, first, own, up, platform, borne, still } = this;
    const { n, parent, type, local, base, springs } = mechanism;
    const { all, sc, frames } = space;
    if (platform >= 0 || springs.length) framesInto(space, mechanism, q);
    else {
      expandInto(all, mechanism, q);
      sincosAllInto(sc, all, n);
    }
    for (let j = 0; j < n; j++) {
      const o = STRIDE * j;
      const t = 3 * j;
      const p = parent[j];
      const a = p < 0 ? base[6] : up[3 * p];
      const b = p < 0 ? base[7] : up[3 * p + 1];
      const c = p < 0 ? base[8] : up[3 * p + 2];
      const x = local[o] * a + local[o + 3] * b + local[o + 6] * c;
      const y = local[o + 1] * a + local[o + 4] * b + local[o + 7] * c;
      up[t + 2] = local[o + 2] * a + local[o + 5] * b + local[o + 8] * c;
      if (type[j] === TURNING) {
        const sin = sc[2 * j];
        const cos = sc[2 * j + 1];
        up[t] = cos * x + sin * y;
        up[t + 1] = cos * y - sin * x;
      } else {
        up[t] = x;
        up[t + 1] = y;
      }
      first[t] = own[t];
      first[t + 1] = own[t + 1];
      first[t + 2] = own[t + 2];
    }
    out.fill(0);
    // What the base's own frame holds of the arm; it is turned into the world at the end.
    let [bx, by, bz] = [0, 0, 0];
    for (let j = n - 1; j >= 0; j--) {
      const o = STRIDE * j;
      const t = 3 * j;
      const m = mass[j];
      let fx = first[t];
      let fy = first[t + 1];
      let fz = first[t + 2];
      if (j === platform) {
        this.platformInto(out, 0, 0, m * GRAVITY);
        const at = rotateBack(base, [frames[o + 9] - base[9], frames[o + 10] - base[10], frames[o + 11] - base[11]]);
        bx += fx + m * at[0];
        by += fy + m * at[1];
        bz += fz + m * at[2];
        continue;
      }
      if (type[j] === TURNING) {
        this.shareInto(out, j, GRAVITY * (fx * up[t + 1] - fy * up[t]));
        const sin = sc[2 * j];
        const cos = sc[2 * j + 1];
        const x = fx;
        fx = cos * x - sin * fy;
        fy = sin * x + cos * fy;
      } else if (type[j] === SLIDING) {
        this.shareInto(out, j, GRAVITY * m * up[t + 2]);
        fz += m * all[j];
      }
      const x = local[o] * fx + local[o + 1] * fy + local[o + 2] * fz + m * local[o + 9];
      const y = local[o + 3] * fx + local[o + 4] * fy + local[o + 5] * fz + m * local[o + 10];
      const z = local[o + 6] * fx + local[o + 7] * fy + local[o + 8] * fz + m * local[o + 11];
      const p = 3 * parent[j];
      if (p < 0) {
        bx += x;
        by += y;
        bz += z;
      } else {
        first[p] += x;
        first[p + 1] += y;
        first[p + 2] += z;
      }
    }
    const arm = this.wholeMass - still.mass;
    for (let axis = 0; axis < 3; axis++) {
      const row = 3 * axis;
      borne[axis] =
        base[row] * bx +
        base[row + 1] * by +
        base[row + 2] * bz +
        arm * base[9 + axis] +
        still.mass * still.com[axis];
    }
    if (springs.length) this.springsInto(out);
  }

  /**
   * Per slot (m): what moves the arm by these speeds and accelerations of its slots (SI) at a pose; weight and springs are part of it. Returns what the
   * base bears: the force and moment that the ground has to give.
   */
  torquesInto(out: Float64Array, q: Float64Array, speeds: Float64Array, accels: Float64Array): Wrench {
    const { mechanism, space, bodies, rate, gain, force, moment, platform } = this;
    const { n, parent, type } = mechanism;
    const { frames } = space;
    framesInto(space, mechanism, q);
    this.spreadInto(rate, speeds);
    this.spreadInto(gain, accels);
    out.fill(0);
    for (let j = 0; j < n; j++) {
      if (j === platform) this.shift(j);
      else this.follow(j);
      this.bear(j, bodies[j]);
    }
    let total = weigh(this.still);
    for (let j = n - 1; j >= 0; j--) {
      const [f, t] = [at(force, j), at(moment, j)];
      const o = STRIDE * j;
      const axis = axisOf(frames, 2, o);
      if (j === platform) this.platformInto(out, f[0], f[1], f[2]);
      else if (type[j] === TURNING) this.shareInto(out, j, vec3.dot(t, axis));
      else if (type[j] === SLIDING) this.shareInto(out, j, vec3.dot(f, axis));
      const p = parent[j];
      const origin = positionOf(frames, STRIDE * j);
      if (p < 0) total = plus(total, { force: f, moment: vec3.add(t, vec3.cross(origin, f)) });
      else {
        add(force, p, f);
        add(moment, p, vec3.add(t, vec3.cross(vec3.sub(origin, positionOf(frames, STRIDE * p)), f)));
      }
    }
    if (mechanism.springs.length) this.springsInto(out);
    return total;
  }

  /** How a joint's frame moves by that of its parent and its own value. */
  private follow(j: number): void {
    const { mechanism, space, rate, gain, spin, turn, accel } = this;
    const { parent, type } = mechanism;
    const { frames } = space;
    const o = STRIDE * j;
    const axis = axisOf(frames, 2, o);
    const p = parent[j];
    let [w, dw, a]: Vec3[] = [ZERO, ZERO, ZERO];
    if (p >= 0) {
      const arm = vec3.sub(positionOf(frames, STRIDE * j), positionOf(frames, STRIDE * p));
      [w, dw] = [at(spin, p), at(turn, p)];
      a = vec3.add(at(accel, p), vec3.add(vec3.cross(dw, arm), vec3.cross(w, vec3.cross(w, arm))));
    }
    if (type[j] === TURNING) {
      dw = vec3.add(dw, vec3.add(vec3.scale(axis, gain[j]), vec3.scale(vec3.cross(w, axis), rate[j])));
      w = vec3.add(w, vec3.scale(axis, rate[j]));
    } else if (type[j] === SLIDING)
      a = vec3.add(a, vec3.add(vec3.scale(axis, gain[j]), vec3.scale(vec3.cross(w, axis), 2 * rate[j])));
    put(spin, j, w);
    put(turn, j, dw);
    put(accel, j, a);
  }
  /** How the platform of a delta moves, which its motors shift and never turn. */
  private shift(j: number): void {
    const { mechanism, space, rate, gain, jacobian, spin, turn, accel } = this;
    const { delta, base } = mechanism;
    platformJacobianInto(jacobian, mechanism, space, delta!);
    const v = [0, 1, 2].map((row) => [0, 1, 2].reduce((sum, i) => sum + jacobian[6 * i + row] * rate[i], 0));
    const centre = platformCentre(mechanism, space, delta!);
    const a = deltaAccel(delta!, space.all, rate, gain, centre, rotateBack(base, [v[0], v[1], v[2]]));
    put(spin, j, ZERO);
    put(turn, j, ZERO);
    put(accel, j, rotate(base, a ?? ZERO));
  }
  /** What a joint's own body takes so that it moves as its frame does (Newton and Euler), about the frame's origin. */
  private bear(j: number, { mass, com, inertia }: RigidBody): void {
    const { space, spin, turn, accel, force, moment } = this;
    const { frames } = space;
    const [w, dw] = [at(spin, j), at(turn, j)];
    const o = STRIDE * j;
    const arm = rotate(frames, com, o);
    const a = vec3.add(at(accel, j), vec3.add(vec3.cross(dw, arm), vec3.cross(w, vec3.cross(w, arm))));
    const f = vec3.scale([a[0], a[1], a[2] + GRAVITY], mass);
    const spun = vec3.add(throughBody(frames, o, inertia, dw), vec3.cross(w, throughBody(frames, o, inertia, w)));
    put(force, j, f);
    put(moment, j, vec3.add(spun, vec3.cross(arm, f)));
  }
}

const ZERO: Vec3 = [0, 0, 0];
const at = (list: Float64Array, j: number): Vec3 => [list[3 * j], list[3 * j + 1], list[3 * j + 2]];
function put(list: Float64Array, j: number, v: Vec3): void {
  for (let axis = 0; axis < 3; axis++) list[3 * j + axis] = v[axis];
}
function add(list: Float64Array, j: number, v: Vec3): void {
  for (let axis = 0; axis < 3; axis++) list[3 * j + axis] += v[axis];
}
/** I·w of a body whose inertia stands along the axes of the frame at `o`, for w in the world. */
function throughBody(r: Float64Array, o: number, [xx, yy, zz, xy, xz, yz]: RigidBody['inertia'], w: Vec3): Vec3 {
  const [x, y, z] = rotateBack(r, w, o);
  return rotate(r, [xx * x + xy * y + xz * z, xy * x + yy * y + yz * z, xz * x + yz * y + zz * z], o);
}
/** What holds a body up that stands still, as it is known in the world. */
function weigh({ mass, com }: RigidBody): Wrench {
  const force: Vec3 = [0, 0, mass * GRAVITY];
  return { force, moment: vec3.cross(com, force) };
}
const plus = (a: Wrench, b: Wrench): Wrench => ({
  force: vec3.add(a.force, b.force),
  moment: vec3.add(a.moment, b.moment),
});
