/** What becomes of an arm when a motor is let go: it stays where friction holds it, or its joint goes the way of its load until it hangs, or ends. */
import { ampsAt } from '../actuators';
import { rulesExcess, type CompiledTool } from '../mechanism';
import { forward } from '../kinematics';
import { positionOf } from '../linear';
import { shaftNeed } from './demand';
import type { Loading } from './loading';

export interface Sag {
  /** Current (A) that letting go saves; null where none is known. */
  readonly savesA: number | null;
  readonly stays: boolean;
  /** Where it comes to (slots, SI), and whether that is the end of its way rather than where it hangs. */
  readonly q: Float64Array;
  readonly atEnd: boolean;
  /** How far (m) the tool is lower then; negative: higher. */
  readonly dropM: number;
}

/** Looks along a joint's range. */
const LOOKS = 720;

/** Of one motor (of the loading) that has a joint to itself, at a pose; null for others. What stands in the way is not looked at. */
export function sagOf(loading: Loading, k: number, tool: CompiledTool | null, at: Float64Array): Sag | null {
  const { mechanism, motors, torques, dynamics } = loading;
  const { perJoint, slots, drive } = motors[k];
  if (perJoint === null) return null;
  const [slot] = slots;
  const { lower, upper } = mechanism;
  const q = at.slice();
  /** N·m at the shaft that is left of its load once friction has had its part; signed like what the motor gives. */
  const pull = (value: number): number => {
    q[slot] = value;
    dynamics.gravityInto(torques, q);
    const nm = shaftNeed(motors[k], mechanism, q, torques) / perJoint;
    const free = Math.abs(nm) - loading.losses[k].friction / Math.abs(perJoint);
    return free > 1e-9 ? Math.sign(nm) * free : 0;
  };
  const first = pull(at[slot]);
  const savesA = ampsAt(drive, loading.rest(at)[k].needNm, false);
  const height = (pose: Float64Array): number =>
    tool ? positionOf(forward(mechanism, pose).tools.get(tool.id)!)[2] : 0;
  if (first === 0) return { savesA, stays: true, q: at.slice(), atEnd: false, dropM: 0 };
  // The motor pushes one way against the load; let go, the joint goes the other.
  const way = -Math.sign(first);
  const end = way > 0 ? upper[slot] : lower[slot];
  const range = Number.isFinite(end) ? Math.abs(end - at[slot]) : Math.PI;
  const step = range / LOOKS;
  let value = at[slot];
  let atEnd = true;
  for (let i = 1; i <= LOOKS; i++) {
    const next = at[slot] + way * step * i;
    q[slot] = next;
    if (rulesExcess(mechanism, q) > 1e-9) break;
    const nm = pull(next);
    if (nm === 0 || Math.sign(nm) !== Math.sign(first)) {
      value = rest(pull, value, next, first);
      atEnd = false;
      break;
    }
    value = next;
  }
  const sagged = at.slice();
  sagged[slot] = value;
  return { savesA, stays: false, q: sagged, atEnd, dropM: height(at) - height(sagged) };
}

/** Between a place from which it goes on and one at which it does not. */
function rest(pull: (value: number) => number, from: number, to: number, first: number): number {
  let [goes, rests] = [from, to];
  for (let i = 0; i < 60; i++) {
    const middle = (goes + rests) / 2;
    if (Math.sign(pull(middle)) === Math.sign(first)) goes = middle;
    else rests = middle;
  }
  return rests;
}

/** Mean current (A) that is saved over a run by letting a motor go once it has stood for so long (s); `still`: where it stands. */
export function idleSaving(timeS: Float64Array, amps: Float64Array, still: Uint8Array, afterS: number): number {
  let [since, charge] = [0, 0];
  for (let i = 1; i < timeS.length; i++) {
    if (!still[i] || !still[i - 1]) {
      since = timeS[i];
      continue;
    }
    const from = Math.max(timeS[i - 1], since + afterS);
    if (timeS[i] > from) charge += amps[i] * (timeS[i] - from);
  }
  const whole = timeS.length ? timeS[timeS.length - 1] - timeS[0] : 0;
  return whole > 0 ? charge / whole : 0;
}
