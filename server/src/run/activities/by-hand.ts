/** The arm led by hand: joints towards wishes that change on the way, and straight steps of a tool one after the other. Stops in between. */
import type { Channels } from '@cork-elbow/core/commands';
import { Guide } from '@cork-elbow/core/kinematics';
import { sampleBuffers, type Motion } from '@cork-elbow/core/motion';
import { PERIOD } from '../pacer';
import type { Status } from '@cork-elbow/core/contract';
import type { Activity, Point } from './activity';
import { RISING } from './bring-up';
import { slowest } from './routine';

const DT = PERIOD / 1000;
/** Straight steps that may wait. */
export const MOST_WAITING = 8;

export class ByHand implements Activity {
  readonly cushionMs = RISING;
  private readonly guide: Guide;
  /** The straight step under way: its time, and how fast that goes. */
  private way: { readonly motion: Motion; time: number; rate: number; ends: boolean } | null = null;
  private waiting: Motion[] = [];
  /** Joints led while a straight step is under way: it slows to a stand first. */
  private led: (readonly [slot: number, value: number])[] = [];
  private leaves = false;

  constructor(
    private readonly channels: Channels,
    start: Float64Array,
    /** How far past limits or rules it stood: it may go back, no further. */
    readonly leeway: number,
  ) {
    this.guide = new Guide(channels.mechanism, start, 0);
  }

  /** Whether it is ending, and takes no more wishes. */
  get isLeaving(): boolean {
    return this.leaves;
  }

  /** Where it will stand when all that was asked for is done; what comes next begins there. */
  get wish(): Float64Array {
    const last = this.waiting.at(-1) ?? (this.way && !this.way.ends ? this.way.motion : null);
    if (!last) return this.guide.wish;
    const [pose, speed, accel] = sampleBuffers(this.channels.mechanism.m);
    last.sampleInto(pose, speed, accel, last.durationS);
    return pose;
  }

  /** Joints towards values (slots, SI), at a share of their speed. */
  lead(values: readonly (readonly [slot: number, value: number])[], share: number): void {
    this.guide.share = share;
    this.waiting = [];
    if (this.way) {
      this.way.ends = true;
      this.led.push(...values);
    } else for (const [slot, value] of values) this.guide.lead(slot, value);
  }
  /** A planned step of a tool, from where it will stand. False where too many wait. */
  step(motion: Motion): boolean {
    if (this.waiting.length >= MOST_WAITING) return false;
    this.waiting.push(motion);
    return true;
  }
  /** Slows to a stand, and forgets what else was asked for. */
  stop(): void {
    this.waiting = [];
    this.led = [];
    if (this.way) this.way.ends = true;
    else this.guide.stop(DT);
  }
  /** Stops, and ends. */
  leave(): void {
    this.stop();
    this.leaves = true;
  }

  wakes(): [] {
    return [];
  }
  get isMoving(): boolean {
    return this.way !== null || this.waiting.length > 0 || !this.guide.isStill;
  }

  beat(): void {
    if (!this.way && this.guide.isStill) {
      const motion = this.waiting.shift();
      if (motion) this.way = { motion, time: 0, rate: 1, ends: false };
    }
    if (!this.way) return this.guide.step(DT);
    const { way } = this;
    const before = way.rate;
    if (way.ends) way.rate = Math.max(0, before - DT / slowest(this.channels.mechanism));
    way.time = Math.min(way.motion.durationS, way.time + ((before + way.rate) / 2) * DT);
    if (way.time < way.motion.durationS && way.rate > 0) return;
    this.guide.place(this.onWay(way));
    this.way = null;
    for (const [slot, value] of this.led.splice(0)) this.guide.lead(slot, value);
  }
  stall(): void {}

  private onWay({ motion, time }: { readonly motion: Motion; readonly time: number }): Float64Array {
    const [pose, speed, accel] = sampleBuffers(this.channels.mechanism.m);
    motion.sampleInto(pose, speed, accel, time);
    return pose;
  }

  /** Motors that are sent speeds stand. */
  pointAt(): Point {
    const pose = this.way ? this.onWay(this.way) : this.guide.pose.slice();
    return { pose, values: this.channels.values(pose, new Float64Array(pose.length)) };
  }

  outcome(): 'finished' | null {
    return this.leaves && !this.isMoving ? 'finished' : null;
  }
  close(): Partial<Status> {
    return { mode: 'normal' };
  }
}
