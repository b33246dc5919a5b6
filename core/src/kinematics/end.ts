/**
 * One tool's share of an inverse kinematics question: its error against the task and the rows of its Jacobian, weighted.
 * Evaluating allocates nothing but on rare ways (half-turn errors, frames that move).
 */
import { rotationBetween, STRIDE, type Vec3 } from '../linear';
import type { CompiledTool, Mechanism } from '../mechanism';
import { AXIS_STRIDE, chainInto, chainOf, chainSpace, type Chain, type ChainSpace } from './chain';
import { framesInto, jacobianInto, kinematicsSpace, toolInto, type KinematicsSpace } from './forward';
import { NO_AIM, taskIn, type Carried, type Task } from './task';

/** Sine below which two directions have no cross product to turn about. */
const NO_CROSS = 1e-9;
/** Cosine below which a rotation is taken through quaternions: near half a turn the antisymmetric part vanishes. */
const HALF_TURN = -0.99;
/** Cost of a delta's pose that does not close: above that of any that does. */
const OPEN = 1e6;

/** Rough outer reach: the lengths along the path to the tool, plus the travel of slides (m). */
export function outerReach(mechanism: Mechanism, tool: CompiledTool): number {
  let sum = Math.hypot(tool.local[9], tool.local[10], tool.local[11]);
  if (mechanism.delta) return sum + mechanism.delta.upperArm + mechanism.delta.forearm;
  for (let j = tool.parent; j >= 0; j = mechanism.parent[j]) {
    const o = STRIDE * j;
    sum += Math.hypot(mechanism.local[o + 9], mechanism.local[o + 10], mechanism.local[o + 11]);
    const s = mechanism.slotOfJoint[j];
    if (s >= 0 && mechanism.units[j] === 'mm' && Number.isFinite(mechanism.upper[s] - mechanism.lower[s]))
      sum += mechanism.upper[s] - mechanism.lower[s];
  }
  return sum;
}

/** Frames and Jacobian of a tool on a delta, which is no chain. */
interface Loop {
  readonly space: KinematicsSpace;
  readonly jacobian: Float64Array;
}

/** A chain with its buffers and the column of each of its terms; −1 where that slot is held. */
interface Path {
  readonly chain: Chain;
  readonly space: ChainSpace;
  readonly columns: Int32Array;
}

export class End {
  /** Error of the last evaluation (m, rad), and what a unit of rotation weighs against one of position. */
  distance = Infinity;
  angle = Infinity;
  readonly length: number;
  /** Weighted error (6) and Jacobian rows of the last evaluation, six numbers a column. */
  readonly error = new Float64Array(6);
  readonly rows: Float64Array;

  private readonly own: Path;
  private readonly carrier: Path | null;
  private readonly loop: Loop | null;
  private readonly alone: boolean;
  /** The task in the world, at the pose last evaluated. */
  private world: Task | null = null;
  /** Distance (m) to and direction of a spot that is pointed at; for a tilt the axis that it is about. */
  private range = 1;
  private readonly towards = new Float64Array(3);

  constructor(
    private readonly mechanism: Mechanism,
    private readonly tool: CompiledTool,
    private readonly slots: Int32Array,
    on: Carried | undefined,
    rotationWeight: number,
    private readonly positionWeight: number,
  ) {
    const pathOf = (end: CompiledTool): Path => {
      const chain = chainOf(mechanism, end);
      return {
        chain,
        space: chainSpace(chain),
        columns: Int32Array.from(chain.termSlot, (s) => slots.indexOf(s)),
      };
    };
    this.own = pathOf(tool);
    this.carrier = on ? pathOf({ ...tool, parent: on.joint, local: on.local }) : null;
    const onPlatform = mechanism.delta !== null && tool.parent === mechanism.delta.platform;
    this.loop = onPlatform
      ? { space: kinematicsSpace(mechanism), jacobian: new Float64Array(6 * mechanism.m) }
      : null;
    const { chain, columns } = this.own;
    this.alone = !this.carrier && chain.direct && chain.count === slots.length && columns.every((c) => c >= 0);
    this.length = Math.max(outerReach(mechanism, tool) / 4, 1e-3) * rotationWeight;
    this.rows = new Float64Array(6 * slots.length);
  }

  /** Tool frame and weighted error at q; returns half the squared error and leaves the bare error in its fields. */
  evaluate(q: Float64Array, given: Task): number {
    const { loop, error, length, positionWeight, own, carrier } = this;
    const { tool } = own.space;
    if (loop) {
      framesInto(loop.space, this.mechanism, q);
      toolInto(tool, 0, this.mechanism, loop.space, this.tool);
    } else chainInto(own.space, own.chain, q);
    let task = given;
    if (carrier) {
      chainInto(carrier.space, carrier.chain, q);
      task = taskIn(carrier.space.tool, given);
    }
    this.world = task;
    let square = 0;
    if (task.kind === 'aim') {
      this.distance = error[0] = error[1] = error[2] = 0;
      this.aimError(task.at);
    } else {
      const p = task.position;
      const ex = p[0] - tool[9],
        ey = p[1] - tool[10],
        ez = p[2] - tool[11];
      square = ex * ex + ey * ey + ez * ez;
      this.distance = Math.sqrt(square);
      error[0] = positionWeight * ex;
      error[1] = positionWeight * ey;
      error[2] = positionWeight * ez;
      if (task.kind === 'direction') this.directionError(task.direction[0], task.direction[1], task.direction[2]);
      else if (task.kind === 'full') this.rotationError(task.rotation);
      else if (task.kind === 'tilt') this.tiltError(task.up, task.fromUp);
      else this.angle = error[3] = error[4] = error[5] = 0;
    }
    const cost =
      (positionWeight * positionWeight * square +
        length * length * (error[3] * error[3] + error[4] * error[4] + error[5] * error[5])) /
      2;
    error[3] *= length;
    error[4] *= length;
    error[5] *= length;
    return loop && loop.space.gap > 0 ? OPEN + loop.space.gap : cost;
  }

  /** Rotation vector that carries the tool's rotation onto `to` (world axes), in error[3…5]. */
  private rotationError(to: Float64Array): void {
    const { error } = this;
    const { tool: t } = this.own.space;
    const vx = (row(to, 6, t, 3) - row(to, 3, t, 6)) / 2;
    const vy = (row(to, 0, t, 6) - row(to, 6, t, 0)) / 2;
    const vz = (row(to, 3, t, 0) - row(to, 0, t, 3)) / 2;
    const sine = Math.sqrt(vx * vx + vy * vy + vz * vz);
    const cosine = (row(to, 0, t, 0) + row(to, 3, t, 3) + row(to, 6, t, 6) - 1) / 2;
    if (cosine < HALF_TURN) {
      const turn = rotationBetween(t, to);
      error[3] = turn[0];
      error[4] = turn[1];
      error[5] = turn[2];
      this.angle = Math.hypot(turn[0], turn[1], turn[2]);
      return;
    }
    this.angle = Math.atan2(sine, cosine);
    const f = sine > NO_CROSS ? this.angle / sine : 1;
    error[3] = vx * f;
    error[4] = vy * f;
    error[5] = vz * f;
  }

  /** The turn that carries the tool's Z onto (x, y, z), about the tool's own X and Y, in error[3] and error[4]. */
  private directionError(x: number, y: number, z: number): void {
    const { error } = this;
    const { tool: t } = this.own.space;
    const cx = t[5] * z - t[8] * y,
      cy = t[8] * x - t[2] * z,
      cz = t[2] * y - t[5] * x;
    const sine = Math.sqrt(cx * cx + cy * cy + cz * cz);
    this.angle = Math.atan2(sine, t[2] * x + t[5] * y + t[8] * z);
    error[5] = 0;
    if (sine > NO_CROSS) {
      const f = this.angle / sine;
      error[3] = f * (cx * t[0] + cy * t[3] + cz * t[6]);
      error[4] = f * (cx * t[1] + cy * t[4] + cz * t[7]);
    } else {
      // Half a turn away any axis across will do: the tool's own X is taken.
      error[3] = this.angle > 1 ? this.angle : 0;
      error[4] = 0;
    }
  }

  /** What is wanting of the tool's angle from `up`, about the axis that turns `up` towards its Z, in error[3]. */
  private tiltError(up: Vec3, fromUp: number): void {
    const { error, towards } = this;
    const { tool: t } = this.own.space;
    const x = up[1] * t[8] - up[2] * t[5],
      y = up[2] * t[2] - up[0] * t[8],
      z = up[0] * t[5] - up[1] * t[2];
    const sine = Math.sqrt(x * x + y * y + z * z);
    const wanting = fromUp - Math.atan2(sine, up[0] * t[2] + up[1] * t[5] + up[2] * t[8]);
    // Upright, any heading will do: the tool's own X is the axis.
    const upright = sine <= NO_CROSS;
    towards[0] = upright ? t[0] : x / sine;
    towards[1] = upright ? t[3] : y / sine;
    towards[2] = upright ? t[6] : z / sine;
    this.angle = Math.abs(wanting);
    error[3] = wanting;
    error[4] = error[5] = 0;
  }

  private aimError(at: Vec3): void {
    const { towards } = this;
    const { tool: t } = this.own.space;
    const x = at[0] - t[9],
      y = at[1] - t[10],
      z = at[2] - t[11];
    this.range = Math.max(NO_AIM, Math.sqrt(x * x + y * y + z * z));
    towards[0] = x / this.range;
    towards[1] = y / this.range;
    towards[2] = z / this.range;
    this.directionError(towards[0], towards[1], towards[2]);
  }

  /** Rows of the weighted Jacobian at the pose last evaluated, to `rows`; those that the task leaves free are 0. */
  jacobian(): void {
    const task = this.world!;
    if (this.loop) this.loopRows();
    else {
      const { own, carrier } = this;
      if (!this.alone) this.rows.fill(0);
      const { tool } = own.space;
      this.addRows(own, 1, task, tool[9], tool[10], tool[11]);
      if (carrier) {
        const p = task.kind === 'aim' ? task.at : task.position;
        this.addRows(carrier, -1, task, p[0], p[1], p[2]);
      }
    }
  }

  /** What the joints of a path do to the point p and the directions that move with it, times `sign`. */
  private addRows(path: Path, sign: 1 | -1, task: Task, px: number, py: number, pz: number): void {
    const { rows, length, positionWeight, alone, towards, range } = this;
    const { columns, chain } = path;
    const { axes } = path.space;
    const { tool } = this.own.space;
    const { count, turning, termStart, termFactor } = chain;
    const aim = task.kind === 'aim';
    const inTool = aim || task.kind === 'direction';
    const tilts = task.kind === 'tilt';
    const turns = task.kind === 'free' ? 0 : length;
    for (let i = 0; i < count; i++) {
      const at = AXIS_STRIDE * i;
      const zx = axes[at],
        zy = axes[at + 1],
        zz = axes[at + 2];
      let vx = zx,
        vy = zy,
        vz = zz,
        wx = 0,
        wy = 0,
        wz = 0;
      if (turning[i] === 1) {
        const dx = px - axes[at + 3],
          dy = py - axes[at + 4],
          dz = pz - axes[at + 5];
        vx = zy * dz - zz * dy;
        vy = zz * dx - zx * dz;
        vz = zx * dy - zy * dx;
        wx = zx;
        wy = zy;
        wz = zz;
      }
      if (aim) {
        // The spot's direction turns as the tool's point moves past it, or the spot past the point.
        const f = 1 / range;
        const ax = f * (towards[1] * vz - towards[2] * vy),
          ay = f * (towards[2] * vx - towards[0] * vz),
          az = f * (towards[0] * vy - towards[1] * vx);
        if (sign > 0) {
          wx += ax;
          wy += ay;
          wz += az;
        } else {
          // The spot is carried: only its own motion counts, not the carrier's turning.
          wx = ax;
          wy = ay;
          wz = az;
        }
        vx = vy = vz = 0;
      }
      wx *= turns;
      wy *= turns;
      wz *= turns;
      if (inTool) {
        const across = wx * tool[0] + wy * tool[3] + wz * tool[6];
        wy = wx * tool[1] + wy * tool[4] + wz * tool[7];
        wx = across;
        wz = 0;
      } else if (tilts) {
        wx = wx * towards[0] + wy * towards[1] + wz * towards[2];
        wy = wz = 0;
      }
      vx *= positionWeight;
      vy *= positionWeight;
      vz *= positionWeight;
      if (alone) {
        const c = 6 * columns[i];
        rows[c] = vx;
        rows[c + 1] = vy;
        rows[c + 2] = vz;
        rows[c + 3] = wx;
        rows[c + 4] = wy;
        rows[c + 5] = wz;
        continue;
      }
      for (let t = termStart[i]; t < termStart[i + 1]; t++) {
        if (columns[t] < 0) continue;
        const c = 6 * columns[t];
        const f = sign * termFactor[t];
        rows[c] += f * vx;
        rows[c + 1] += f * vy;
        rows[c + 2] += f * vz;
        rows[c + 3] += f * wx;
        rows[c + 4] += f * wy;
        rows[c + 5] += f * wz;
      }
    }
  }

  /** A delta's platform only shifts: three rows of position, none of rotation. */
  private loopRows(): void {
    const { rows, slots, positionWeight } = this;
    const { space, jacobian } = this.loop!;
    jacobianInto(jacobian, this.mechanism, space, this.tool, this.own.space.tool);
    rows.fill(0);
    for (let i = 0; i < slots.length; i++)
      for (let row = 0; row < 3; row++) rows[6 * i + row] = positionWeight * jacobian[6 * slots[i] + row];
  }
}

/** Row `i` of one rotation times row `j` of another. */
const row = (a: Float64Array, i: number, b: Float64Array, j: number): number =>
  a[i] * b[j] + a[i + 1] * b[j + 1] + a[i + 2] * b[j + 2];
