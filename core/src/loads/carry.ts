/** The heaviest that a motion's own payload may be: what a motor or the base is asked for is linear in the mass, at every moment. */
import { shaftSpeed } from '../actuators';
import { jobOf, type Job } from '../jobs';
import { sampleBuffers, sampleTimes, type Motion } from '../motion';
import type { Mechanism } from '../mechanism';
import type { Hardware } from '../rig';
import { withTools, type HeldFrom } from './along';
import { usableNm } from './demand';
import { Loading } from './loading';
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
    own.motors.forEach((motor, k) => {
      const degPerS = shaftSpeed(motor, mechanism, q, v)?.degPerS ?? 0;
      const usable = usableNm(motor, degPerS);
      if (usable === null || holds[on].free?.has(mechanism.slotIds[motor.slots[0]])) return;
      const { efficiency, friction } = own.losses[k];
      for (const sense of [1, -1]) {
        const has = sense * base.asks[k].nm;
        const adds = sense * per.asks[k].nm;
        const bears = sense * degPerS < 0 ? usable / efficiency + friction : usable * efficiency - friction;
        const way = { kind: 'motor', index: k } as const;
        if (has > Math.max(0, bears)) bound(0, way);
        else if (adds > 0) bound((Math.max(0, bears) - has) / adds, way);
      }
    });
    if (own.support.stands) bound(own.support.mostOf(base.wrench, per.wrench), { kind: 'base' });
  }
  return found;
}
