/**
 * Inverse kinematics of any tree by damped least squares with the joint limits inside the iteration.
 *
 * What a solve needs is laid out once in a {@link NumericSolver}; solving allocates nothing but on rare ways (half-turn
 * errors). Each step is a box-constrained Levenberg–Marquardt step: damping grows with the squared error (Sugihara 2011), joints
 * whose step crosses a bound are fixed there and the rest solved again, a fixed joint whose gradient points inward is
 * freed (active set; Nocedal & Wright, *Numerical Optimization*, ch. 16.7). Rotation rows are scaled by a
 * characteristic length (a quarter of the outer reach), columns by the joint's range.
 *
 * The error of a direction is angle × axis, taken in the two axes perpendicular to the tool's Z; at half a turn, where
 * the axis is not defined, the tool's own X is taken.
 */
import { choleskySolveInto, rotationBetween, STRIDE, type Vec3 } from '../linear';
import type { CompiledTool, Mechanism } from '../mechanism';
import { AXIS_STRIDE, chainInto, chainOf, chainSpace, type Chain, type ChainSpace } from './chain';
import { framesInto, jacobianInto, kinematicsSpace, toolInto, type KinematicsSpace } from './forward';
import { HIT_M, HIT_RAD, type Task } from './task';

export interface NumericOptions {
  /** Keep joints inside their limits; default true. */
  limits?: boolean;
  /** Weight of the rotation rows against position; default 1 (then scaled by the characteristic length). */
  rotationWeight?: number;
  positionWeight?: number;
  maxIterations?: number;
}

export interface NumericResult {
  q: Float64Array;
  distance: number;
  angle: number;
  iterations: number;
}

/** A solve ends where it is this share of a hit: the last step before then is quadratic and lands far inside. */
const ENOUGH = 0.1;
/** Step (rad or m) below which nothing is gained by another one. */
const DONE = 1e-10;
/** Share of the squared error used as damping. */
const DAMPING = 4e-2;
const FLOOR = 1e-14;
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

export class NumericSolver {
  /** Error of the last solve. */
  distance = Infinity;
  angle = Infinity;
  iterations = 0;

  private readonly k: number;
  private readonly slots: Int32Array;
  /** Column of each term of the chain. */
  private readonly columns: Int32Array;
  private readonly chain: Chain;
  private readonly space: ChainSpace;
  private readonly loop: Loop | null;
  private readonly length: number;
  private readonly positionWeight: number;
  private readonly maxIterations: number;
  private readonly low: Float64Array;
  private readonly high: Float64Array;
  /** 1 / (half range)² of each column: what a unit of damping weighs there. */
  private readonly weight: Float64Array;
  private readonly error = new Float64Array(6);
  private readonly rows: Float64Array;
  private readonly h: Float64Array;
  private readonly g: Float64Array;
  private readonly a: Float64Array;
  private readonly b: Float64Array;
  private readonly step: Float64Array;
  private readonly fixed: Uint8Array;
  private readonly free: Int32Array;
  private readonly trial: Float64Array;

  constructor(
    private readonly mechanism: Mechanism,
    private readonly tool: CompiledTool,
    { limits = true, rotationWeight = 1, positionWeight = 1, maxIterations = 80 }: NumericOptions = {},
  ) {
    const { slots } = tool;
    const k = slots.length;
    this.k = k;
    this.slots = slots;
    this.chain = chainOf(mechanism, tool);
    this.space = chainSpace(this.chain);
    const onPlatform = mechanism.delta !== null && tool.parent === mechanism.delta.platform;
    this.loop = onPlatform
      ? { space: kinematicsSpace(mechanism), jacobian: new Float64Array(6 * mechanism.m) }
      : null;
    this.columns = Int32Array.from(this.chain.termSlot, (s) => slots.indexOf(s));
    this.length = Math.max(outerReach(mechanism, tool) / 4, 1e-3) * rotationWeight;
    this.positionWeight = positionWeight;
    this.maxIterations = maxIterations;
    this.low = Float64Array.from(slots, (s) => (limits ? mechanism.lower[s] : -Infinity));
    this.high = Float64Array.from(slots, (s) => (limits ? mechanism.upper[s] : Infinity));
    this.weight = Float64Array.from(slots, (s) => 1 / columnScale(mechanism, s) ** 2);
    this.rows = new Float64Array(6 * k);
    this.h = new Float64Array(k * k);
    this.g = new Float64Array(k);
    this.a = new Float64Array(k * k);
    this.b = new Float64Array(k);
    this.step = new Float64Array(k);
    this.fixed = new Uint8Array(k);
    this.free = new Int32Array(k);
    this.trial = new Float64Array(mechanism.m);
  }

  /**
   * Solves the task from q (slots, SI), which is overwritten with the best pose found; joints off the tool's path keep
   * their values. Whether it hits is for `distance` (m) and `angle` (rad) to say.
   */
  solveInto(q: Float64Array, task: Task): void {
    const { k, slots, low, high, step, trial, h, weight } = this;
    for (let i = 0; i < k; i++) q[slots[i]] = Math.min(high[i], Math.max(low[i], q[slots[i]]));
    let cost = this.evaluate(q, task);
    let boost = 1;
    this.iterations = 0;
    trial.set(q);
    while (this.iterations < this.maxIterations) {
      if (this.distance < HIT_M * ENOUGH && this.angle < HIT_RAD * ENOUGH) return;
      this.iterations++;
      this.normalEquations(task);
      let trace = 0;
      for (let i = 0; i < k; i++) trace += h[i * k + i] / weight[i];
      trace /= k;
      const damping =
        boost *
        ((DAMPING * 2 * cost * Math.max(trace, FLOOR)) / Math.max(this.length * this.length, 1e-9) +
          FLOOR * Math.max(trace, 1));
      this.boxStep(q, damping);
      let moved = 0;
      for (let i = 0; i < k; i++) {
        trial[slots[i]] = Math.min(high[i], Math.max(low[i], q[slots[i]] + step[i]));
        moved = Math.max(moved, Math.abs(step[i]));
      }
      const trialCost = this.evaluate(trial, task);
      if (trialCost < cost) {
        const gained = cost - trialCost;
        for (let i = 0; i < k; i++) q[slots[i]] = trial[slots[i]];
        cost = trialCost;
        boost = Math.max(boost / 6, 1e-3);
        if (moved < DONE || gained < 1e-14 * cost) return;
      } else {
        // Back to the accepted pose with more damping.
        this.evaluate(q, task);
        boost *= 8;
        if (moved < DONE || boost > 1e12) return;
      }
    }
  }

  /** Tool frame and weighted error at q; returns half the squared error and leaves the bare error in its fields. */
  private evaluate(q: Float64Array, task: Task): number {
    const { loop, error, length, positionWeight } = this;
    const { tool } = this.space;
    if (loop) {
      framesInto(loop.space, this.mechanism, q);
      toolInto(tool, 0, this.mechanism, loop.space, this.tool);
    } else chainInto(this.space, this.chain, q);
    const p = task.position;
    const ex = p[0] - tool[9],
      ey = p[1] - tool[10],
      ez = p[2] - tool[11];
    const square = ex * ex + ey * ey + ez * ez;
    this.distance = Math.sqrt(square);
    error[0] = positionWeight * ex;
    error[1] = positionWeight * ey;
    error[2] = positionWeight * ez;
    if (task.kind === 'direction') this.directionError(task.direction);
    else if (task.kind === 'full') this.rotationError(task.rotation);
    else this.angle = error[3] = error[4] = error[5] = 0;
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
    const { tool: t } = this.space;
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

  /** The turn that carries the tool's Z onto `to`, about the tool's own X and Y, in error[3] and error[4]. */
  private directionError(to: Vec3): void {
    const { error } = this;
    const { tool: t } = this.space;
    const cx = t[5] * to[2] - t[8] * to[1],
      cy = t[8] * to[0] - t[2] * to[2],
      cz = t[2] * to[1] - t[5] * to[0];
    const sine = Math.sqrt(cx * cx + cy * cy + cz * cz);
    this.angle = Math.atan2(sine, t[2] * to[0] + t[5] * to[1] + t[8] * to[2]);
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

  /** H = JᵀJ and g = Jᵀe of the task's weighted rows, at the pose last evaluated. */
  private normalEquations(task: Task): void {
    const { k, rows, h, g, error } = this;
    const r = task.kind === 'free' ? 3 : task.kind === 'direction' ? 5 : 6;
    if (this.loop) this.loopRows();
    else this.chainRows(task);
    const e0 = error[0],
      e1 = error[1],
      e2 = error[2],
      e3 = r > 3 ? error[3] : 0,
      e4 = r > 3 ? error[4] : 0,
      e5 = r > 5 ? error[5] : 0;
    for (let i = 0; i < k; i++) {
      const ci = 6 * i;
      const r0 = rows[ci],
        r1 = rows[ci + 1],
        r2 = rows[ci + 2],
        r3 = rows[ci + 3],
        r4 = rows[ci + 4],
        r5 = rows[ci + 5];
      g[i] = r0 * e0 + r1 * e1 + r2 * e2 + r3 * e3 + r4 * e4 + r5 * e5;
      for (let j = 0; j <= i; j++) {
        const cj = 6 * j;
        const sum =
          r > 3
            ? r0 * rows[cj] +
              r1 * rows[cj + 1] +
              r2 * rows[cj + 2] +
              r3 * rows[cj + 3] +
              r4 * rows[cj + 4] +
              r5 * rows[cj + 5]
            : r0 * rows[cj] + r1 * rows[cj + 1] + r2 * rows[cj + 2];
        h[i * k + j] = sum;
        h[j * k + i] = sum;
      }
    }
  }

  private chainRows(task: Task): void {
    const { rows, columns, chain, length, positionWeight } = this;
    const { axes, tool } = this.space;
    const { count, direct, turning, termStart, termFactor } = chain;
    if (!direct || count !== this.k) rows.fill(0);
    const tx = tool[9],
      ty = tool[10],
      tz = tool[11];
    const alone = direct && count === this.k;
    const inTool = task.kind === 'direction';
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
        const dx = tx - axes[at + 3],
          dy = ty - axes[at + 4],
          dz = tz - axes[at + 5];
        vx = zy * dz - zz * dy;
        vy = zz * dx - zx * dz;
        vz = zx * dy - zy * dx;
        wx = length * zx;
        wy = length * zy;
        wz = length * zz;
        if (inTool) {
          const across = wx * tool[0] + wy * tool[3] + wz * tool[6];
          wy = wx * tool[1] + wy * tool[4] + wz * tool[7];
          wx = across;
          wz = 0;
        }
      }
      for (let t = termStart[i]; t < termStart[i + 1]; t++) {
        const c = 6 * columns[t];
        const f = termFactor[t];
        const fp = f * positionWeight;
        if (alone) {
          rows[c] = fp * vx;
          rows[c + 1] = fp * vy;
          rows[c + 2] = fp * vz;
          rows[c + 3] = f * wx;
          rows[c + 4] = f * wy;
          rows[c + 5] = f * wz;
        } else {
          rows[c] += fp * vx;
          rows[c + 1] += fp * vy;
          rows[c + 2] += fp * vz;
          rows[c + 3] += f * wx;
          rows[c + 4] += f * wy;
          rows[c + 5] += f * wz;
        }
      }
    }
  }

  /** A delta's platform only shifts: three rows of position, none of rotation. */
  private loopRows(): void {
    const { rows, slots, positionWeight, k } = this;
    const { space, jacobian } = this.loop!;
    jacobianInto(jacobian, this.mechanism, space, this.tool, this.space.tool);
    rows.fill(0);
    for (let i = 0; i < k; i++)
      for (let row = 0; row < 3; row++) rows[6 * i + row] = positionWeight * jacobian[6 * slots[i] + row];
  }

  /** Room of column i from q to its upper or lower bound. */
  private room(q: Float64Array, i: number, upper: boolean): number {
    return (upper ? this.high[i] : this.low[i]) - q[this.slots[i]];
  }

  /** The minimiser of ½|J·d − e|² + ½λ·Σ wᵢdᵢ² within the box, by an active set; d to `step`. */
  private boxStep(q: Float64Array, damping: number): void {
    const { k, h, g, a, b, step, fixed, free, weight } = this;
    step.fill(0);
    for (let i = 0; i < k; i++)
      fixed[i] = Number((this.room(q, i, true) <= 0 && g[i] > 0) || (this.room(q, i, false) >= 0 && g[i] < 0));
    for (let pass = 0; pass < 3 * k + 2; pass++) {
      let f = 0;
      for (let i = 0; i < k; i++) if (fixed[i] === 0) free[f++] = i;
      for (let r = 0; r < f; r++) {
        const i = free[r];
        let rhs = g[i];
        if (f < k) for (let j = 0; j < k; j++) if (fixed[j] === 1) rhs -= h[i * k + j] * step[j];
        b[r] = rhs;
        for (let c = 0; c <= r; c++) a[r * f + c] = h[i * k + free[c]];
        a[r * f + r] += damping * weight[i];
      }
      if (f && !choleskySolveInto(a, b, f)) {
        step.fill(0);
        return;
      }
      let crossed = false;
      for (let r = 0; r < f; r++) {
        const i = free[r];
        const up = this.room(q, i, true);
        const down = this.room(q, i, false);
        step[i] = b[r] > up ? Math.max(0, up) : b[r] < down ? Math.min(0, down) : b[r];
        if (b[r] <= up && b[r] >= down) continue;
        fixed[i] = 1;
        crossed = true;
      }
      if (crossed) continue;
      if (f === k || pass > 2 * k) return;
      // Free the fixed joint whose gradient points inward the most.
      let best = -1;
      let pull = 1e-12;
      for (let i = 0; i < k; i++) {
        if (fixed[i] === 0) continue;
        let gradient = g[i] - damping * weight[i] * step[i];
        for (let j = 0; j < k; j++) gradient -= h[i * k + j] * step[j];
        const inward = step[i] >= this.room(q, i, true) - 1e-15 ? -gradient : gradient;
        if (inward > pull) {
          pull = inward;
          best = i;
        }
      }
      if (best < 0) return;
      fixed[best] = 0;
    }
  }
}

/** Row `i` of one rotation times row `j` of another. */
const row = (a: Float64Array, i: number, b: Float64Array, j: number): number =>
  a[i] * b[j] + a[i + 1] * b[j + 1] + a[i + 2] * b[j + 2];

function columnScale(mechanism: Mechanism, slot: number): number {
  const range = mechanism.upper[slot] - mechanism.lower[slot];
  const turning = mechanism.units[mechanism.jointOfSlot[slot]] === '°';
  if (!Number.isFinite(range)) return turning ? Math.PI : 0.1;
  return Math.max(range / 2, 1e-6);
}

/** Solves one task from `start` (SI slots, not changed); the readable form of {@link NumericSolver}. */
export function solveNumeric(
  mechanism: Mechanism,
  tool: CompiledTool,
  task: Task,
  start: Float64Array,
  options: NumericOptions = {},
): NumericResult {
  const solver = new NumericSolver(mechanism, tool, options);
  const q = start.slice();
  solver.solveInto(q, task);
  return { q, distance: solver.distance, angle: solver.angle, iterations: solver.iterations };
}
