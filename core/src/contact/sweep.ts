/** Contacts along a motion: parts that are close are looked at so often that they go no further between two looks than a set way. */
import { finish, jobOf, type Job } from '../jobs';
import type { Vec3 } from '../linear';
import { sampleBuffers, type Motion } from '../motion';
import { PairWatch, STRIDE_M } from './pair-watch';
import type { Contact, ContactScene, Part } from './parts';
import { gapOf, TOUCH } from './placed';

/** Plain, so that it can go from one thread to another. */
export interface SweptContact {
  readonly a: { readonly id: string; readonly name: string };
  readonly b: { readonly id: string; readonly name: string };
  /** m, at its deepest, and where (world, m). */
  readonly depth: number;
  readonly at: Vec3;
  /** When it began and ended, and when it was deepest (s). */
  readonly fromS: number;
  readonly untilS: number;
  readonly deepestS: number;
}

/** Longest and shortest time between two samples of a motion (s). */
const LONGEST = 0.02;
const SHORTEST = 1e-4;
/** What touches is looked at as often as this (s) while it moves at all, so that it is known when it was deepest. */
const TOUCHING = 0.05;

/** Keys of what is held at a time (s). */
type HeldAt = (t: number) => ReadonlySet<string>;
const NOTHING: ReadonlySet<string> = new Set();

export const sweptContacts = (scene: ContactScene, motion: Motion, heldAt?: HeldAt): SweptContact[] =>
  finish(sweepJob(scene, motion, heldAt));

/** The same in pieces; a unit of work is one step of time. */
export const sweepJob = (scene: ContactScene, motion: Motion, heldAt?: HeldAt): Job<SweptContact[]> =>
  jobOf(sweeping(scene, motion, heldAt ?? (() => NOTHING)));

/** Looks along a motion gathered to contacts, one a pair. */
class Gathered {
  private readonly found = new Map<string, SweptContact>();
  /** Runs of looks at which something held touches, not yet counted; and pairs that touched as it was taken. */
  private readonly open = new Map<string, SweptContact & { readonly held: string }>();
  private readonly taken = new Set<string>();
  private held: ReadonlySet<string> = NOTHING;

  look(t: number, contacts: readonly Contact[], held: ReadonlySet<string>): void {
    for (const key of this.held) if (!held.has(key)) this.putDown(key);
    const fresh = [...held].filter((key) => !this.held.has(key));
    this.held = held;
    const touching = new Set<string>();
    for (const { a, b, depth, at } of contacts) {
      const pair = `${a.name}/${b.name}`;
      touching.add(pair);
      const key = a.held ?? b.held;
      if (key !== undefined && fresh.includes(key)) this.taken.add(pair);
      if (this.taken.has(pair)) continue;
      const contact: SweptContact = {
        a: { id: a.id, name: a.name },
        b: { id: b.id, name: b.name },
        ...{ depth, at, deepestS: t, fromS: t, untilS: t },
      };
      if (key === undefined) this.found.set(pair, merged(this.found.get(pair), contact));
      else this.open.set(pair, { ...merged(this.open.get(pair), contact), held: key });
    }
    for (const pair of this.taken) if (!touching.has(pair)) this.taken.delete(pair);
    for (const pair of [...this.open.keys()]) if (!touching.has(pair)) this.count(pair);
  }

  /** What a thing is put down on it may touch, as deep as places are off. */
  private putDown(key: string): void {
    for (const [pair, { held, depth }] of [...this.open])
      if (held === key) {
        if (depth > PUT_DOWN) this.count(pair);
        this.open.delete(pair);
      }
  }
  private count(pair: string): void {
    const { held: _held, ...contact } = this.open.get(pair)!;
    this.open.delete(pair);
    this.found.set(pair, merged(this.found.get(pair), contact));
  }
  end(): SweptContact[] {
    for (const pair of [...this.open.keys()]) this.count(pair);
    return [...this.found.values()].sort((a, b) => a.fromS - b.fromS);
  }
}
/** Depths that are told as one (m). */
const ALIKE = 1e-5;
/** How deep (m) a thing may stand in what it is put down on. */
const PUT_DOWN = 0.004;

function merged(before: SweptContact | undefined, now: SweptContact): SweptContact {
  if (!before) return now;
  // What creeps on by less than can be told is where it was deepest when it came there.
  const { depth, at, deepestS } = before.depth >= now.depth - ALIKE ? before : now;
  return { ...before, depth, at, deepestS, untilS: now.untilS };
}

function* sweeping(scene: ContactScene, motion: Motion, heldAt: HeldAt): Generator<number, SweptContact[], void> {
  const { mechanism, parts, pairs } = scene;
  const gathered = new Gathered();
  const { durationS } = motion;
  const [next, speedThere, accel] = sampleBuffers(mechanism.m);
  const speedHere = new Float64Array(mechanism.m);
  motion.sampleInto(next, speedHere, accel, 0);
  const watch = new PairWatch(scene, next);
  const touching = new Map<number, Contact>();
  let held = NOTHING;
  const isThere = ({ held: key }: Part): boolean => key === undefined || held.has(key);
  /** Whether something was found, or found gone, that is not told yet. */
  let hasNews = false;
  let t = 0;
  const lookedAt = new Float64Array(pairs.length);
  const look = (pair: number): void => {
    lookedAt[pair] = t;
    hasNews = touching.delete(pair) || hasNews;
    if (watch.look(pair) > 0) return;
    const [i, j] = pairs[pair];
    const gap = gapOf(...watch.parts(pair), -TOUCH);
    if (gap.distance >= -TOUCH) return;
    touching.set(pair, { a: parts[i], b: parts[j], depth: -gap.distance, at: gap.at });
    hasNews = true;
  };
  let shown: readonly number[] = [];
  /** What is held now is there from now on; its pairs, or all of them, are looked at where the arm is. */
  const hold = (all: boolean): boolean => {
    const now = heldAt(t);
    if (!all && now.size === held.size && [...now].every((key) => held.has(key))) return false;
    held = now;
    shown = pairs.flatMap(([i, j], pair) => (isThere(parts[i]) && isThere(parts[j]) ? [pair] : []));
    for (const pair of touching.keys()) if (!shown.includes(pair)) touching.delete(pair);
    for (const pair of shown) if (all || pairs[pair].some((k) => parts[k].held !== undefined)) look(pair);
    return true;
  };
  const tell = (): void => {
    gathered.look(t, [...touching.values()], held);
    hasNews = false;
  };
  hold(true);
  tell();
  for (let dt = LONGEST; t < durationS;) {
    dt = Math.min(LONGEST, 2 * dt, durationS - t);
    for (;;) {
      motion.sampleInto(next, speedThere, accel, t + dt);
      watch.consider(next, speedHere, speedThere, dt);
      let over = 0;
      for (const pair of shown) {
        if (watch.wayOf(pair) <= watch.leftOf(pair)) continue;
        if (!watch.isFresh(pair)) look(pair);
        over = Math.max(over, watch.wayOf(pair) / watch.leftOf(pair));
      }
      if (over <= 1 || dt < SHORTEST) break;
      dt *= Math.max(0.05, Math.min(0.8, 0.9 / over));
    }
    if (hasNews) tell();
    watch.go(next);
    speedHere.set(speedThere);
    t += dt;
    // Whatever may have gone too far even in the shortest time; what touches, now and then; at the end whatever is close.
    for (const pair of shown)
      if (
        watch.leftOf(pair) < 0 ||
        (!watch.isFresh(pair) &&
          ((touching.has(pair) && t - lookedAt[pair] >= TOUCHING) ||
            (t >= durationS && watch.leftOf(pair) < STRIDE_M)))
      )
        look(pair);
    if (hold(false) || hasNews || touching.size) tell();
    yield t / durationS;
  }
  return gathered.end();
}
