/**
 * Lifts that are tried: what to hold in which order, what is foretold, and what the outcomes say of a motor's torque or of the masses that
 * were entered. A DC motor loses speed in a straight line with its load, so that near its stall torque it goes slowly and past it not at all.
 */
import { holdShare } from '../actuators';
import { poseSampler } from '../kinematics/sampling';
import { hasRules, rulesExcess, toSlots } from '../mechanism';
import type { Drive, Lift } from '../rig';
import { shaftNeed, usableNm, type LoadedMotor } from './demand';
import type { Loading } from './loading';
import type { GivesWay } from './worst';

export type Outcome = Lift['result'];
/** From this share of its stall torque on a motor has less than a fifth of its speed left. */
export const SLOW_FROM = 0.8;

/** Torque (N·m) at which its shaft is said to stand still; null where none is known. */
export function stallOf(motor: LoadedMotor): number | null {
  const usable = usableNm(motor);
  return usable === null ? null : usable / holdShare(motor.drive);
}

export interface Foretold {
  /** N·m at the motor's shaft: what the lift takes, and at what it is said to stall. */
  readonly needNm: number;
  readonly stallNm: number;
  readonly outcome: Outcome;
}
export const outcomeAt = (share: number): Outcome =>
  share >= 1 ? 'stalled' : share >= SLOW_FROM ? 'slowly' : 'lifted';
/** What a motor (of the loading) will do at a pose (slots, SI); null where its torque is not known or its linkage cannot go there. */
export function foretell(loading: Loading, k: number, q: Float64Array): Foretold | null {
  const stallNm = stallOf(loading.motors[k]);
  const { needNm } = loading.rest(q)[k];
  if (!stallNm || !Number.isFinite(needNm)) return null;
  return { needNm, stallNm, outcome: outcomeAt(needNm / stallNm) };
}

/** Shares of its stall torque that a motor is tried at, light to heavy. */
const TRIED_AT = [0.2, 0.4, 0.6, 0.75, 0.9] as const;
/** Poses looked at for trials. */
const SAMPLES = 3000;
/**
 * Per motor (of the loading): the pose (slots, SI) at which a mass in the hand can ask most of it, while every other motor may hold it for long and
 * the base stands; null where no torque of it is known, or another one is too weak wherever it stands.
 */
export function trialPoses(own: Loading, more: Loading): (Float64Array | null)[] {
  const { mechanism, motors, support } = own;
  const sampler = poseSampler(mechanism, 1);
  const ruled = hasRules(mechanism);
  const q = mechanism.home.slice();
  const stalls = motors.map(stallOf);
  const best = motors.map(() => ({ share: 0, q: null as Float64Array | null }));
  for (let i = 0; i < SAMPLES; i++) {
    sampler.into(q, i);
    if (ruled && rulesExcess(mechanism, q) > 1e-9) continue;
    own.dynamics.gravityInto(own.torques, q);
    if (own.dynamics.gap > 0) continue;
    more.dynamics.gravityInto(more.torques, q);
    const needs = motors.map((motor) => ({
      has: shaftNeed(motor, mechanism, q, own.torques),
      adds: shaftNeed(motor, mechanism, q, more.torques),
    }));
    const limits = motors.map((motor, k) => {
      const usable = usableNm(motor);
      return usable === null ? Infinity : massAt(own, needs[k], k, usable);
    });
    const tips = support.stands ? support.mostOf(own.restWrench(), more.restWrench()) : Infinity;
    for (let k = 0; k < motors.length; k++) {
      const stall = stalls[k];
      if (!stall || Math.abs(needs[k].adds) < 1e-9) continue;
      const most = limits.reduce((least, kg, j) => (j === k ? least : Math.min(least, kg)), tips);
      if (!(most > 0)) continue;
      const kg = Math.max(0, Math.min(most, massAt(own, needs[k], k, TRIED_AT[TRIED_AT.length - 1] * stall)));
      const share = own.against(k, needs[k].has + kg * needs[k].adds) / stall;
      if (kg > 0 && share > best[k].share) best[k] = { share, q: q.slice() };
    }
  }
  return best.map((found) => found.q);
}
/** The mass at which a motor is asked for so much (N·m at its shaft), of what it has to give at a pose and what a kilogram adds. */
function massAt(
  own: Loading,
  { has, adds }: { readonly has: number; readonly adds: number },
  k: number,
  nm: number,
): number {
  if (!Number.isFinite(has) || !Number.isFinite(adds)) return 0;
  const bears = own.bears(k, nm);
  if (Math.abs(adds) < 1e-12) return Math.abs(has) <= bears ? Infinity : 0;
  return (bears - Math.sign(adds) * has) / Math.abs(adds);
}

export interface TrialStep extends Foretold {
  readonly kg: number;
}
/**
 * Masses (kg, rising) that ask more and more of one motor at a pose, as far as every other motor may hold them for long and the base stands;
 * `own`: the arm with an empty hand, `more`: the arm without a mass and with one kilogram there. `ends`: what else would give way first.
 */
export function trialSteps(
  own: Loading,
  more: Loading,
  k: number,
  q: Float64Array,
): { readonly steps: readonly TrialStep[]; readonly ends: GivesWay | null } {
  const { mechanism, motors, support } = own;
  const stallNm = stallOf(motors[k]);
  if (!stallNm) return { steps: [], ends: null };
  own.dynamics.gravityInto(own.torques, q);
  more.dynamics.gravityInto(more.torques, q);
  const needs = motors.map((motor) => ({
    has: shaftNeed(motor, mechanism, q, own.torques),
    adds: shaftNeed(motor, mechanism, q, more.torques),
  }));
  let most = Infinity;
  let ends: GivesWay | null = null;
  motors.forEach((motor, j) => {
    const usable = usableNm(motor);
    if (j === k || usable === null) return;
    const kg = massAt(own, needs[j], j, usable);
    if (kg < most) [most, ends] = [kg, { kind: 'motor', index: j }];
  });
  if (support.stands) {
    const kg = support.mostOf(own.restWrench(), more.restWrench());
    if (kg < most) [most, ends] = [kg, { kind: 'base' }];
  }
  const steps = TRIED_AT.map((share): TrialStep => ({
    kg: massAt(own, needs[k], k, share * stallNm),
    needNm: share * stallNm,
    stallNm,
    outcome: outcomeAt(share),
  }));
  const fit = steps.filter(({ kg }) => kg > 0 && kg <= most);
  return {
    steps: fit,
    ends: fit.length < steps.filter(({ kg }) => kg > 0 && Number.isFinite(kg)).length ? ends : null,
  };
}

/** Between which bounds a value lies by what was tried; `least` above `most`: the outcomes contradict each other. */
export interface Bounds {
  readonly least: number;
  readonly most: number;
}
/** Torque (N·m at its shaft) at which a motor really stalls. */
export function stallBounds(lifts: readonly Pick<Lift, 'needNm' | 'result'>[]): Bounds {
  let [least, most] = [0, Infinity];
  for (const { needNm, result } of lifts) {
    if (result !== 'stalled') least = Math.max(least, needNm);
    if (result === 'stalled') most = Math.min(most, needNm);
    else if (result === 'slowly') most = Math.min(most, needNm / SLOW_FROM);
  }
  return { least, most };
}

/**
 * How many times as heavy as they were entered the arm's own masses are, if its motor has the torque that it is said to have: what it takes
 * is linear in them. `own`: with an empty hand, `more`: one kilogram alone.
 */
export function massBounds(
  own: Loading,
  more: Loading,
  k: number,
  lifts: readonly Pick<Lift, 'joints' | 'payloadG' | 'result'>[],
): Bounds {
  const { mechanism } = own;
  const stallNm = stallOf(own.motors[k]);
  let [least, most] = [0, Infinity];
  if (!stallNm) return { least, most };
  for (const { joints, payloadG, result } of lifts) {
    const q = toSlots(mechanism, joints);
    own.dynamics.gravityInto(own.torques, q);
    more.dynamics.gravityInto(more.torques, q);
    const has = shaftNeed(own.motors[k], mechanism, q, own.torques);
    const held = (shaftNeed(more.motors[k], mechanism, q, more.torques) * payloadG) / 1000;
    if (!(Math.abs(has) > 1e-9)) continue;
    /** The factor at which it would take so much. */
    const at = (nm: number): number => (own.bears(k, nm) - Math.sign(has) * held) / Math.abs(has);
    if (result === 'stalled') least = Math.max(least, at(stallNm));
    else most = Math.min(most, at(stallNm));
    if (result === 'slowly') least = Math.max(least, at(SLOW_FROM * stallNm));
  }
  return { least, most };
}

/** What bounds make of a value that was believed: itself where it lies within them, else the nearest; null where they contradict each other. */
export const correctedBy = (believed: number, { least, most }: Bounds): number | null =>
  least > most ? null : Math.min(most, Math.max(least, believed));

/** A drive with all its torques so many times as large. */
export function strengthened<D extends Pick<Drive, 'stallNm' | 'holdNm' | 'torqueAtSpeed'>>(
  drive: D,
  times: number,
): D {
  const { stallNm, holdNm, torqueAtSpeed } = drive;
  return {
    ...drive,
    stallNm: stallNm * times,
    ...(holdNm === undefined ? {} : { holdNm: holdNm * times }),
    ...(torqueAtSpeed ? { torqueAtSpeed: torqueAtSpeed.map((point) => ({ ...point, nm: point.nm * times })) } : {}),
  };
}
