/**
 * The worst that an arm can be asked to hold anywhere in its limits: joint space is sampled evenly, and the best places of every question are
 * climbed from to their top (compass search: Kolda, Lewis & Torczon 2003), so that the answer hangs on no sample. What stands in the way is
 * not looked at.
 */
import { finish, jobOf, type Job } from '../jobs';
import { poseSampler } from '../kinematics/sampling';
import { hasRules, rulesExcess, type Mechanism } from '../mechanism';
import type { Hardware } from '../rig';
import { shaftNeed, usableNm } from './demand';
import type { Held } from './dynamics';
import { Loading, type Ask } from './loading';
import type { Press } from './tip';

export interface WorstRequest {
  readonly samples: number;
  readonly seed: number;
  /** Ask too what motors need to move their joints by their highest acceleration: all, or one of the loading. */
  readonly accelerating?: 'all' | number;
}
/** A pose (slots, SI) with what is worst there. */
export interface At<T> {
  readonly q: Float64Array;
  readonly value: T;
}
/** What gives way first: a motor, by its place among those of the loading, or the base. */
export type GivesWay = { readonly kind: 'motor'; readonly index: number } | { readonly kind: 'base' };
export interface Heaviest {
  /** kg; Infinity where nothing bounds it. */
  readonly kg: number;
  readonly by: GivesWay | null;
}
export interface WorstLoads {
  /** Per motor, in the order of the loading: the pose at which most is asked of it. */
  readonly motors: readonly At<Ask>[];
  /** Per slot: where its joint bears most (N·m, N where sliding). */
  readonly joints: readonly At<number>[];
  /**
   * Per motor that has a joint to itself: N·m at its shaft as that joint alone speeds up by its highest acceleration from its worst pose, where
   * most inertia hangs on it too (no less than any pose takes); of others as at rest. Null where it was not asked for.
   */
  readonly starting: readonly number[] | null;
  /** Where the base is nearest to tipping, and its margin (m) there; null without feet that span an area. */
  readonly tip: At<number> | null;
  /** Per edge that it may tip over: where the ground presses nearest to it. */
  readonly edges: readonly At<Press | null>[];
  /** The heaviest that it holds everywhere, with nothing else in its hand; null where nothing is to be held. */
  readonly heaviest: At<Heaviest> | null;
  readonly poses: number;
}

/** Poses between two looks at whether to go on, and starts of a climb. */
const CHUNK = 1000;
const STARTS = 3;
/** A climb begins with this share of a joint's range and ends below this one. */
const FIRST_STEP = 1 / 16;
const LAST_STEP = 1e-5;
/** Less than this share is no gain, but the last places of a sum. */
const LEAST_GAIN = 1e-10;

/**
 * The heaviest that may be held at a pose, beside what `own` holds already; `more` is the same arm without any mass of its own and with one
 * kilogram there. Closed form: torques and wrench are linear in the mass.
 */
export function heaviestAt(own: Loading, more: Loading, q: Float64Array): Heaviest {
  const { mechanism, motors, support } = own;
  own.dynamics.gravityInto(own.torques, q);
  more.dynamics.gravityInto(more.torques, q);
  let kg = Infinity;
  let by: GivesWay | null = null;
  const bound = (most: number, what: GivesWay): void => {
    if (most >= kg) return;
    [kg, by] = [Math.max(0, most), what];
  };
  for (let k = 0; k < motors.length; k++) {
    const usable = usableNm(motors[k]);
    if (usable === null) continue;
    const bears = own.bears(k, usable);
    const has = shaftNeed(motors[k], mechanism, q, own.torques);
    const adds = shaftNeed(motors[k], mechanism, q, more.torques);
    if (!(Math.abs(has) <= bears)) bound(0, { kind: 'motor', index: k });
    else if (adds !== 0) bound((bears - Math.sign(adds) * has) / Math.abs(adds), { kind: 'motor', index: k });
  }
  if (support.stands) bound(support.mostOf(own.restWrench(), more.restWrench()), { kind: 'base' });
  return { kg, by };
}
/** An arm that weighs nothing but for 1 kg where `held` is held. */
export function aKilogram(rig: Hardware, mechanism: Mechanism, { tool, body }: Held): Loading {
  const nothing = { mass: 0, com: body.com, inertia: [0, 0, 0, 0, 0, 0] } as const;
  const bare: Mechanism = {
    ...mechanism,
    bodies: mechanism.bodies.map(() => nothing),
    baseBody: nothing,
    springs: [],
    tools: mechanism.tools.map((t) => ({ ...t, body: nothing })),
  };
  const light = { ...rig, drives: rig.drives.map((drive) => ({ ...drive, seat: undefined })) };
  return new Loading(light, bare, [{ tool, body: { ...nothing, mass: 1 } }]);
}

/** Questions that are all asked at once: the more, the worse. */
export interface Asked {
  readonly count: number;
  /** Writes how bad a pose is to every question; whether the pose counts at all. */
  into(out: Float64Array, q: Float64Array): boolean;
}

/** `held`: what tools hold; `where`: what is asked to be heavier, whose place counts alone. */
export const worstJob = (
  rig: Hardware,
  mechanism: Mechanism,
  held: readonly Held[],
  where: Held | null,
  request: WorstRequest,
): Job<WorstLoads> => jobOf(work(rig, mechanism, held, where, request));

function* work(
  rig: Hardware,
  mechanism: Mechanism,
  held: readonly Held[],
  where: Held | null,
  { samples, seed, accelerating }: WorstRequest,
): Generator<number, WorstLoads, void> {
  const loading = new Loading(rig, mechanism, held);
  const kilogram = where && aKilogram(rig, mechanism, where);
  const empty = held.length ? new Loading(rig, mechanism) : loading;
  const { motors, torques, support, dynamics } = loading;
  const { m } = mechanism;
  // A motor that is a joint's alone is at its worst where the joint is.
  const apart = motors.flatMap(({ perJoint }, k) => (perJoint === null ? [k] : []));
  const edges = support.stands ? support.edges : [];
  const count = edges.length;
  const press = new Float64Array(2);
  const [xs, ys, offs] = (['x', 'y', 'off'] as const).map((key) => Float64Array.from(edges, (edge) => edge[key]));
  const [edgesAt, kgAt] = [m + apart.length, m + apart.length + edges.length];
  const ruled = hasRules(mechanism);
  const asked: Asked = {
    count: kgAt + (kilogram ? 1 : 0),
    into(out, q) {
      if (ruled && rulesExcess(mechanism, q) > 1e-9) return false;
      dynamics.gravityInto(torques, q);
      if (dynamics.gap > 0) return false;
      for (let s = 0; s < m; s++) out[s] = Math.abs(torques[s]);
      for (let k = 0; k < apart.length; k++)
        out[m + k] = Math.abs(shaftNeed(motors[apart[k]], mechanism, q, torques));
      if (count > 0) {
        const stands = support.restInto(press, dynamics.wholeMass, dynamics.borne);
        for (let k = 0; k < count; k++)
          out[edgesAt + k] = stands ? offs[k] - xs[k] * press[0] - ys[k] * press[1] : Infinity;
      }
      if (kilogram) out[kgAt] = -heaviestAt(empty, kilogram, q).kg;
      return true;
    },
  };
  const best = yield* sampled(mechanism, asked, samples, seed);
  for (let k = 0; k < best.length; k++) {
    yield 0.9 + (0.1 * k) / best.length;
    best[k] = best[k].map((start) => climbed(mechanism, asked, k, start)).sort((a, b) => b.value - a.value);
  }
  const at = (k: number): Float64Array => best[k][0]?.q ?? mechanism.home;
  const joints = Array.from({ length: m }, (_, s) => {
    loading.rest(at(s));
    return { q: at(s), value: torques[s] };
  });
  const pressed = edges.map((_, k) => {
    const q = at(edgesAt + k);
    loading.rest(q);
    const { wholeMass, borne } = dynamics;
    return { q, press: support.restPress(wholeMass, borne), margin: support.restMargin(wholeMass, borne) };
  });
  const least = pressed.reduce<(typeof pressed)[number] | null>(
    (worst, edge) => (!worst || edge.margin < worst.margin ? edge : worst),
    null,
  );
  const worst = motors.map(({ perJoint, slots }, k) => {
    const q = at(perJoint === null ? m + apart.indexOf(k) : slots[0]);
    return { q, value: loading.rest(q)[k] };
  });
  const starting = (k: number): number => {
    const { perJoint, slots } = motors[k];
    const [slot] = slots;
    const counts = perJoint !== null && (accelerating === 'all' || accelerating === k);
    const nm = counts ? perJoint * mostInertia(loading, slot, seed) * mechanism.accel[slot] : 0;
    return loading.against(k, Math.abs(worst[k].value.nm) + Math.abs(nm));
  };
  return {
    motors: worst,
    joints,
    starting: accelerating === undefined ? null : motors.map((_, k) => starting(k)),
    tip: least && { q: least.q, value: least.margin },
    edges: pressed.map(({ q, press }) => ({ q, value: press })),
    heaviest: kilogram ? { q: at(kgAt), value: heaviestAt(empty, kilogram, at(kgAt)) } : null,
    poses: samples,
  };
}

/** Looks at an inertia before the climb. */
const INERTIA_SAMPLES = 1500;
/** The most inertia (kg·m², kg where it slides) that one slot alone has to move, anywhere. */
function mostInertia({ dynamics, mechanism }: Loading, slot: number, seed: number): number {
  const { m } = mechanism;
  const [still, unit, rest, moved] = [0, 1, 2, 3].map(() => new Float64Array(m));
  unit[slot] = 1;
  const ruled = hasRules(mechanism);
  const asked: Asked = {
    count: 1,
    into(out, q) {
      if (ruled && rulesExcess(mechanism, q) > 1e-9) return false;
      dynamics.gravityInto(rest, q);
      if (dynamics.gap > 0) return false;
      dynamics.torquesInto(moved, q, still, unit);
      out[0] = moved[slot] - rest[slot];
      return true;
    },
  };
  const [starts] = finish(jobOf(sampled(mechanism, asked, INERTIA_SAMPLES, seed)));
  return starts.reduce((most, start) => Math.max(most, climbed(mechanism, asked, 0, start).value), 0);
}

/** The worst sample of each third of the sequence, by question. */
function* sampled(
  mechanism: Mechanism,
  asked: Asked,
  samples: number,
  seed: number,
): Generator<number, At<number>[][], void> {
  const { count } = asked;
  const sampler = poseSampler(mechanism, seed);
  const q = mechanism.home.slice();
  const values = new Float64Array(count);
  const best = Array.from({ length: count }, (): At<number>[] => []);
  for (let start = 0; start < STARTS; start++) {
    const own = new Float64Array(count).fill(-Infinity);
    const poses = Array.from({ length: count }, () => new Float64Array(q.length));
    const [from, to] = [start, start + 1].map((k) => Math.floor((samples * k) / STARTS));
    for (let i = from; i < to; i++) {
      if (i % CHUNK === 0) yield (0.9 * i) / samples;
      sampler.into(q, i);
      if (!asked.into(values, q)) continue;
      for (let k = 0; k < count; k++)
        if (values[k] > own[k]) {
          own[k] = values[k];
          poses[k].set(q);
        }
    }
    for (let k = 0; k < count; k++) if (own[k] > -Infinity) best[k].push({ q: poses[k], value: own[k] });
  }
  return best;
}

/** Ratios in which two joints go together, where one alone would break a rule. */
const RATIOS = [1, 0.4, 0.1];
/**
 * Step by step along each joint while it gets worse; then with a quarter of the step. Where rules or a delta's rods bound what the joints may do
 * together, along pairs of them too: along such a bound no joint gets on alone.
 */
export function climbed(mechanism: Mechanism, asked: Asked, k: number, start: At<number>): At<number> {
  const { lower, upper, m } = mechanism;
  const q = start.q.slice();
  const trial = q.slice();
  const values = new Float64Array(asked.count);
  let { value } = start;
  const bounded = mechanism.delta !== null || hasRules(mechanism);
  const range = Float64Array.from({ length: m }, (_, s) => {
    const whole = upper[s] - lower[s];
    return Number.isFinite(whole) ? whole : 2 * Math.PI;
  });
  for (let step = FIRST_STEP; step > LAST_STEP;) {
    let better = false;
    const go = (s: number, by: number): void => {
      trial[s] = Math.min(upper[s], Math.max(lower[s], q[s] + by * step * range[s]));
    };
    const taken = (): void => {
      if (!asked.into(values, trial) || !(values[k] > value + LEAST_GAIN * Math.abs(value))) return;
      [value, better] = [values[k], true];
      q.set(trial);
    };
    for (let s = 0; s < m; s++)
      for (const sign of [1, -1]) {
        trial.set(q);
        go(s, sign);
        if (trial[s] !== q[s]) taken();
      }
    if (!better && bounded)
      for (let s = 0; s < m; s++)
        for (let t = 0; t < m; t++)
          for (const ratio of s === t ? [] : RATIOS)
            for (const [a, b] of [
              [1, ratio],
              [1, -ratio],
              [-1, ratio],
              [-1, -ratio],
            ]) {
              trial.set(q);
              go(s, a);
              go(t, b);
              taken();
            }
    if (!better) step /= 4;
  }
  return { q, value };
}
