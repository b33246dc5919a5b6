/** Which closed form an arm has, found once per arm from its geometry, and every branch of a task in it. */
import { vec3 } from '../../linear';
import { SLIDING, TURNING, type CompiledTool, type Mechanism } from '../../mechanism';
import type { Placed } from '../task';
import { branchesOf, type ClosedResult } from './branches';
import { carriedBranches, type Inner } from './carriage';
import { bestMembers, CLOSELY, costOf, type Look, type RawBranch } from './family';
import type { ClosedForm, InnerForm } from './form';
import { ownSlot, recognisePlanar, zeroPose, type Miss, type PlanarArm, type ZeroPose } from './planar-arm';
import { POSTURES, recogniseSpherical, SINGULAR } from './spherical-wrist';

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
): { inner: InnerForm; slots: readonly number[] } | null {
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

/** Every branch of a task before limits; on a carriage, or with a joint to spare, the best of each posture. */
export function closedBranches(
  mechanism: Mechanism,
  form: ClosedForm,
  task: Placed,
  near: Float64Array,
  /** The carriage stays where it is. */
  stands = false,
): ClosedResult {
  const inner: Inner = (own, from, look) => innerBranches(mechanism, form, own, from, look);
  const { carriage } = form;
  if (!carriage) return inner(task, near, CLOSELY);
  if (!stands) return carriedBranches(mechanism, form, carriage, inner, task, near);
  return inner(
    { ...task, position: vec3.sub(task.position, vec3.scale(carriage.axis, near[carriage.slot])) },
    near,
    CLOSELY,
  );
}

function innerBranches(
  mechanism: Mechanism,
  { inner, slots }: ClosedForm,
  task: Placed,
  near: Float64Array,
  how: Look,
): ClosedResult {
  if (inner.kind === 'planar') return branchesOf(mechanism, inner.arm, task, near, how);
  if (task.kind !== 'full') return null;
  const { solver } = inner;
  const at = (turn?: number): readonly RawBranch[] => {
    const count = solver.solve(...task.position, task.rotation, near, false, turn);
    return Array.from({ length: count }, (_, k) => {
      const q = near.slice();
      solver.slots.forEach((s, i) => (q[s] = solver.values[6 * k + i]));
      const flags = solver.flags[k];
      return { q, posture: POSTURES[flags & 7], singular: (flags & SINGULAR) > 0 };
    });
  };
  const list = at();
  const { axial, miss } = solver;
  if (!axial) return { list, miss: list.length ? null : miss, complete: !list.some((b) => b.singular) };
  // With the wrist's point on the turn's axis the turn is free.
  const look = (turn: number): readonly RawBranch[] | Miss => {
    const found = at(turn);
    return found.length ? found : (solver.miss ?? { kind: 'far', by: Infinity });
  };
  const family = { low: -Math.PI, high: Math.PI, round: true, at: look, now: near[solver.slots[0]] };
  const best = bestMembers(family, costOf(mechanism, slots, near), how);
  return Array.isArray(best)
    ? { list: best, miss: null, complete: false }
    : { list: [], miss: best as Miss, complete: false };
}

export type { ClosedForm } from './form';
export { type ClosedResult } from './branches';
export type { RawBranch } from './family';
export { type PlanarArm } from './planar-arm';
export type { SphericalArm } from './spherical-wrist';

/** The tool's path as a plain base turn with two or three parallel joints, for drawings; null for anything else. */
export function recogniseTurnAndPlanar(mechanism: Mechanism, tool: CompiledTool): PlanarArm | null {
  const form = closedFormOf(mechanism, tool);
  if (!form || form.carriage || form.inner.kind !== 'planar') return null;
  const { arm } = form.inner;
  return arm.lead.kind === 'turn' && arm.signs && !arm.roll ? arm : null;
}
