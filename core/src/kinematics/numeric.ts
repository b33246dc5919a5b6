/**
 * Inverse kinematics of any tree by damped least squares with the joint limits inside the iteration, for one tool or for
 * several at once.
 *
 * What a solve needs is laid out once in a {@link NumericSolver}; solving allocates nothing but on rare ways. Each step
 * is a box-constrained Levenberg–Marquardt step: damping grows with the squared error (Sugihara 2011), joints whose
 * step crosses a bound are fixed there and the rest solved again, a fixed joint whose gradient points inward is freed
 * (active set; Nocedal & Wright, *Numerical Optimization*, ch. 16.7). Rules between joints are kept inside the same step
 * (rule-sides.ts). Rotation rows are scaled by a characteristic
 * length (a quarter of the outer reach), columns by the joint's range.
 *
 * The error of a direction is angle × axis, taken in the two axes perpendicular to the tool's Z; at half a turn, where
 * the axis is not defined, the tool's own X is taken.
 */
import { choleskySolveInto } from '../linear';
import type { CompiledTool, Mechanism } from '../mechanism';
import { End } from './end';
import { RuleSides } from './rule-sides';
import { HIT_M, HIT_RAD, type Carried, type Task } from './task';

export { outerReach } from './end';

export interface NumericOptions {
  /** Keep joints inside their limits; default true. */
  limits?: boolean;
  /** Inside the limits, keep the rules between joints too; default true. */
  rules?: boolean;
  /** Weight of the rotation rows against position; default 1 (then scaled by the characteristic length). */
  rotationWeight?: number;
  positionWeight?: number;
  maxIterations?: number;
  /** Give up where a hit is no longer to be expected, instead of going on to the closest pose; default false. */
  quick?: boolean;
  /** Slots that keep their values. */
  held?: ReadonlySet<number>;
}

export interface NumericResult {
  q: Float64Array;
  distance: number;
  angle: number;
  iterations: number;
}

/** A tool that is to meet a task, which may be given in a frame that moves. */
export interface Goal {
  readonly tool: CompiledTool;
  readonly on?: Carried;
}

/** A solve ends where it is this share of a hit: the last step before then is quadratic and lands far inside. */
const ENOUGH = 0.1;
/** Step (rad or m) below which nothing is gained by another one. */
const DONE = 1e-10;
/** Share of the squared error used as damping. */
const DAMPING = 4e-2;
const FLOOR = 1e-14;
/** A step that promises less than this share of the squared error ends the solve: no way leads on from here. */
const HOPELESS = { quick: 1e-4, closest: 1e-13 };
/** A quick solve that has not halved its squared error within so many steps crawls along a singular valley: it ends. */
const PATIENCE = 12;
/** Damping grows by this where a step makes things worse, and by twice as much the next time. */
const GROWTH = 8;

/** Most times that sides of rules are taken into or out of one step. */
const MOST_SIDES = 12;

export class NumericSolver {
  /** Error of the last solve: the largest over its tools. */
  distance = Infinity;
  angle = Infinity;
  iterations = 0;
  /** Slots that the solver moves. */
  readonly slots: Int32Array;

  private readonly k: number;
  private readonly ends: readonly End[];
  private readonly maxIterations: number;
  private readonly quick: boolean;
  private readonly low: Float64Array;
  private readonly high: Float64Array;
  /** 1 / (half range)² of each column: what a unit of damping weighs there. */
  private readonly weight: Float64Array;
  /** (half range)² of each column. */
  private readonly size: Float64Array;
  private readonly h: Float64Array;
  private readonly g: Float64Array;
  private readonly a: Float64Array;
  private readonly b: Float64Array;
  private readonly step: Float64Array;
  /** Room of each column from where the iteration stands to its bounds. */
  private readonly up: Float64Array;
  private readonly down: Float64Array;
  private readonly fixed: Uint8Array;
  private readonly free: Int32Array;
  private readonly trial: Float64Array;
  private readonly length: number;
  private readonly rules: RuleSides | null;
  /** H and g as they are without the rules. */
  private readonly plain: { readonly h: Float64Array; readonly g: Float64Array };
  private readonly single: Task[] = [];

  constructor(
    mechanism: Mechanism,
    goals: CompiledTool | readonly Goal[],
    {
      limits = true,
      rules: withRules = true,
      rotationWeight = 1,
      positionWeight = 1,
      maxIterations = 80,
      quick = false,
      held,
    }: NumericOptions = {},
  ) {
    const list: readonly Goal[] = 'slots' in goals ? [{ tool: goals }] : goals;
    const slots = Int32Array.from(slotsOf(mechanism, list).filter((s) => !held?.has(s)));
    const k = slots.length;
    this.k = k;
    this.slots = slots;
    this.ends = list.map(({ tool, on }) => new End(mechanism, tool, slots, on, rotationWeight, positionWeight));
    this.length = Math.max(...this.ends.map((end) => end.length));
    this.maxIterations = maxIterations;
    this.quick = quick;
    this.low = Float64Array.from(slots, (s) => (limits ? mechanism.lower[s] : -Infinity));
    this.high = Float64Array.from(slots, (s) => (limits ? mechanism.upper[s] : Infinity));
    this.size = Float64Array.from(slots, (s) => columnScale(mechanism, s) ** 2);
    this.weight = this.size.map((square) => 1 / square);
    this.h = new Float64Array(k * k);
    this.g = new Float64Array(k);
    this.a = new Float64Array(k * k);
    this.b = new Float64Array(k);
    this.step = new Float64Array(k);
    this.up = new Float64Array(k);
    this.down = new Float64Array(k);
    this.fixed = new Uint8Array(k);
    this.free = new Int32Array(k);
    this.trial = new Float64Array(mechanism.m);
    this.rules = limits && withRules ? RuleSides.of(mechanism, slots, this.size) : null;
    this.plain = { h: new Float64Array(k * k), g: new Float64Array(k) };
  }

  /**
   * Solves from q (slots, SI), which is overwritten with the best pose found; joints that move none of the tools keep their
   * values. One task a tool, in the tools' order. Whether it hits is for `distance` (m) and `angle` (rad) to say.
   */
  solveInto(q: Float64Array, given: Task | readonly Task[]): void {
    const { k, slots, low, high, step, trial, h, g, weight, size, quick } = this;
    const hopeless = quick ? HOPELESS.quick : HOPELESS.closest;
    let tasks: readonly Task[];
    if (isOne(given)) {
      this.single[0] = given;
      tasks = this.single;
    } else tasks = given;
    for (let i = 0; i < k; i++) q[slots[i]] = Math.min(high[i], Math.max(low[i], q[slots[i]]));
    // Where no way leads inside the rules they are left to who asks.
    const hasRules = this.rules !== null && this.rules.enter(q, low, high);
    let cost = this.evaluate(q, tasks);
    let boost = 1;
    let growth = GROWTH;
    let milestone = Infinity;
    this.iterations = 0;
    trial.set(q);
    while (this.iterations < this.maxIterations) {
      if (this.distance < HIT_M * ENOUGH && this.angle < HIT_RAD * ENOUGH) return;
      if (quick && this.iterations % PATIENCE === 0) {
        if (cost > milestone / 2) return;
        milestone = cost;
      }
      this.iterations++;
      this.normalEquations();
      let trace = 0;
      for (let i = 0; i < k; i++) trace += h[i * k + i] * size[i];
      trace /= k;
      const damping =
        boost *
        ((DAMPING * 2 * cost * Math.max(trace, FLOOR)) / Math.max(this.length * this.length, 1e-9) +
          FLOOR * Math.max(trace, 1));
      this.boxStep(q, damping);
      if (hasRules) this.keepRules(q, damping, trace);
      let moved = 0;
      let promised = 0;
      for (let i = 0; i < k; i++) {
        promised += (g[i] + damping * weight[i] * step[i]) * step[i];
        moved = Math.max(moved, Math.abs(step[i]));
      }
      promised /= 2;
      if (promised < hopeless * cost) return;
      this.tryFrom(q);
      const trialCost = this.evaluate(trial, tasks);
      if (trialCost < cost) {
        const gained = cost - trialCost;
        for (let i = 0; i < k; i++) q[slots[i]] = trial[slots[i]];
        cost = trialCost;
        growth = GROWTH;
        if (gained > 0.75 * promised) boost = Math.max(boost / 6, 1e-3);
        else if (gained < 0.25 * promised) boost *= 2;
        if (moved < DONE) return;
      } else {
        // Back to the accepted pose with more damping.
        this.evaluate(q, tasks);
        boost *= growth;
        growth *= 2;
        if (moved < DONE || boost > 1e12) return;
      }
    }
  }

  /** q with the step added, to `trial`. */
  private tryFrom(q: Float64Array): void {
    const { k, slots, low, high, step, trial } = this;
    for (let i = 0; i < k; i++) trial[slots[i]] = Math.min(high[i], Math.max(low[i], q[slots[i]] + step[i]));
  }

  /** Makes the step that was just worked out one that keeps the rules between joints as well. */
  private keepRules(q: Float64Array, damping: number, trace: number): void {
    const { h, g, step, plain, k } = this;
    const rules = this.rules!;
    rules.release();
    plain.h.set(h);
    plain.g.set(g);
    for (let pass = 0; pass < MOST_SIDES; pass++) {
      this.tryFrom(q);
      if (!rules.adjust(this.trial)) break;
      h.set(plain.h);
      g.set(plain.g);
      rules.weigh(h, g, q, trace);
      this.boxStep(q, damping);
    }
    g.set(plain.g);
    this.tryFrom(q);
    const share = rules.shareInside(q, this.trial);
    for (let i = 0; i < k; i++) step[i] *= share;
  }

  /** What the solver makes less: half the squared, weighted error at q over all tools. */
  costAt(q: Float64Array, given: readonly Task[]): number {
    return this.evaluate(q, given);
  }

  /** Half the squared error at q over all tools; leaves the largest bare errors in the fields. */
  private evaluate(q: Float64Array, tasks: readonly Task[]): number {
    const { ends } = this;
    let cost = 0;
    this.distance = this.angle = 0;
    for (let e = 0; e < ends.length; e++) {
      const end = ends[e];
      cost += end.evaluate(q, tasks[e]);
      if (end.distance > this.distance) this.distance = end.distance;
      if (end.angle > this.angle) this.angle = end.angle;
    }
    return cost;
  }

  /** H = JᵀJ (its lower triangle) and g = Jᵀe of all tools' weighted rows, at the pose last evaluated. */
  private normalEquations(): void {
    const { k, h, g, ends } = this;
    const several = ends.length > 1;
    if (several) {
      h.fill(0);
      g.fill(0);
    }
    for (let e = 0; e < ends.length; e++) {
      const end = ends[e];
      end.jacobian();
      const { rows, error } = end;
      const e0 = error[0],
        e1 = error[1],
        e2 = error[2],
        e3 = error[3],
        e4 = error[4],
        e5 = error[5];
      for (let i = 0; i < k; i++) {
        const ci = 6 * i;
        const r0 = rows[ci],
          r1 = rows[ci + 1],
          r2 = rows[ci + 2],
          r3 = rows[ci + 3],
          r4 = rows[ci + 4],
          r5 = rows[ci + 5];
        const pull = r0 * e0 + r1 * e1 + r2 * e2 + r3 * e3 + r4 * e4 + r5 * e5;
        g[i] = several ? g[i] + pull : pull;
        for (let j = 0; j <= i; j++) {
          const cj = 6 * j;
          const at = i * k + j;
          const sum =
            r0 * rows[cj] +
            r1 * rows[cj + 1] +
            r2 * rows[cj + 2] +
            r3 * rows[cj + 3] +
            r4 * rows[cj + 4] +
            r5 * rows[cj + 5];
          h[at] = several ? h[at] + sum : sum;
        }
      }
    }
  }

  /** H at row i, column j. */
  private entry(i: number, j: number): number {
    return i >= j ? this.h[i * this.k + j] : this.h[j * this.k + i];
  }

  /** The minimiser of ½|J·d − e|² + ½λ·Σ wᵢdᵢ² within the box, by an active set; d to `step`. */
  private boxStep(q: Float64Array, damping: number): void {
    const { k, h, g, a, b, step, fixed, free, weight, up, down, slots, low, high } = this;
    for (let i = 0; i < k; i++) {
      step[i] = 0;
      up[i] = high[i] - q[slots[i]];
      down[i] = low[i] - q[slots[i]];
      fixed[i] = (up[i] <= 0 && g[i] > 0) || (down[i] >= 0 && g[i] < 0) ? 1 : 0;
    }
    for (let pass = 0; pass < 3 * k + 2; pass++) {
      let f = 0;
      for (let i = 0; i < k; i++) if (fixed[i] === 0) free[f++] = i;
      if (f === k)
        for (let r = 0; r < k; r++) {
          b[r] = g[r];
          for (let c = 0; c <= r; c++) a[r * k + c] = h[r * k + c];
          a[r * k + r] += damping * weight[r];
        }
      else
        for (let r = 0; r < f; r++) {
          const i = free[r];
          let rhs = g[i];
          for (let j = 0; j < k; j++) if (fixed[j] === 1) rhs -= this.entry(i, j) * step[j];
          b[r] = rhs;
          // `free` ascends: these entries stand in the lower triangle.
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
        const d = b[r];
        if (d <= up[i] && d >= down[i]) {
          step[i] = d;
          continue;
        }
        step[i] = d > up[i] ? Math.max(0, up[i]) : Math.min(0, down[i]);
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
        for (let j = 0; j < k; j++) gradient -= this.entry(i, j) * step[j];
        const inward = step[i] >= up[i] - 1e-15 ? -gradient : gradient;
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

const isOne = (given: Task | readonly Task[]): given is Task => 'kind' in given;

/** Slots that move any of the tools, or the frames that their tasks are given in. */
export function slotsOf(mechanism: Mechanism, goals: readonly Goal[]): number[] {
  const slots = new Set<number>();
  for (const { tool, on } of goals) {
    for (const s of tool.slots) slots.add(s);
    for (let j = on?.joint ?? -1; j >= 0; j = mechanism.parent[j]) {
      if (mechanism.slotOfJoint[j] >= 0) slots.add(mechanism.slotOfJoint[j]);
      for (let k = mechanism.followStart[j]; k < mechanism.followStart[j + 1]; k++)
        slots.add(mechanism.followSlot[k]);
    }
  }
  return [...slots];
}

function columnScale(mechanism: Mechanism, slot: number): number {
  const range = mechanism.upper[slot] - mechanism.lower[slot];
  const turning = mechanism.units[mechanism.jointOfSlot[slot]] === '°';
  if (!Number.isFinite(range)) return turning ? Math.PI : 0.1;
  return Math.max(range / 2, 1e-6);
}

/** Solves one task from `start` (SI slots, not changed); the readable form of {@link NumericSolver}. */
export function solveNumeric(
  mechanism: Mechanism,
  goals: CompiledTool | readonly Goal[],
  tasks: Task | readonly Task[],
  start: Float64Array,
  options: NumericOptions = {},
): NumericResult {
  const solver = new NumericSolver(mechanism, goals, options);
  const q = start.slice();
  solver.solveInto(q, tasks);
  return { q, distance: solver.distance, angle: solver.angle, iterations: solver.iterations };
}
