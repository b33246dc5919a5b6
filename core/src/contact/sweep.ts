/** Contacts along a motion, looked for at poses so close together that no part moves further between two of them than a set way. */
import { forward } from '../kinematics';
import { finish, jobOf, type Job } from '../jobs';
import { positionOf, vec3, type Vec3 } from '../linear';
import { sampleBuffers, type Motion } from '../motion';
import { contactsAt, type Contact, type ContactScene } from './scene';

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

/** Way (m) that no part goes beyond between two looks. */
const STRIDE_M = 0.002;
/** Longest time between two looks (s), and the most looks at one motion. */
const LONGEST = 0.25;
const MOST = 20000;

/** Bound (m per rad or m) on how far any part moves for each slot: 1 for slides, the arm's reach beyond it for turns. */
export function reachOfSlots(
  { mechanism, parts }: Pick<ContactScene, 'mechanism' | 'parts'>,
  q: Float64Array,
): Float64Array {
  const frames = forward(mechanism, q);
  const points = [...frames.joints.values(), ...frames.tools.values()].map((f) => positionOf(f));
  let span = 0;
  for (const p of points) for (const other of points) span = Math.max(span, vec3.distance(p, other));
  // What is held reaches further than the tool.
  let beyond = 0;
  for (const { held, solid } of parts)
    if (held !== undefined && solid.kind === 'filled') beyond = Math.max(beyond, vec3.norm(solid.half) * 2);
  span += beyond;
  return Float64Array.from({ length: mechanism.m }, (_, s) =>
    mechanism.units[mechanism.jointOfSlot[s]] === 'mm' ? 1 : span,
  );
}

/** Keys of what is held at a time (s). */
type HeldAt = (t: number) => ReadonlySet<string>;
const NOTHING: ReadonlySet<string> = new Set();

export const sweptContacts = (scene: ContactScene, motion: Motion, heldAt?: HeldAt): SweptContact[] =>
  finish(sweepJob(scene, motion, heldAt));

/** The same in pieces; a unit of work is one look. */
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
/** How deep (m) a thing may stand in what it is put down on. */
const PUT_DOWN = 0.004;

function merged(before: SweptContact | undefined, now: SweptContact): SweptContact {
  if (!before) return now;
  const { depth, at, deepestS } = before.depth >= now.depth ? before : now;
  return { ...before, depth, at, deepestS, untilS: now.untilS };
}

function* sweeping(scene: ContactScene, motion: Motion, heldAt: HeldAt): Generator<number, SweptContact[], void> {
  const { mechanism } = scene;
  const gathered = new Gathered();
  const { durationS } = motion;
  const here = new Float64Array(mechanism.m);
  const [next, speed, accel] = sampleBuffers(mechanism.m);
  motion.sampleInto(here, speed, accel, 0);
  const reach = reachOfSlots(scene, here);
  const look = (t: number, q: Float64Array): void => {
    const held = heldAt(t);
    gathered.look(t, contactsAt(scene, q, held), held);
  };
  look(0, here);
  let t = 0;
  for (let looks = 0; t < durationS && looks < MOST; looks++) {
    let dt = Math.min(LONGEST, durationS - t);
    for (;;) {
      motion.sampleInto(next, speed, accel, t + dt);
      let moved = 0;
      for (let s = 0; s < mechanism.m; s++) moved += Math.abs(next[s] - here[s]) * reach[s];
      if (moved <= STRIDE_M || dt < 1e-4) break;
      dt *= Math.max(0.05, Math.min(0.8, (0.9 * STRIDE_M) / moved));
    }
    t += dt;
    here.set(next);
    look(t, here);
    yield t / durationS;
  }
  return gathered.end();
}
