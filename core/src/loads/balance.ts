/**
 * Springs and counterweights sized for a joint: what leaves the least torque at the worst pose anywhere. The torque that is left is linear in
 * a spring's stiffness and in a counterweight's mass, so that the greatest over any poses is convex in them and has one minimum. Poses are
 * sampled; then the worst of all that such a spring leaves is climbed to and taken among them, until none is worse than what is said (an
 * exchange method, as Remez's).
 */
import { poseSampler } from '../kinematics/sampling';
import { compile, hasRules, rulesExcess, type Mechanism } from '../mechanism';
import type { Hardware, PlaceOn, Weight } from '../rig';
import type { Held } from './dynamics';
import { Loading } from './loading';
import { climbed, type Asked } from './worst';

const SAMPLES = 2500;
const HALVINGS = 80;
/** A spring is tensed over no more than so many times the joint's range. */
const LONGEST = 4;
/** Exchanges at most, and how much (a share) the climbed worst may be above what is said. */
const EXCHANGES = 12;
const CLOSE = 1.002;
/** Climbs each way. */
const STARTS = 5;
/** Less help than this share is none. */
const HELP = 0.99;

/** What a joint gives at a pose (N·m, N), its value there (SI), and what one unit of the help adds to that. */
interface Sample {
  readonly pose: Float64Array;
  readonly torque: number;
  readonly adds: number;
}
type Look = (q: Float64Array) => { readonly torque: number; readonly adds: number } | null;

/** Poses to begin with, and all that climbing finds worse. */
class Poses {
  readonly list: Sample[] = [];
  constructor(
    private readonly mechanism: Mechanism,
    private readonly look: Look,
  ) {
    const sampler = poseSampler(mechanism, 1);
    const q = mechanism.home.slice();
    for (let i = 0; i < SAMPLES; i++) {
      sampler.into(q, i);
      this.add(q);
    }
  }
  private add(q: Float64Array): void {
    const found = this.at(q);
    if (found) this.list.push({ pose: q.slice(), ...found });
  }
  private at(q: Float64Array): ReturnType<Look> {
    return hasRules(this.mechanism) && rulesExcess(this.mechanism, q) > 1e-9 ? null : this.look(q);
  }
  worst(left: (sample: Omit<Sample, 'pose'>) => number): number {
    return this.list.reduce((most, sample) => Math.max(most, Math.abs(left(sample))), 0);
  }
  /** Climbs from what is worst either way, and keeps where it comes to; the worst it came to. */
  exchange(left: (sample: Omit<Sample, 'pose'>) => number): number {
    let worst = 0;
    const tops: Float64Array[] = [];
    for (const sense of [1, -1]) {
      const asked: Asked = {
        count: 1,
        into: (out, q) => {
          const found = this.at(q);
          if (!found) return false;
          out[0] = sense * left(found);
          return true;
        },
      };
      // From the worst of each part: one top may be hidden by a broader one.
      const size = Math.ceil(this.list.length / STARTS);
      for (let from = 0; from < this.list.length; from += size) {
        const part = this.list.slice(from, from + size);
        const start = part.reduce((a, b) => (sense * left(b) > sense * left(a) ? b : a));
        const top = climbed(this.mechanism, asked, 0, { q: start.pose, value: sense * left(start) });
        worst = Math.max(worst, top.value);
        tops.push(top.q);
      }
    }
    for (const q of tops) this.add(q);
    return worst;
  }
}

/** The least of a convex function between two values. */
function least(of: (x: number) => number, low: number, high: number): number {
  let [a, b] = [low, high];
  for (let i = 0; i < HALVINGS; i++) {
    const [x, y] = [a + (b - a) / 3, b - (b - a) / 3];
    if (of(x) <= of(y)) b = y;
    else a = x;
  }
  return (a + b) / 2;
}
const spreadOver = (list: readonly Sample[], of: (sample: Sample) => number): readonly [number, number] =>
  list.reduce(
    ([low, high], sample) => {
      const value = of(sample);
      return [Math.min(low, value), Math.max(high, value)] as const;
    },
    [Infinity, -Infinity] as const,
  );

export interface SpringAdvice {
  /** N·m/rad (N/m where it slides), and the value (SI) at which it is slack. */
  readonly stiffness: number;
  readonly slackAt: number;
  /** The worst torque (N·m, N) anywhere without it, and with it. */
  readonly before: number;
  readonly after: number;
}
/** A spring round a joint; null where none makes its worst torque less by a hundredth. */
export function springFor(loading: Loading, slot: number): SpringAdvice | null {
  const { mechanism, dynamics, torques } = loading;
  const poses = new Poses(mechanism, (q) => {
    dynamics.gravityInto(torques, q);
    return dynamics.gap > 0 ? null : { torque: torques[slot], adds: q[slot] };
  });
  if (poses.list.length < 2) return null;
  const before = poses.exchange(({ torque }) => torque);
  const [from, to] = spreadOver(poses.list, ({ adds }) => adds);
  if (!(to > from) || !(before > 1e-9)) return null;
  for (let round = 0; ; round++) {
    const bounds = (k: number) => spreadOver(poses.list, ({ torque, adds }) => torque + k * adds);
    // Slack so far away that its pull hardly changes it would be too long a spring.
    const k = least(
      (x) => {
        const [low, high] = bounds(x);
        return high - low;
      },
      before / (LONGEST * (to - from)),
      (4 * before) / (to - from),
    );
    const [low, high] = bounds(k);
    const slackAt = (low + high) / 2 / k;
    const after = poses.exchange(({ torque, adds }) => torque + k * (adds - slackAt));
    if (round < EXCHANGES && after > (CLOSE * (high - low)) / 2) continue;
    return after > HELP * before ? null : { stiffness: k, slackAt, before, after };
  }
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
  const weight: Weight = { id: 'advice', name: 'advice', ...place, massG: 1000 };
  const made = compile({ ...rig.mechanism, weights: [...(rig.mechanism.weights ?? []), weight] });
  if (!made.ok) return null;
  const own = new Loading(rig, mechanism, held);
  const more = new Loading(rig, { ...made.mechanism, base: mechanism.base }, held);
  const poses = new Poses(mechanism, (q) => {
    own.dynamics.gravityInto(own.torques, q);
    if (own.dynamics.gap > 0) return null;
    more.dynamics.gravityInto(more.torques, q);
    return { torque: own.torques[slot], adds: more.torques[slot] - own.torques[slot] };
  });
  if (!poses.list.length) return null;
  const before = poses.exchange(({ torque }) => torque);
  const per = poses.worst(({ adds }) => adds);
  if (!(per > 1e-9)) return null;
  for (let round = 0; ; round++) {
    const left = (kg: number): number => poses.worst(({ torque, adds }) => torque + kg * adds);
    const massKg = least(left, 0, (4 * before) / per);
    const said = left(massKg);
    const after = poses.exchange(({ torque, adds }) => torque + massKg * adds);
    if (round < EXCHANGES && after > CLOSE * said) continue;
    return after > HELP * before ? null : { massKg, before, after };
  }
}
