/**
 * Moves slowed down for loads, where a routine wants that. At k times its pace a move's speeds are k and its accelerations k² times as
 * large, along the same way: the greatest k that leaves every motor, or the base, what it has follows in closed form at each moment (see
 * loads/pace), the least of them is taken. What is too much at rest already is not helped by any pace, and is left to what is found about it.
 */
import { shaftSpeed } from '../actuators';
import { Loading, withTools } from '../loads';
import type { Mechanism } from '../mechanism';
import { blockMotion, sampleBuffers, slower, type Block } from '../motion';
import type { Respect, Rig } from '../rig';
import { heldIn } from './held';

/** Looks at a block are this far apart (s), but so many at least and at most. */
const EVERY = 0.005;
const LEAST = 160;
const MOST = 4000;
/** What happens between two looks. */
const MARGIN = 0.997;

/** What the arm has on and in its hands while a block goes on. */
export interface Burden {
  readonly carried: ReadonlyMap<string, string>;
  readonly mounted: ReadonlySet<string>;
  /** Slots whose motors are let go. */
  readonly loose: ReadonlySet<number>;
}

export class Ease {
  private readonly loadings = new Map<string, Loading>();
  constructor(
    private readonly rig: Rig,
    private readonly mechanism: Mechanism,
  ) {}

  private loadingOf({ carried, mounted }: Burden): Loading {
    const key = JSON.stringify([[...carried], [...mounted]]);
    let found = this.loadings.get(key);
    if (!found) {
      const mechanism = withTools(this.mechanism, mounted);
      found = new Loading(this.rig, mechanism, heldIn(this.rig.payloads, mechanism, carried));
      this.loadings.set(key, found);
    }
    return found;
  }

  /** The block, slowed down where it has to be. */
  eased(block: Block, respect: readonly Respect[], burden: Burden): Block {
    if (!respect.length || block.duration <= 0) return block;
    const loading = this.loadingOf(burden);
    const { motors, support, mechanism } = loading;
    const motion = blockMotion(block);
    const [q, v, a] = sampleBuffers(mechanism.m);
    const looks = Math.min(MOST, Math.max(LEAST, Math.ceil(block.duration / EVERY)));
    let share = 1;
    let by: Respect = 'torque';
    const bound = (most: number, why: Respect): void => {
      // At rest already: no pace helps.
      if (most > 0 && most * MARGIN < share) [share, by] = [most * MARGIN, why];
    };
    for (let i = 0; i <= looks; i++) {
      // Just inside both ends, where it speeds up and slows down.
      motion.sampleInto(q, v, a, block.duration * Math.min(1 - 1e-9, Math.max(1e-9, i / looks)));
      const rest = loading.rest(q);
      const still = support.stands ? loading.restWrench() : null;
      const { asks, wrench } = loading.moving(q, v, a);
      if (respect.includes('torque'))
        motors.forEach((motor, k) => {
          if (motor.slots.some((slot) => burden.loose.has(slot))) return;
          const degPerS = shaftSpeed(motor, mechanism, q, v)?.degPerS ?? 0;
          bound(loading.motorPace(k, asks[k], rest[k], degPerS), 'torque');
        });
      if (still && respect.includes('tip')) bound(loading.basePace(still, wrench), 'tip');
    }
    return share < 1 ? slower(block, 1 / share, by) : block;
  }
}
