/** Closed-form branches of a planar arm before limits, as full slot vectors, and the best use of a joint to spare. */
import type { Mechanism } from '../../mechanism';
import { nearestTurn } from '../solution';
import type { Placed } from '../task';
import { bestMembers, BRIEFLY, CLOSELY, costOf, onePerPosture, severity, type Look, type RawBranch } from './family';
import { handWindows } from './linkage';
import {
  handTurnAt,
  handTurnsFor,
  leadsFacing,
  leadsTo,
  planarBranches,
  rollFor,
  type Led,
  type Miss,
  type PlanarArm,
} from './planar-arm';

/** What a closed form says of a task; null: it has none for it. */
export type ClosedResult = {
  /** Branches before limits. */
  readonly list: readonly RawBranch[];
  /** Without a branch, by how much there is none. */
  readonly miss: Miss | null;
  /**
   * There is nothing else: the branches are all the poses that meet the task, each by itself, or the miss holds for every
   * pose. Where it is false, poses outside the list may meet the task too.
   */
  readonly complete: boolean;
} | null;

/** Nearer than this (m) to the turn's axis the turn hangs on the last digits of the target. */
const BY_THE_AXIS = 1e-4;

/** `look`: how closely a joint to spare is chosen. */
export function branchesOf(
  mechanism: Mechanism,
  arm: PlanarArm,
  task: Placed,
  near: Float64Array,
  look: Look = CLOSELY,
): ClosedResult {
  const leads = leadsTo(arm, task.position, near[arm.lead.slot]);
  if (!Array.isArray(leads)) return { list: [], miss: leads, complete: true };
  if (!leads[0].singular) {
    const result = branchesLed(mechanism, arm, leads, task, near, look);
    if (!result || arm.lead.kind === 'slide' || Math.abs(leads[0].at[1]) > BY_THE_AXIS) return result;
    return { ...result, complete: false };
  }
  // On the turn's axis: the direction says how it stands, or it is free.
  const facing = leadsFacing(arm, task);
  if (facing && !Array.isArray(facing)) return { list: [], miss: facing, complete: false };
  if (facing)
    return branchesLed(
      mechanism,
      arm,
      facing.map((lead) => ({ ...leads[0], lead, singular: false })),
      task,
      near,
      look,
    );
  const at = (lead: number): readonly RawBranch[] | Miss => {
    const found = branchesLed(mechanism, arm, [{ ...leads[0], lead }], task, near, BRIEFLY);
    return found?.list.length ? found.list : (found?.miss ?? { kind: 'far', by: Infinity });
  };
  const cost = costOf(mechanism, arm.slots, near);
  const whole = { low: -Math.PI, high: Math.PI, round: true, at, now: turnIn(near[arm.lead.slot]) };
  const best = bestMembers(whole, cost, look);
  return Array.isArray(best)
    ? { list: best, miss: null, complete: false }
    : { list: [], miss: best as Miss, complete: true };
}

/** An angle in [−π, π). */
const turnIn = (angle: number): number => angle - 2 * Math.PI * Math.floor((angle + Math.PI) / (2 * Math.PI));

/** The branches with the plane brought to the target by each of `leads`. */
export function branchesLed(
  mechanism: Mechanism,
  arm: PlanarArm,
  leads: readonly Led[],
  task: Placed,
  near: Float64Array,
  look: Look,
): ClosedResult {
  const isSpare = arm.linkage.slots.length === 3;
  const cost = costOf(mechanism, arm.slots, near);
  const list: RawBranch[] = [];
  let miss: Miss | null = null;
  let complete = true;
  const take = (found: readonly RawBranch[] | Miss): void => {
    if (Array.isArray(found)) list.push(...(found as readonly RawBranch[]));
    else if (!miss || severity(found as Miss) < severity(miss)) miss = found as Miss;
  };
  for (const led of leads) {
    const member = (theta: number): readonly RawBranch[] | Miss => placed(mechanism, arm, led, theta, task, near);
    const turns = handTurnsFor(arm, task, led.lead);
    if (turns && !Array.isArray(turns)) take(turns);
    else if (turns) for (const theta of turns) take(member(isSpare ? theta : 0));
    else if (!isSpare) take(member(0));
    else {
      const windows = handWindows(arm.linkage, led.at);
      if (!Array.isArray(windows)) {
        take(windows);
        continue;
      }
      complete = false;
      const now = handTurnAt(arm, near);
      for (const { low, high, round } of windows) {
        // The hand's own turn at `near`, on the window's turn.
        const own = now + 2 * Math.PI * Math.ceil((low - now) / (2 * Math.PI));
        take(bestMembers({ low, high, round, at: member, now: own }, cost, look));
      }
    }
  }
  if (!complete) return { list: onePerPosture(list, cost), miss: list.length ? null : miss, complete: false };
  return { list, miss: list.length ? null : miss, complete };
}

/** Both bends for one turn of the hand, in full slots, each turning one on the turn inside its limits and nearest to `near`. */
function placed(
  mechanism: Mechanism,
  arm: PlanarArm,
  led: Led,
  theta: number,
  task: Placed,
  near: Float64Array,
): readonly RawBranch[] | Miss {
  const branches = planarBranches(arm, led, theta, near);
  if (!Array.isArray(branches)) return branches;
  return branches.map(({ values, posture, singular }) => {
    const q = near.slice();
    const put = (s: number, value: number): void => {
      q[s] = nearestTurn(value, near[s], mechanism.lower[s], mechanism.upper[s]);
    };
    values.forEach((value, k) => {
      const s = arm.slots[k];
      if (k === 0 && arm.lead.kind === 'slide') q[s] = value;
      else put(s, value);
    });
    if (arm.roll && task.kind === 'full')
      put(arm.roll.slot, rollFor(arm, task.rotation, led.lead, handTurnAt(arm, q)));
    return { q, posture, singular };
  });
}
