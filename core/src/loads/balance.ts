/**
 * Springs and counterweights sized for a joint: what leaves the least torque at the worst of many poses. The torque that is left is linear in
 * a spring's stiffness and in a counterweight's mass, so that the greatest of all is convex in them: one minimum, found by halving.
 */
import { slotSampler } from '../kinematics/sampling';
import { hasRules, rulesExcess, type Mechanism } from '../mechanism';
import type { Hardware, PlaceOn, Weight } from '../rig';
import { compile } from '../mechanism';
import { Loading } from './loading';
import type { Held } from './dynamics';

const SAMPLES = 3000;
const ROUNDS = 80;
/** A spring is tensed over no more than so many times the joint's range. */
const LONGEST = 4;

/** A joint's value (its SI unit) and what it gives there (N·m, N) at many poses. */
export interface JointSample {
  readonly q: number;
  readonly torque: number;
}
export function samplesOf(loading: Loading, slot: number, samples = SAMPLES): JointSample[] {
  const { mechanism, dynamics, torques } = loading;
  const sampler = slotSampler(
    mechanism,
    Array.from({ length: mechanism.m }, (_, s) => s),
    1,
  );
  const ruled = hasRules(mechanism);
  const q = mechanism.home.slice();
  const found: JointSample[] = [];
  for (let i = 0; i < samples; i++) {
    sampler.into(q, i);
    if (ruled && rulesExcess(mechanism, q) > 1e-9) continue;
    dynamics.gravityInto(torques, q);
    if (!(dynamics.gap > 0)) found.push({ q: q[slot], torque: torques[slot] });
  }
  return found;
}
const worstOf = (list: readonly JointSample[], left: (sample: JointSample) => number): number =>
  list.reduce((most, sample) => Math.max(most, Math.abs(left(sample))), 0);

/** The least of a convex function between two values. */
function least(of: (x: number) => number, low: number, high: number): number {
  let [a, b] = [low, high];
  for (let i = 0; i < ROUNDS; i++) {
    const [x, y] = [a + (b - a) / 3, b - (b - a) / 3];
    if (of(x) <= of(y)) b = y;
    else a = x;
  }
  return (a + b) / 2;
}

export interface SpringAdvice {
  /** N·m/rad (N/m where it slides), and the value (SI) at which it is slack. */
  readonly stiffness: number;
  readonly slackAt: number;
  readonly before: number;
  readonly after: number;
}
/** A spring round the joint; null where none makes its worst torque less by a hundredth. */
export function springFor(samples: readonly JointSample[]): SpringAdvice | null {
  if (samples.length < 2) return null;
  const before = worstOf(samples, ({ torque }) => torque);
  const range = samples.reduce(([a, b], { q }) => [Math.min(a, q), Math.max(b, q)] as const, [
    Infinity,
    -Infinity,
  ] as const);
  const span = range[1] - range[0];
  if (!(span > 0) || !(before > 0)) return null;
  /** The greatest and the least of torque + k·q, whose middle the spring takes. */
  const bounds = (k: number): readonly [number, number] =>
    samples.reduce(
      ([low, high], { q, torque }) => [Math.min(low, torque + k * q), Math.max(high, torque + k * q)] as const,
      [Infinity, -Infinity] as const,
    );
  const left = (k: number): number => {
    const [low, high] = bounds(k);
    return (high - low) / 2;
  };
  // Slack so far away that its pull hardly changes it would be too long a spring.
  const k = least(left, before / (LONGEST * span), (4 * before) / span);
  const [low, high] = bounds(k);
  const after = (high - low) / 2;
  if (after > 0.99 * before) return null;
  return { stiffness: k, slackAt: (low + high) / 2 / k, before, after };
}

export interface WeightAdvice {
  readonly massKg: number;
  readonly before: number;
  readonly after: number;
}
/** Mass at a place that makes a joint's worst torque least; null where none makes it less by a hundredth. */
export function weightFor(
  rig: Hardware,
  held: readonly Held[],
  mechanism: Mechanism,
  slot: number,
  place: PlaceOn,
): WeightAdvice | null {
  const own = samplesOf(new Loading(rig, mechanism, held), slot);
  const ONE_KG = 1000;
  const weight: Weight = { id: 'advice', name: 'advice', ...place, massG: ONE_KG };
  const made = compile({ ...rig.mechanism, weights: [...(rig.mechanism.weights ?? []), weight] });
  if (!made.ok) return null;
  const more = samplesOf(new Loading(rig, { ...made.mechanism, base: mechanism.base }, held), slot);
  if (more.length !== own.length) return null;
  const per = more.map(({ torque }, k) => torque - own[k].torque);
  const worst = (kg: number): number =>
    own.reduce((most, { torque }, k) => Math.max(most, Math.abs(torque + kg * per[k])), 0);
  const before = worst(0);
  const most = per.reduce((a, b) => Math.max(a, Math.abs(b)), 0);
  if (!(most > 1e-9)) return null;
  const massKg = least(worst, 0, (4 * before) / most);
  const after = worst(massKg);
  return after > 0.99 * before ? null : { massKg, before, after };
}
