/**
 * Rules between joints inside a solver's step: sums, conditions and cables as half-spaces of the joints it moves.
 *
 * A side that a step would cross is taken into the step's least squares with a weight that leaves nothing else a say, and
 * the step is worked out again; one that would rather be left is let go (working set and quadratic penalty; Nocedal &
 * Wright, *Numerical Optimization*, ch. 16.5 and 17.1). The bound aimed at lies a hair inside.
 */
import { beyond, crossedSides, hasRules, rulesExcess, type HalfSpace, type Mechanism } from '../mechanism';

/** How far (SI) inside of a rule a held side is aimed at. */
const INSET = 2e-7;
/** Weight of a held side against the joints' own trace. */
const FIRM = 1e9;
/** Rounds of putting a pose inside the rules. */
const ROUNDS = 60;

export class RuleSides {
  private held: HalfSpace[] = [];
  private readonly column: Int32Array;
  private readonly gradient: Float64Array;

  /** `slots`: those that the solver moves, one a column; `size`: (half range)² of each. */
  private constructor(
    private readonly mechanism: Mechanism,
    private readonly slots: Int32Array,
    private readonly size: Float64Array,
  ) {
    this.column = new Int32Array(mechanism.m).fill(-1);
    slots.forEach((slot, i) => (this.column[slot] = i));
    this.gradient = new Float64Array(slots.length);
  }

  /** Null for an arm without rules. */
  static of(mechanism: Mechanism, slots: Int32Array, size: Float64Array): RuleSides | null {
    return hasRules(mechanism) ? new RuleSides(mechanism, slots, size) : null;
  }

  /** Moves q inside the rules by the shortest ways against the joints' ranges; false where that does not lead there. */
  enter(q: Float64Array, low: Float64Array, high: Float64Array): boolean {
    const { mechanism, slots, size, gradient } = this;
    for (let round = 0; round < ROUNDS; round++) {
      const sides = crossedSides(mechanism, q);
      if (!sides.length) return true;
      for (const side of sides) {
        const square = this.point(side);
        if (square === 0) return false;
        const by = (beyond(side, q) + INSET) / square;
        for (let i = 0; i < slots.length; i++) {
          const s = slots[i];
          q[s] = Math.min(high[i], Math.max(low[i], q[s] - by * gradient[i] * size[i]));
        }
      }
    }
    return crossedSides(mechanism, q).length === 0;
  }

  /** Before a new step: no side is held. */
  release(): void {
    this.held = [];
  }

  /** Holds the sides that a trial pose crosses and lets go of those that only pull at it; whether anything changed. */
  adjust(trial: Float64Array): boolean {
    const crossed = crossedSides(this.mechanism, trial);
    const kept = this.held.filter((side) => beyond(side, trial) > -INSET * (1 + 1e-3));
    const isHeld = (side: HalfSpace): boolean =>
      this.held.some((h) => h.terms === side.terms && h.sign === side.sign && h.bound === side.bound);
    const added = crossed.filter((side) => !isHeld(side));
    const changed = added.length > 0 || kept.length < this.held.length;
    this.held = [...kept, ...added];
    return changed;
  }

  /** Adds the held sides to the lower triangle of H and to g, for a step from q; `trace`: mean of H·size. */
  weigh(h: Float64Array, g: Float64Array, q: Float64Array, trace: number): void {
    const { gradient } = this;
    const k = this.slots.length;
    for (const side of this.held) {
      const square = this.point(side);
      if (square === 0) continue;
      const weight = (FIRM * trace) / square;
      const room = -INSET - beyond(side, q);
      for (let i = 0; i < k; i++) {
        if (gradient[i] === 0) continue;
        g[i] += weight * gradient[i] * room;
        for (let j = 0; j <= i; j++) h[i * k + j] += weight * gradient[i] * gradient[j];
      }
    }
  }

  /** The share of the way from q to a trial pose, 1 for all of it, that stays inside the rules. */
  shareInside(q: Float64Array, trial: Float64Array): number {
    if (rulesExcess(this.mechanism, trial) <= 0) return 1;
    let share = 1;
    const at = trial.slice();
    for (let halving = 0; halving < 40; halving++) {
      share /= 2;
      for (let s = 0; s < at.length; s++) at[s] = q[s] + share * (trial[s] - q[s]);
      if (rulesExcess(this.mechanism, at) <= 0) return share;
    }
    return 0;
  }

  /** Writes a side's outward gradient to `gradient`; returns its square against the joints' ranges. */
  private point({ terms, sign }: HalfSpace): number {
    const { gradient, column, size } = this;
    gradient.fill(0);
    let square = 0;
    for (const { slot, factor } of terms) {
      const i = column[slot];
      if (i < 0) continue;
      gradient[i] = sign * factor;
      square += factor * factor * size[i];
    }
    return square;
  }
}
