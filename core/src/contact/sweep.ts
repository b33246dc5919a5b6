/** Contacts along a motion, looked for at poses so close together that no part moves further between two of them than a set way. */
import { forward } from '../kinematics';
import { finish, jobOf, type Job } from '../jobs';
import { positionOf, vec3, type Vec3 } from '../linear';
import type { Mechanism } from '../mechanism';
import { contactsAt, type ContactScene } from './scene';

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
export function reachOfSlots(mechanism: Mechanism, q: Float64Array): Float64Array {
  const frames = forward(mechanism, q);
  const points = [...frames.joints.values(), ...frames.tools.values()].map((f) => positionOf(f));
  let span = 0;
  for (const p of points) for (const other of points) span = Math.max(span, vec3.distance(p, other));
  return Float64Array.from({ length: mechanism.m }, (_, s) =>
    mechanism.units[mechanism.jointOfSlot[s]] === 'mm' ? 1 : span,
  );
}

type PoseAt = (t: number, out: Float64Array) => Float64Array;

export const sweptContacts = (scene: ContactScene, poseAt: PoseAt, durationS: number): SweptContact[] =>
  finish(sweepJob(scene, poseAt, durationS));

/** The same in pieces; a unit of work is one look. */
export const sweepJob = (scene: ContactScene, poseAt: PoseAt, durationS: number): Job<SweptContact[]> =>
  jobOf(sweeping(scene, poseAt, durationS));

function* sweeping(scene: ContactScene, poseAt: PoseAt, durationS: number): Generator<number, SweptContact[], void> {
  const { mechanism } = scene;
  const found = new Map<string, SweptContact>();
  const here = new Float64Array(mechanism.m);
  const next = new Float64Array(mechanism.m);
  poseAt(0, here);
  const reach = reachOfSlots(mechanism, here);
  const look = (t: number, q: Float64Array): void => {
    for (const { a, b, depth, at } of contactsAt(scene, q)) {
      const key = `${a.name}/${b.name}`;
      const before = found.get(key);
      const deepest = before && before.depth >= depth ? before : { depth, at, deepestS: t };
      found.set(key, {
        a: { id: a.id, name: a.name },
        b: { id: b.id, name: b.name },
        depth: deepest.depth,
        at: deepest.at,
        deepestS: deepest.deepestS,
        fromS: before?.fromS ?? t,
        untilS: t,
      });
    }
  };
  look(0, here);
  let t = 0;
  for (let looks = 0; t < durationS && looks < MOST; looks++) {
    let dt = Math.min(LONGEST, durationS - t);
    for (;;) {
      poseAt(t + dt, next);
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
  return [...found.values()].sort((a, b) => a.fromS - b.fromS);
}
