/**
 * An arm led by hand: wishes for its joints that change while it goes. Each joint goes towards its wish by itself, no faster than a share of
 * its speed, and begins to brake where it still can: at the wish, at its limit, at a rule that depends on other joints too. What would
 * cross a rule slides along it.
 */
import { rangeFrom, type Mechanism } from '../mechanism';
import { valueTowards } from './towards';

/** Share of the joints' acceleration that is used: leading is gentle. */
const ACCEL = 0.5;
/** What a step (rad or m) of no more than this counts for. */
const NONE = 1e-9;

/**
 * Most speed from which a joint comes to a stand in `way`, slowing by `accel` at most, in whole steps of `dt`. With v = k·a·dt + r the
 * way is dt·((k+1)·v − a·dt·k(k+1)/2), the sum of what is gone in each step down to none.
 */
export function brakingSpeed(way: number, accel: number, dt: number): number {
  if (way <= 0) return 0;
  const unit = accel * dt * dt;
  const k = Math.floor((Math.sqrt(1 + (8 * way) / unit) - 1) / 2);
  return (way / dt + (accel * dt * k * (k + 1)) / 2) / (k + 1);
}

/** What is still gone (rad or m) after a step at speed `v`, slowing by `accel` in steps of `dt`: the other way round. */
export function brakingWay(v: number, accel: number, dt: number): number {
  const k = Math.floor(v / (accel * dt));
  return dt * (k * v - (accel * dt * k * (k + 1)) / 2);
}

export class Guide {
  /** Where the joints are, how fast, and where they are to go (slots, SI). */
  readonly pose: Float64Array;
  readonly speed: Float64Array;
  readonly wish: Float64Array;
  private rests = true;

  /** `share`: of the joints' own speed, above 0, at most 1. */
  constructor(
    private readonly mechanism: Mechanism,
    start: Float64Array,
    public share: number,
  ) {
    this.pose = start.slice();
    this.wish = start.slice();
    this.speed = new Float64Array(mechanism.m);
  }

  /** Where one joint is to go (SI); what it may not reach from the other wishes is kept to what it may. */
  lead(slot: number, value: number): void {
    this.wish[slot] = valueTowards(this.mechanism, this.wish, slot, value);
    if (this.wish[slot] !== this.pose[slot]) this.rests = false;
  }

  /** Stands there from now on. */
  place(pose: Float64Array): void {
    this.pose.set(pose);
    this.wish.set(pose);
    this.speed.fill(0);
    this.rests = true;
  }

  /** Slows down to a stand; what was wished before is forgotten. */
  stop(dt: number): void {
    const { mechanism, pose, speed, wish } = this;
    for (let s = 0; s < mechanism.m; s++)
      wish[s] = pose[s] + Math.sign(speed[s]) * brakingWay(Math.abs(speed[s]), ACCEL * mechanism.accel[s], dt);
  }

  /** Whether it stands: where it was to go, or where a rule lets it go no further towards that. */
  get isStill(): boolean {
    return this.rests;
  }

  /** A step of `dt` (s) further. */
  step(dt: number): void {
    const { mechanism, pose, speed, wish } = this;
    for (let s = 0; s < mechanism.m; s++) {
      const accel = ACCEL * mechanism.accel[s];
      const wanted = this.wanted(s, accel, dt);
      const most = accel * dt;
      const v = Math.min(speed[s] + most, Math.max(speed[s] - most, wanted));
      if (Math.abs(v * dt) < NONE && Math.abs(wanted * dt) < NONE) {
        speed[s] = 0;
        continue;
      }
      const aim = pose[s] + v * dt;
      // The last step ends where it is to, whatever the rounding.
      const near = Math.abs(aim - wish[s]) < NONE ? wish[s] : aim;
      const next = valueTowards(mechanism, pose, s, near);
      speed[s] = next === wish[s] && Math.abs(v) <= most ? 0 : (next - pose[s]) / dt;
      pose[s] = next;
    }
    this.rests = speed.every((v) => v === 0);
  }

  /** The speed at which a joint may go towards its wish. */
  private wanted(s: number, accel: number, dt: number): number {
    const { mechanism, pose, wish, share } = this;
    const way = wish[s] - pose[s];
    if (way === 0) return 0;
    const [low, high] = rangeFrom(mechanism, pose, s);
    const room = Math.min(Math.abs(way), way > 0 ? high - pose[s] : pose[s] - low);
    return Math.sign(way) * Math.min(share * mechanism.speed[s], brakingSpeed(room, accel, dt));
  }
}
