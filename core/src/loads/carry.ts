/** The heaviest that a motion's own payload may be: what a motor or the base is asked for is linear in the mass, at every moment. */
import { jobOf, type Job } from '../jobs';
import { sampleBuffers, sampleTimes, type Motion } from '../motion';
import type { Mechanism } from '../mechanism';
import type { Hardware } from '../rig';
import { withTools, type HeldFrom } from './along';
import { Loading } from './loading';
import { borneOf } from './pace';
import { aKilogram, type GivesWay, type Heaviest } from './worst';

const EVERY = 0.02;
const MOST = 4000;
const CHUNK = 50;

/** Over all moments in which one thing is held, its mass changed and its place kept; null where nothing is ever held. */
export const carryJob = (
  rig: Hardware,
  mechanism: Mechanism,
  motion: Motion,
  holds: readonly HeldFrom[],
): Job<(Heaviest & { readonly timeS: number }) | null> => jobOf(work(rig, mechanism, motion, holds));

function* work(
  rig: Hardware,
  mechanism: Mechanism,
  motion: Motion,
  holds: readonly HeldFrom[],
): Generator<number, (Heaviest & { readonly timeS: number }) | null, void> {
  const pairs = holds.map(({ held, mounted }) => {
    const [one, ...others] = held;
    if (!one || others.length) return null;
    const own = withTools(mechanism, mounted);
    return { own: new Loading(rig, own), more: aKilogram(rig, own, one) };
  });
  const [q, v, a] = sampleBuffers(mechanism.m);
  let found: (Heaviest & { timeS: number }) | null = null;
  const timeS = sampleTimes(motion.durationS, Math.max(EVERY, motion.durationS / MOST));
  let on = 0;
  for (let i = 0; i < timeS.length; i++) {
    if (i % CHUNK === 0) yield i / timeS.length;
    const t = timeS[i];
    while (on + 1 < holds.length && holds[on + 1].fromS <= t) on++;
    const pair = pairs[on];
    if (!pair) continue;
    found ??= { kg: Infinity, by: null, timeS: t };
    motion.sampleInto(q, v, a, t);
    const { own, more } = pair;
    const base = own.moving(q, v, a);
    const per = more.moving(q, v, a);
    const bound = (kg: number, by: GivesWay): void => {
      if (kg < found!.kg) found = { kg: Math.max(0, kg), by, timeS: t };
    };
    base.asks.forEach(({ nm, usableNm: usable, degPerS }, k) => {
      const isFree = own.motors[k].slots.some((slot) => holds[on].free?.has(mechanism.slotIds[slot]));
      if (usable === null || isFree) return;
      for (const sense of [1, -1] as const) {
        const has = sense * nm;
        const adds = sense * per.asks[k].nm;
        const { scale, off } = borneOf({ degPerS, ...own.losses[k] }, sense);
        const bears = Math.max(0, scale * usable + off);
        const way = { kind: 'motor', index: k } as const;
        if (has > bears) bound(0, way);
        else if (adds > 0) bound((bears - has) / adds, way);
      }
    });
    if (own.support.stands) bound(own.support.mostOf(base.wrench, per.wrench), { kind: 'base' });
  }
  return found;
}
