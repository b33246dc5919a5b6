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
    const { mass: stillMass, com } = this.still;
    // Of the base at first: what holds it up that stands still.
    let [fx, fy, fz] = [0, 0, stillMass * GRAVITY];
    let [mx, my, mz] = [com[1] * fz, -com[0] * fz, 0];
    for (let j = n - 1; j >= 0; j--) {
      const o = STRIDE * j;
      const t = 3 * j;
      const [x, y, z] = [force[t], force[t + 1], force[t + 2]];
      if (j === platform) this.platformInto(out, x, y, z);
      else if (type[j] === TURNING)
        this.shareInto(
          out,
          j,
          frames[o + 2] * moment[t] + frames[o + 5] * moment[t + 1] + frames[o + 8] * moment[t + 2],
        );
      else if (type[j] === SLIDING) this.shareInto(out, j, frames[o + 2] * x + frames[o + 5] * y + frames[o + 8] * z);
      const p = parent[j];
      let [rx, ry, rz] = [frames[o + 9], frames[o + 10], frames[o + 11]];
      if (p >= 0) {
        rx -= frames[STRIDE * p + 9];
        ry -= frames[STRIDE * p + 10];
        rz -= frames[STRIDE * p + 11];
      }
      const [tx, ty, tz] = [
        moment[t] + ry * z - rz * y,
        moment[t + 1] + rz * x - rx * z,
        moment[t + 2] + rx * y - ry * x,
      ];
      if (p < 0) {
        [fx, fy, fz] = [fx + x, fy + y, fz + z];
        [mx, my, mz] = [mx + tx, my + ty, mz + tz];
        continue;
      }
      force[3 * p] += x;
      force[3 * p + 1] += y;
      force[3 * p + 2] += z;
      moment[3 * p] += tx;
      moment[3 * p + 1] += ty;
      moment[3 * p + 2] += tz;
    }
    if (mechanism.springs.length) this.springsInto(out);
    return { force: [fx, fy, fz], moment: [mx, my, mz] };
  }

  /** How a joint's frame moves by that of its parent and its own value. In single numbers: it is asked for at every look along a routine. */
  private follow(j: number): void {
    const { mechanism, space, rate, gain, spin, turn, accel } = this;
    const { parent, type } = mechanism;
    const { frames } = space;
    const o = STRIDE * j;
    const t = 3 * j;
    const p = parent[j];
    let [wx, wy, wz, dx, dy, dz, ax, ay, az] = [0, 0, 0, 0, 0, 0, 0, 0, 0];
    if (p >= 0) {
      const [u, v] = [STRIDE * p, 3 * p];
      const [rx, ry, rz] = [
        frames[o + 9] - frames[u + 9],
        frames[o + 10] - frames[u + 10],
        frames[o + 11] - frames[u + 11],
      ];
      [wx, wy, wz, dx, dy, dz] = [spin[v], spin[v + 1], spin[v + 2], turn[v], turn[v + 1], turn[v + 2]];
      const [cx, cy, cz] = [wy * rz - wz * ry, wz * rx - wx * rz, wx * ry - wy * rx];
      ax = accel[v] + dy * rz - dz * ry + wy * cz - wz * cy;
      ay = accel[v + 1] + dz * rx - dx * rz + wz * cx - wx * cz;
      az = accel[v + 2] + dx * ry - dy * rx + wx * cy - wy * cx;
    }
    const [x, y, z] = [frames[o + 2], frames[o + 5], frames[o + 8]];
    const [by, to] = [rate[j], gain[j]];
    // The axis, as the link before it turns it along.
    const [sx, sy, sz] = [wy * z - wz * y, wz * x - wx * z, wx * y - wy * x];
    if (type[j] === TURNING) {
      [dx, dy, dz] = [dx + x * to + sx * by, dy + y * to + sy * by, dz + z * to + sz * by];
      [wx, wy, wz] = [wx + x * by, wy + y * by, wz + z * by];
    } else if (type[j] === SLIDING)
      [ax, ay, az] = [ax + x * to + 2 * sx * by, ay + y * to + 2 * sy * by, az + z * to + 2 * sz * by];
    spin[t] = wx;
    spin[t + 1] = wy;
    spin[t + 2] = wz;
    turn[t] = dx;
    turn[t + 1] = dy;
    turn[t + 2] = dz;
    accel[t] = ax;
    accel[t + 1] = ay;
    accel[t + 2] = az;
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
    const r = space.frames;
    const o = STRIDE * j;
    const t = 3 * j;
    const [wx, wy, wz, dx, dy, dz] = [spin[t], spin[t + 1], spin[t + 2], turn[t], turn[t + 1], turn[t + 2]];
    const rx = r[o] * com[0] + r[o + 1] * com[1] + r[o + 2] * com[2];
    const ry = r[o + 3] * com[0] + r[o + 4] * com[1] + r[o + 5] * com[2];
    const rz = r[o + 6] * com[0] + r[o + 7] * com[1] + r[o + 8] * com[2];
    const [cx, cy, cz] = [wy * rz - wz * ry, wz * rx - wx * rz, wx * ry - wy * rx];
    const fx = mass * (accel[t] + dy * rz - dz * ry + wy * cz - wz * cy);
    const fy = mass * (accel[t + 1] + dz * rx - dx * rz + wz * cx - wx * cz);
    const fz = mass * (accel[t + 2] + dx * ry - dy * rx + wx * cy - wy * cx + GRAVITY);
    force[t] = fx;
    force[t + 1] = fy;
    force[t + 2] = fz;
    // Inertia stands along the frame's axes: spin and its change are seen there, and what they take is turned back.
    const [xx, yy, zz, xy, xz, yz] = inertia;
    const [ux, uy, uz] = [
      r[o] * wx + r[o + 3] * wy + r[o + 6] * wz,
      r[o + 1] * wx + r[o + 4] * wy + r[o + 7] * wz,
      r[o + 2] * wx + r[o + 5] * wy + r[o + 8] * wz,
    ];
    const [vx, vy, vz] = [
      r[o] * dx + r[o + 3] * dy + r[o + 6] * dz,
      r[o + 1] * dx + r[o + 4] * dy + r[o + 7] * dz,
      r[o + 2] * dx + r[o + 5] * dy + r[o + 8] * dz,
    ];
    const [hx, hy, hz] = [xx * ux + xy * uy + xz * uz, xy * ux + yy * uy + yz * uz, xz * ux + yz * uy + zz * uz];
    const nx = xx * vx + xy * vy + xz * vz + uy * hz - uz * hy;
    const ny = xy * vx + yy * vy + yz * vz + uz * hx - ux * hz;
    const nz = xz * vx + yz * vy + zz * vz + ux * hy - uy * hx;
    moment[t] = r[o] * nx + r[o + 1] * ny + r[o + 2] * nz + ry * fz - rz * fy;
    moment[t + 1] = r[o + 3] * nx + r[o + 4] * ny + r[o + 5] * nz + rz * fx - rx * fz;
    moment[t + 2] = r[o + 6] * nx + r[o + 7] * ny + r[o + 8] * nz + rx * fy - ry * fx;
  }
}

const ZERO: Vec3 = [0, 0, 0];
function put(list: Float64Array, j: number, v: Vec3): void {
  for (let axis = 0; axis < 3; axis++) list[3 * j + axis] = v[axis];
}
