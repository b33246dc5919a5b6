/**
 * Moves slowed down for loads, where a routine wants that. A move with a profile that is retimed is retimed with rows for its motors and its
 * base, and slows down where they need it. Any move, and what that leaves between the nodes, is slowed as a whole: at k times its pace a
 * move's speeds are k and its accelerations k² times as large, along the same way, and the greatest k that leaves every motor, or the base,
 * what it has follows in closed form at each moment (see loads/pace); the least of them is taken. What is too much at rest already is not
 * helped by any pace, and is left to what is found about it.
 */
import { Loading, LoadsOnPath, withTools, type MomentPace } from '../loads';
import type { Mechanism } from '../mechanism';
import { blockMotion, sampleBuffers, type Block } from '../motion';
import type { Respect, Rig } from '../rig';
import { heldIn } from './held';
import { slowedBy, type MadeBlock } from './legs';
import type { MoveCache } from './move-cache';

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

const keyOf = ({ carried, mounted }: Burden): string => JSON.stringify([[...carried], [...mounted]]);

export class Ease {
  private readonly loadings = new Map<string, Loading>();
  /** What is reckoned with, besides the mechanism. */
  private readonly of: string;
  constructor(
    private readonly rig: Rig,
    private readonly mechanism: Mechanism,
    private readonly cache: MoveCache,
  ) {
    this.of = JSON.stringify([rig.drives, rig.transmissions, rig.payloads]);
  }

  private loadingOf(burden: Burden): Loading {
    const key = keyOf(burden);
    let found = this.loadings.get(key);
    if (!found) {
      const mechanism = withTools(this.mechanism, burden.mounted);
      found = new Loading(this.rig, mechanism, heldIn(this.rig.payloads, mechanism, burden.carried));
      this.loadings.set(key, found);
    }
    return found;
  }

  /** A block, slowed down where it has to be. */
  eased(made: MadeBlock, respect: readonly Respect[], burden: Burden): MadeBlock {
    if (!respect.length || made.block.duration <= 0) return made;
    const key = `${made.key} ${respect.join()} ${keyOf(burden)} ${[...burden.loose].join()}`;
    const { block, ends } = this.cache.eased(this.of, key, () => this.quickest(made, respect, burden));
    return { ...made, block, ends: made.ends.map(({ leg }, k) => ({ leg, s: ends[k].s })) };
  }

  private quickest(made: MadeBlock, respect: readonly Respect[], burden: Burden): MadeBlock {
    const load = new LoadsOnPath(this.loadingOf(burden), respect, burden.loose);
    const evenly = this.evenly(made, load);
    if (evenly === made) return made;
    const retimed = made.bearing(load);
    if (!retimed) return evenly;
    // What is left over between its nodes.
    const by = 'slowedFor' in evenly.block ? evenly.block.slowedFor! : 'torque';
    const kept = this.evenly(slowedBy(retimed, 1, by), load);
    return kept.block.duration < evenly.block.duration ? kept : evenly;
  }

  /**
   * The block as a whole at a pace that leaves every moment what it needs; itself where that is its own. Slower, a moment that was
   * helped by its pace may be too much in its turn: slowed until none is.
   */
  private evenly(made: MadeBlock, load: LoadsOnPath): MadeBlock {
    for (let slowed = made; ;) {
      const { times, by } = this.paceOf(slowed.block, load);
      if (times === Infinity) return slowed;
      slowed = slowedBy(slowed, 1 / (Math.min(1, times) * MARGIN), by);
    }
  }
  private paceOf(block: Block, load: LoadsOnPath): MomentPace {
    const motion = blockMotion(block);
    const [q, v, a] = sampleBuffers(this.mechanism.m);
    const looks = Math.min(MOST, Math.max(LEAST, Math.ceil(block.duration / EVERY)));
    let least: MomentPace = { times: Infinity, by: 'torque' };
    for (let i = 0; i <= looks; i++) {
      // Just inside both ends, where it speeds up and slows down.
      motion.sampleInto(q, v, a, block.duration * Math.min(1 - 1e-9, Math.max(1e-9, i / looks)));
      const moment = load.momentAt(q, v, a);
      if (moment.times < least.times) least = moment;
    }
    return least;
  }
}
