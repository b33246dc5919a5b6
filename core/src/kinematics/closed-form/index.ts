/** Which closed form an arm has, found once per arm from its geometry, and every branch of a task in it. */
import { vec3, type Vec3 } from '../../linear';
import { SLIDING, TURNING, type CompiledTool, type Mechanism } from '../../mechanism';
import type { Task } from '../task';
import { branchesOf, BEYOND, cost, golden, severity, type ClosedResult, type RawBranch } from './branches';
import { ownSlot, recognisePlanar, zeroPose, type Miss, type PlanarArm, type ZeroPose } from './planar-arm';
import { POSTURES, recogniseSpherical, SINGULAR, type SphericalSolver } from './spherical-wrist';

type Inner =
  | { readonly kind: 'planar'; readonly arm: PlanarArm }
  | { readonly kind: 'spherical'; readonly solver: SphericalSolver };

export interface ClosedForm {
  readonly inner: Inner;
  readonly slots: readonly number[];
  /** A slide that carries the whole arm along `axis` (world): a rail or a lifting column. */
  readonly carriage: { readonly slot: number; readonly axis: Vec3 } | null;
}

const known = new WeakMap<CompiledTool, ClosedForm | null>();

/** The closed form of the way to a tool, or null; a pure function of the mechanism, remembered per compiled tool. */
export function closedFormOf(mechanism: Mechanism, tool: CompiledTool): ClosedForm | null {
  let form = known.get(tool);
  if (form === undefined) known.set(tool, (form = recognise(mechanism, tool)));
  return form;
}

function recognise(mechanism: Mechanism, tool: CompiledTool): ClosedForm | null {
  if (mechanism.delta || tool.slots.length < 3) return null;
  const pose = zeroPose(mechanism, tool);
  const whole = innerOf(mechanism, tool, pose);
  if (whole) return { ...whole, carriage: null };
  const k = carriageOf(mechanism, pose);
  const slot = k < 0 ? -1 : ownSlot(mechanism, tool, pose.joints[k]);
  const inner = slot < 0 ? null : innerOf(mechanism, tool, without(pose, k));
  return inner && { inner: inner.inner, slots: [slot, ...inner.slots], carriage: { slot, axis: pose.axes[k] } };
}

function innerOf(
  mechanism: Mechanism,
  tool: CompiledTool,
  pose: ZeroPose,
): { inner: Inner; slots: readonly number[] } | null {
  const arm = recognisePlanar(mechanism, tool, pose);
  if (arm) return { inner: { kind: 'planar', arm }, slots: arm.slots };
  const solver = recogniseSpherical(mechanism, tool, pose);
  return solver && { inner: { kind: 'spherical', solver }, slots: solver.slots };
}

/** The joint that carries all of the arm: a slide before everything, or along the first turn's axis right after it. */
function carriageOf(mechanism: Mechanism, { joints, axes }: ZeroPose): number {
  if (mechanism.type[joints[0]] === SLIDING) return 0;
  const isLift =
    joints.length > 1 &&
    mechanism.type[joints[0]] === TURNING &&
    mechanism.type[joints[1]] === SLIDING &&
    vec3.norm(vec3.cross(axes[0], axes[1])) < 1e-9;
  return isLift ? 1 : -1;
}

const without = (pose: ZeroPose, k: number): ZeroPose => ({
  joints: pose.joints.filter((_, i) => i !== k),
  axes: pose.axes.filter((_, i) => i !== k),
  origins: pose.origins.filter((_, i) => i !== k),
  tool0: pose.tool0,
});

/** Every branch of a task before limits; on a carriage, per posture the shortest move from `near` over its travel. */
export function closedBranches(
  mechanism: Mechanism,
  form: ClosedForm,
  task: Task,
  near: Float64Array,
  /** The carriage stays where it is. */
  stands = false,
): ClosedResult {
  if (!form.carriage) return innerBranches(mechanism, form.inner, task, near, false);
  return carried(mechanism, form, task, near, stands);
}

function innerBranches(
  mechanism: Mechanism,
  inner: Inner,
  task: Task,
  near: Float64Array,
  coarse: boolean,
): ClosedResult {
  if (inner.kind === 'planar') return branchesOf(mechanism, inner.arm, task, near, coarse);
  if (task.kind !== 'full') return null;
  const { solver } = inner;
  const [x, y, z] = task.position;
  const count = solver.solve(x, y, z, task.rotation, near, false);
  if (!count) return solver.miss ?? { kind: 'branches', list: [] };
  const list: RawBranch[] = [];
  for (let k = 0; k < count; k++) {
    const q = near.slice();
    solver.slots.forEach((s, i) => (q[s] = solver.values[6 * k + i]));
    const flags = solver.flags[k];
    list.push({ q, posture: POSTURES[flags & 7], singular: (flags & SINGULAR) > 0 });
  }
  return { kind: 'branches', list };
}

/** Places of the carriage that are tried before the best is refined. */
const CARRIAGE_SAMPLES = 25;
/** Travel (m) looked at either side of where an unbounded carriage stands. */
const OPEN_TRAVEL = 1;

function carried(
  mechanism: Mechanism,
  form: ClosedForm,
  task: Task,
  near: Float64Array,
  stands: boolean,
): ClosedResult {
  if (task.kind === 'aim') return null;
  const { slot, axis } = form.carriage!;
  const low = Math.max(
    mechanism.lower[slot],
    near[slot] - OPEN_TRAVEL * (Number.isFinite(mechanism.lower[slot]) ? 1e6 : 1),
  );
  const high = Math.min(
    mechanism.upper[slot],
    near[slot] + OPEN_TRAVEL * (Number.isFinite(mechanism.upper[slot]) ? 1e6 : 1),
  );
  let miss: Miss | null = null;
  let open = false;
  const at = (s: number, coarse: boolean): readonly RawBranch[] => {
    const from = near.slice();
    from[slot] = s;
    const shifted = { ...task, position: vec3.sub(task.position, vec3.scale(axis, s)) };
    const found = innerBranches(mechanism, form.inner, shifted, from, coarse);
    if (found === null) open = true;
    else if (found.kind === 'branches') return found.list;
    else if (!miss || severity(found) < severity(miss)) miss = found;
    return [];
  };
  if (stands) {
    const list = at(near[slot], false);
    return open ? null : list.length || !miss ? { kind: 'branches', list } : miss;
  }
  const value = (q: Float64Array): number => cost(mechanism, form.slots, q, near);
  const best = new Map<string, { s: number; least: number }>();
  const step = (high - low) / (CARRIAGE_SAMPLES - 1);
  for (let i = -1; i < CARRIAGE_SAMPLES; i++) {
    const s = i < 0 ? Math.min(high, Math.max(low, near[slot])) : low + i * step;
    for (const { q, posture } of at(s, true)) {
      const least = value(q);
      const before = best.get(posture);
      if (!before || least < before.least) best.set(posture, { s, least });
    }
  }
  if (open) return null;
  const list: RawBranch[] = [];
  for (const [posture, { s }] of best) {
    const branchAt = (v: number, coarse: boolean): RawBranch | undefined =>
      at(v, coarse)
        .filter((b) => b.posture === posture)
        .sort((a, b) => value(a.q) - value(b.q))[0];
    const f = (v: number): number => {
      const branch = branchAt(v, true);
      return branch ? value(branch.q) : 2 * BEYOND;
    };
    const refined = golden(f, Math.max(low, s - step), Math.min(high, s + step), s, 16);
    const branch = branchAt(refined, false);
    if (branch) list.push(branch);
  }
  return list.length ? { kind: 'branches', list } : (miss ?? { kind: 'branches', list: [] });
}

export { type ClosedResult, type RawBranch } from './branches';
export { type PlanarArm } from './planar-arm';

/** The tool's path as a plain base turn with two or three parallel joints, for drawings; null for anything else. */
export function recogniseTurnAndPlanar(mechanism: Mechanism, tool: CompiledTool): PlanarArm | null {
  const form = closedFormOf(mechanism, tool);
  if (!form || form.carriage || form.inner.kind !== 'planar') return null;
  const { arm } = form.inner;
  return arm.lead.kind === 'turn' && arm.signs && !arm.roll ? arm : null;
}
