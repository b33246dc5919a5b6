/** Contacts along a motion, looked for at poses so close together that no part moves further between two of them than a set way. */
import { forward } from '../kinematics';
import { positionOf, vec3 } from '../linear';
import type { Mechanism } from '../mechanism';
import { contactsAt, type Contact, type ContactScene } from './scene';

export interface SweptContact extends Contact {
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

export function sweptContacts(
  scene: ContactScene,
  poseAt: (t: number, out: Float64Array) => Float64Array,
  durationS: number,
): SweptContact[] {
  const { mechanism } = scene;
  const found = new Map<string, SweptContact>();
  const here = new Float64Array(mechanism.m);
  const next = new Float64Array(mechanism.m);
  poseAt(0, here);
  const reach = reachOfSlots(mechanism, here);
  const look = (t: number, q: Float64Array): void => {
    for (const contact of contactsAt(scene, q)) {
      const key = `${contact.a.name}/${contact.b.name}`;
      const before = found.get(key);
      found.set(
        key,
        before
          ? {
              ...(contact.depth > before.depth ? { ...contact, deepestS: t } : before),
              fromS: before.fromS,
              untilS: t,
            }
          : { ...contact, fromS: t, untilS: t, deepestS: t },
      );
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
  }
  return [...found.values()].sort((a, b) => a.fromS - b.fromS);
}
