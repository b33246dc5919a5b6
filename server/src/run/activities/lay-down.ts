/** The arm goes to where it rests, by the power-up plan's way back; its motors go off there. Its time is the clock's. */
import type { Channels, Values } from '@cork-elbow/core/commands';
import { sampleBuffers, type Motion } from '@cork-elbow/core/motion';
import type { Status } from '@cork-elbow/core/contract';
import type { Activity, Outcome, Point } from './activity';
import { RISING } from './bring-up';

/** For how long (ms) motors may lag behind the last point. */
const SETTLE = 250;

export class LayDown implements Activity {
  readonly cushionMs = RISING;
  readonly isMoving = true;

  constructor(
    private readonly motion: Motion,
    private readonly channels: Channels,
    private began: number,
  ) {}

  wakes(): Values {
    return [];
  }
  beat(): void {}
  stall(): void {}

  pointAt(now: number): Point {
    const [pose, speed, accel] = sampleBuffers(this.channels.mechanism.m);
    this.motion.sampleInto(pose, speed, accel, Math.max(0, now - this.began) / 1000);
    return { pose, values: this.channels.values(pose, speed) };
  }

  outcome(now: number): Outcome | null {
    return now >= this.began + this.motion.durationS * 1000 + SETTLE ? 'finished' : null;
  }
  close(): Partial<Status> {
    return { mode: 'normal' };
  }
}
