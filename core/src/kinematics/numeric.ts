/**
 * Inverse kinematics of any tree by damped least squares with the joint limits inside the iteration.
 *
 * Each step is a box-constrained Levenberg–Marquardt step: damping grows with the squared error (Sugihara 2011), joints
 * whose step crosses a bound are fixed there and the rest solved again, a fixed joint whose gradient points inward is
 * freed (active set; Nocedal & Wright, *Numerical Optimization*, ch. 16.7). Rotation rows are scaled by a
 * characteristic length (a quarter of the outer reach), columns by the joint's range.
 *
 * The error of a direction is angle × axis, taken in the two axes perpendicular to the tool's Z; at half a turn, where
 * the axis is not defined, the tool's own X is taken.
 */
import { axisOf, choleskySolveInto, positionOf, rotationBetween, STRIDE, vec3, type Vec3 } from '../linear';
import type { CompiledTool, Mechanism } from '../mechanism';
import { framesInto, jacobianInto, kinematicsSpace, toolInto, type KinematicsSpace } from './forward';
import { HIT_M, HIT_RAD, taskError, type Task } from './task';

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

/** Error below which nothing is gained by another step. */
const DONE = 1e-10;
/** Share of the squared error used as damping. */
const DAMPING = 1e-2;
const FLOOR = 1e-14;
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

interface Workspace {
  space: KinematicsSpace;
  tool: Float64Array;
  jacobian: Float64Array;
  rows: Float64Array;
  error: Float64Array;
  h: Float64Array;
  g: Float64Array;
  a: Float64Array;
  b: Float64Array;
  step: Float64Array;
  fixed: Uint8Array;
  trial: Float64Array;
}

function workspace(mechanism: Mechanism, k: number): Workspace {
  return {
    space: kinematicsSpace(mechanism),
    tool: new Float64Array(STRIDE),
    jacobian: new Float64Array(6 * mechanism.m),
    rows: new Float64Array(6 * k),
    error: new Float64Array(6),
    h: new Float64Array(k * k),
    g: new Float64Array(k),
    a: new Float64Array(k * k),
    b: new Float64Array(k),
    step: new Float64Array(k),
    fixed: new Uint8Array(k),
    trial: new Float64Array(mechanism.m),
  };
}

/** Solves one task from `start` (SI slots, not changed). Joints off the tool's path keep their values. */
export function solveNumeric(
  mechanism: Mechanism,
  tool: CompiledTool,
  task: Task,
  start: Float64Array,
  options: NumericOptions = {},
): NumericResult {
  const { limits = true, rotationWeight = 1, positionWeight = 1, maxIterations = 80 } = options;
  const slots = tool.slots;
  const k = slots.length;
  const w = workspace(mechanism, k);
  const length = Math.max(outerReach(mechanism, tool) / 4, 1e-3) * rotationWeight;
  const scale = Float64Array.from(slots, (s) => columnScale(mechanism, s));
  const low = Float64Array.from(slots, (s) => (limits ? mechanism.lower[s] : -Infinity));
  const high = Float64Array.from(slots, (s) => (limits ? mechanism.upper[s] : Infinity));
  const q = start.slice();
  for (let i = 0; i < k; i++) q[slots[i]] = Math.min(high[i], Math.max(low[i], q[slots[i]]));

  let cost = evaluate(w, mechanism, tool, task, q, length, positionWeight);
  let boost = 1;
  let iterations = 0;
  while (iterations < maxIterations) {
    const now = taskError(task, w.tool);
    if (now.distance < HIT_M * 1e-3 && now.angle < HIT_RAD * 1e-3) break;
    iterations++;

    // Rows of the task from the geometric Jacobian, columns scaled by the joints' ranges.
    jacobianInto(w.jacobian, mechanism, w.space, tool, w.tool);
    const r = rowsInto(w.rows, w, task, slots, scale, length, positionWeight);
    w.h.fill(0);
    w.g.fill(0);
    for (let i = 0; i < k; i++) {
      for (let row = 0; row < r; row++) w.g[i] += w.rows[6 * i + row] * w.error[row];
      for (let j = 0; j <= i; j++) {
        let sum = 0;
        for (let row = 0; row < r; row++) sum += w.rows[6 * i + row] * w.rows[6 * j + row];
        w.h[i * k + j] = sum;
        w.h[j * k + i] = sum;
      }
    }
    const trace = w.h.reduce((sum, v, i) => (i % (k + 1) === 0 ? sum + v : sum), 0) / k;
    const damping =
      boost *
      ((DAMPING * 2 * cost * Math.max(trace, FLOOR)) / Math.max(length * length, 1e-9) + FLOOR * Math.max(trace, 1));

    boxStep(w, k, damping, q, slots, scale, low, high);
    let moved = 0;
    w.trial.set(q);
    for (let i = 0; i < k; i++) {
      const next = q[slots[i]] + w.step[i] * scale[i];
      w.trial[slots[i]] = Math.min(high[i], Math.max(low[i], next));
      moved = Math.max(moved, Math.abs(w.step[i]));
    }
    const trialCost = evaluate(w, mechanism, tool, task, w.trial, length, positionWeight);
    if (trialCost < cost) {
      const gained = cost - trialCost;
      q.set(w.trial);
      cost = trialCost;
      boost = Math.max(boost / 6, 1e-3);
      if (moved < DONE || gained < 1e-14 * cost) break;
    } else {
      // Back to the accepted pose with more damping.
      evaluate(w, mechanism, tool, task, q, length, positionWeight);
      if (moved < DONE) break;
      boost *= 8;
      if (boost > 1e12) break;
    }
  }
  return { q, iterations, ...taskError(task, w.tool) };
}

function columnScale(mechanism: Mechanism, slot: number): number {
  const range = mechanism.upper[slot] - mechanism.lower[slot];
  const turning = mechanism.units[mechanism.jointOfSlot[slot]] === '°';
  if (!Number.isFinite(range)) return turning ? Math.PI : 0.1;
  return Math.max(range / 2, 1e-6);
}

/** Frames, tool and weighted error at q; returns half the squared error. */
function evaluate(
  w: Workspace,
  mechanism: Mechanism,
  tool: CompiledTool,
  task: Task,
  q: Float64Array,
  length: number,
  positionWeight: number,
): number {
  framesInto(w.space, mechanism, q);
  toolInto(w.tool, 0, mechanism, w.space, tool);
  if (w.space.gap > 0) return OPEN + w.space.gap;
  const p = positionOf(w.tool);
  w.error.fill(0);
  for (let i = 0; i < 3; i++) w.error[i] = positionWeight * (task.position[i] - p[i]);
  if (task.kind === 'direction') {
    const turn = directionError(w.tool, task.direction);
    w.error[3] = length * vec3.dot(turn, axisOf(w.tool, 0));
    w.error[4] = length * vec3.dot(turn, axisOf(w.tool, 1));
  } else if (task.kind === 'full') {
    const turn = rotationBetween(w.tool, task.rotation);
    for (let i = 0; i < 3; i++) w.error[3 + i] = length * turn[i];
  }
  let sum = 0;
  for (let i = 0; i < 6; i++) sum += w.error[i] * w.error[i];
  return sum / 2;
}

/** Rotation vector that carries the tool's Z onto `direction`. */
function directionError(tool: Float64Array, direction: Vec3): Vec3 {
  const z = axisOf(tool, 2);
  const c = vec3.cross(z, direction);
  const sine = vec3.norm(c);
  const angle = Math.atan2(sine, vec3.dot(z, direction));
  if (sine > 1e-9) return vec3.scale(c, angle / sine);
  return angle > 1 ? vec3.scale(axisOf(tool, 0), angle) : [0, 0, 0];
}

function rowsInto(
  out: Float64Array,
  w: Workspace,
  task: Task,
  slots: Int32Array,
  scale: Float64Array,
  length: number,
  positionWeight: number,
): number {
  const x = axisOf(w.tool, 0);
  const y = axisOf(w.tool, 1);
  for (let i = 0; i < slots.length; i++) {
    const c = 6 * slots[i];
    const J = w.jacobian;
    for (let row = 0; row < 3; row++) out[6 * i + row] = J[c + row] * scale[i] * positionWeight;
    const [wx, wy, wz] = [J[c + 3], J[c + 4], J[c + 5]];
    if (task.kind === 'direction') {
      out[6 * i + 3] = (wx * x[0] + wy * x[1] + wz * x[2]) * scale[i] * length;
      out[6 * i + 4] = (wx * y[0] + wy * y[1] + wz * y[2]) * scale[i] * length;
    } else if (task.kind === 'full')
      for (let row = 0; row < 3; row++) out[6 * i + 3 + row] = J[c + 3 + row] * scale[i] * length;
  }
  return task.kind === 'free' ? 3 : task.kind === 'direction' ? 5 : 6;
}

/** The minimiser of ½|J·d − e|² + ½λ|d|² within the box, by an active set; d in scaled columns to `w.step`. */
function boxStep(
  w: Workspace,
  k: number,
  damping: number,
  q: Float64Array,
  slots: Int32Array,
  scale: Float64Array,
  low: Float64Array,
  high: Float64Array,
): void {
  const { h, g, a, b, step, fixed } = w;
  fixed.fill(0);
  step.fill(0);
  const room = (i: number, upper: boolean): number => ((upper ? high[i] : low[i]) - q[slots[i]]) / scale[i];
  for (let i = 0; i < k; i++) if ((room(i, true) <= 0 && g[i] > 0) || (room(i, false) >= 0 && g[i] < 0)) fixed[i] = 1;
  for (let pass = 0; pass < 3 * k + 2; pass++) {
    const free: number[] = [];
    for (let i = 0; i < k; i++) if (!fixed[i]) free.push(i);
    const f = free.length;
    for (let r = 0; r < f; r++) {
      let rhs = g[free[r]];
      for (let j = 0; j < k; j++) if (fixed[j]) rhs -= h[free[r] * k + j] * step[j];
      b[r] = rhs;
      for (let c = 0; c < f; c++) a[r * f + c] = h[free[r] * k + free[c]] + (r === c ? damping : 0);
    }
    if (f && !choleskySolveInto(a, b, f)) {
      step.fill(0);
      return;
    }
    let crossed = false;
    for (let r = 0; r < f; r++) {
      const i = free[r];
      if (b[r] > room(i, true)) {
        step[i] = Math.max(0, room(i, true));
        fixed[i] = 1;
        crossed = true;
      } else if (b[r] < room(i, false)) {
        step[i] = Math.min(0, room(i, false));
        fixed[i] = 1;
        crossed = true;
      } else step[i] = b[r];
    }
    if (crossed) continue;
    // Free the fixed joint whose gradient points inward the most.
    let best = -1;
    let pull = 1e-12;
    for (let i = 0; i < k; i++) {
      if (!fixed[i]) continue;
      let gradient = g[i] - damping * step[i];
      for (let j = 0; j < k; j++) gradient -= h[i * k + j] * step[j];
      const inward = step[i] >= room(i, true) - 1e-15 ? -gradient : gradient;
      if (inward > pull) {
        pull = inward;
        best = i;
      }
    }
    if (best < 0 || pass > 2 * k) return;
    fixed[best] = 0;
  }
}
