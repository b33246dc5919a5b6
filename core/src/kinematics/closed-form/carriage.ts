/**
 * An arm with a closed form on a slide that carries all of it: a rail, or a lifting column. With a direction asked of an arm
 * that turns, the direction says how the turn stands and so where the slide must be; else the slide is free, and of every
 * posture the best place on it is taken.
 */
import { vec3, type Vec3 } from '../../linear';
import type { Mechanism } from '../../mechanism';
import type { Placed } from '../task';
import { branchesLed, type ClosedResult } from './branches';
import {
  bestMembers,
  BRIEFLY,
  CLOSELY,
  costOf,
  onePerPosture,
  OUTSIDE,
  severity,
  type Look,
  type RawBranch,
} from './family';
import { leadsFacing, ledAt, reachOf, type Miss, type PlanarArm } from './planar-arm';
import type { Carriage, ClosedForm } from './form';

/** Travel (m) looked at either side of where an unbounded slide stands, for an arm whose reach bounds nothing. */
const OPEN_TRAVEL = 1;
/**
 * A target that stays further (m) than this from the arm wherever the slide stands is out of reach: the distance has one low along
 * the slide for each way that the arm can face, and the lows were followed.
 */
const SURELY = { plain: 2e-3, searched: 1e-2 };
/** Share of the slide's way across the plane below which it moves the plane nowhere. */
const ALONG = 1e-6;

/** Branches of the arm itself, wherever its slide stands. */
export type Inner = (task: Placed, near: Float64Array, look: Look) => ClosedResult;

export function carriedBranches(
  mechanism: Mechanism,
  form: ClosedForm,
  carriage: Carriage,
  inner: Inner,
  task: Placed,
  near: Float64Array,
): ClosedResult {
  const { slot, axis } = carriage;
  const standing = (s: number): Float64Array => {
    const q = near.slice();
    q[slot] = s;
    return q;
  };
  const shifted = (s: number): Placed => ({ ...task, position: vec3.sub(task.position, vec3.scale(axis, s)) });
  const arm = form.inner.kind === 'planar' ? form.inner.arm : null;
  const facing = arm && leadsFacing(arm, task);
  if (arm && Array.isArray(facing)) {
    const placed = placedByDirection(mechanism, arm, facing, carriage, task, (s) => ({
      task: shifted(s),
      near: standing(s),
    }));
    if (placed) return placed;
  }
  // Two bars meet a direction or a tilt only where the slide happens to stand right: not to be found by places.
  if (arm && arm.linkage.slots.length === 2 && task.kind !== 'free' && !isTurnedByLead(arm)) return null;
  const window = travel(mechanism, form, carriage, task.position, near[slot]);
  if (window.by > 0) return { list: [], miss: { kind: 'far', by: window.by }, complete: true };
  const searched = arm !== null && arm.linkage.slots.length === 3 && task.kind === 'free';
  let open = false;
  const at = (s: number): readonly RawBranch[] | Miss => {
    const found = inner(shifted(s), standing(s), BRIEFLY);
    open ||= found === null;
    return found?.list.length ? found.list : (found?.miss ?? { kind: 'far', by: Infinity });
  };
  const family = { low: window.low, high: window.high, round: false, at, now: near[slot] };
  const cost = costOf(mechanism, form.slots, near);
  const best = bestMembers(family, cost, searched ? OUTSIDE : CLOSELY);
  if (open) return null;
  if (!Array.isArray(best)) {
    const miss = best as Miss;
    const surely = searched ? SURELY.searched : SURELY.plain;
    return { list: [], miss, complete: miss.kind === 'far' && miss.by > surely };
  }
  if (!searched) return { list: best, miss: null, complete: false };
  // Where the slide stands best the joint to spare is chosen finely.
  const list = [...(best as readonly RawBranch[])].sort((a, b) => cost(a.q) - cost(b.q));
  const s = list[0].q[slot];
  const fine = inner(shifted(s), standing(s), CLOSELY)?.list ?? [];
  return { list: onePerPosture([...list, ...fine], cost), miss: null, complete: false };
}

/** Whether the tool's direction hangs on the lead alone, or on nothing: a plane that lies level, a hand that never turns. */
const isTurnedByLead = ({ linkage, lead, roll }: PlanarArm): boolean =>
  lead.kind === 'turn' && !roll && linkage.handTurn.every((f) => f === 0);

/** The slide where the turn stands as the direction asks, for every way it can; null where the slide stays free. */
function placedByDirection(
  mechanism: Mechanism,
  arm: PlanarArm,
  leads: readonly number[],
  { axis }: Carriage,
  task: Placed,
  at: (s: number) => { task: Placed; near: Float64Array },
): ClosedResult {
  const list: RawBranch[] = [];
  let miss: Miss | null = null;
  let complete = true;
  for (const lead of leads) {
    const { off, normal } = ledAt(arm, task.position, lead);
    const across = vec3.dot(normal, axis);
    if (Math.abs(across) < ALONG) return null;
    const there = at(off / across);
    const found = branchesLed(
      mechanism,
      arm,
      [ledAt(arm, there.task.position, lead).led],
      there.task,
      there.near,
      CLOSELY,
    );
    if (!found) return null;
    complete &&= found.complete;
    list.push(...found.list);
    if (found.miss && (!miss || severity(found.miss) < severity(miss))) miss = found.miss;
  }
  return { list, miss: list.length ? null : miss, complete };
}

/** The part of the slide's travel from which the target is within the arm's length, or by how much (m) it never is. */
function travel(
  mechanism: Mechanism,
  form: ClosedForm,
  { slot, axis }: Carriage,
  position: Vec3,
  now: number,
): { low: number; high: number; by: number } {
  const [lower, upper] = [mechanism.lower[slot], mechanism.upper[slot]];
  const { inner } = form;
  const isOpen = inner.kind === 'planar' && inner.arm.lead.kind === 'slide';
  const reach = inner.kind === 'planar' ? reachOf(inner.arm) : inner.solver.reach;
  const foot = inner.kind === 'planar' ? inner.arm.c : inner.solver.foot;
  const d = vec3.sub(position, foot);
  const along = vec3.dot(d, axis);
  const beside = vec3.norm(vec3.sub(d, vec3.scale(axis, along)));
  const half = Math.sqrt(Math.max(0, reach * reach - beside * beside));
  if (isOpen)
    return {
      low: Number.isFinite(lower) ? lower : now - OPEN_TRAVEL,
      high: Number.isFinite(upper) ? upper : now + OPEN_TRAVEL,
      by: 0,
    };
  const [from, to] = [along - half, along + half];
  if (beside > reach) return { low: lower, high: upper, by: beside - reach };
  if (from > upper || to < lower) return { low: lower, high: upper, by: Math.max(from - upper, lower - to) };
  return { low: Math.max(lower, from), high: Math.min(upper, to), by: 0 };
}
