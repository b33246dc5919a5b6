/**
 * How much faster than it was planned motion may go. With time running r times as fast a joint's speed is r q̇ and its acceleration
 * r² q̈ + ṙ q̇; the tool's own pace is the builder's wish and goes along.
 */
import { isSpin, shaftSpeed, type CommandMap } from '../actuators';
import { MOST_PACE } from '../contract';
import type { Mechanism } from '../mechanism';
import { sampleBuffers, type Motion } from '../motion';

/** Looks ahead (s of the motion) are this far apart. */
const LOOK = 0.02;
/** Until so far ahead (s of the motion) r may stay what it is now. */
const SOON = 0.04;
/** Speeds below this (rad/s or m/s, and so many in a second) are none. */
const STILL = 1e-9;

/**
 * At time t (s): each joint stays inside its speed and, while r changes by up to `slope` a second, its acceleration; each motor
 * inside its speed. Never less than 1: what was planned may be done.
 */
export function paceAt(
  motion: Motion,
  mechanism: Mechanism,
  maps: readonly CommandMap[],
  slope: number,
  t: number,
): number {
  const [q, v, a] = sampleBuffers(mechanism.m);
  motion.sampleInto(q, v, a, t);
  let most = MOST_PACE;
  for (let s = 0; s < mechanism.m && most > 1; s++) {
    const [speed, accel] = [Math.abs(v[s]), Math.abs(a[s])];
    if (speed > STILL) most = Math.min(most, mechanism.speed[s] / speed);
    if (accel > STILL) most = Math.min(most, Math.sqrt(Math.max(0, mechanism.accel[s] - slope * speed) / accel));
  }
  for (const map of maps) {
    if (most <= 1) break;
    if (isSpin(map)) continue;
    const share = shaftSpeed(map, mechanism, q, v)?.share ?? 0;
    if (share > STILL) most = Math.min(most, 1 / share);
  }
  return Math.max(1, most);
}

/** How much faster motion may go at each of its times, with what lies ahead of it in sight. */
export class PaceAhead {
  /** By look; NaN: not looked at yet. */
  private readonly known: Float64Array;

  /**
   * `slope`: by how much r changes in a second. `again`: from which time on the motion goes round behind its end, if it does.
   */
  constructor(
    private readonly motion: Motion,
    private readonly mechanism: Mechanism,
    private readonly maps: readonly CommandMap[],
    private readonly slope: number,
    private readonly again: number | null = null,
  ) {
    this.known = new Float64Array(Math.ceil(motion.durationS / LOOK) + 2).fill(NaN);
  }

  /** From time t (s) on, so that what comes is come to slowly enough, r falling by at most `slope` a second. */
  most(t: number): number {
    const { slope, motion, again } = this;
    let most = MOST_PACE;
    for (let k = Math.floor(t / LOOK); ; k++) {
      const at = k * LOOK;
      // At r the motion comes by in 1/r of its time; what comes before r is looked at again holds as it is.
      const falls = (slope * Math.max(0, at - t - SOON)) / MOST_PACE;
      if (1 + falls >= most) return most;
      const beyond = at - motion.durationS;
      if (beyond > LOOK && again === null) return most;
      most = Math.min(most, this.at(beyond > 0 && again !== null ? again + beyond : at) + falls);
    }
  }
  private at(t: number): number {
    const k = Math.min(this.known.length - 1, Math.round(t / LOOK));
    if (Number.isNaN(this.known[k]))
      this.known[k] = paceAt(this.motion, this.mechanism, this.maps, this.slope, k * LOOK);
    return this.known[k];
  }
}
