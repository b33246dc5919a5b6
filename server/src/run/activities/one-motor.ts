/** One motor by itself, sent values in its own unit: for measuring it. What its joint may do does not count; its own range does. */
import { isSpin, type CommandMap } from '@cork-elbow/core/actuators';
import type { Values } from '@cork-elbow/core/commands';
import { PERIOD } from '../pacer';
import type { Status } from '@cork-elbow/core/contract';
import type { Desk } from '../desk';
import type { Activity, Point } from './activity';
import { RISING } from './bring-up';

export class OneMotor implements Activity {
  readonly cushionMs = RISING;
  private value: number;
  private wish: number;
  private isOn = false;

  /** `perS`: native units in a second on its way to a value; motors that are sent speeds are sent them at once. */
  constructor(
    readonly map: CommandMap,
    start: number,
    private readonly perS: number,
  ) {
    this.value = this.wish = start;
  }

  /** Towards a value, whole. */
  send(value: number): void {
    this.wish = Math.round(value);
  }
  /** Stays where it is by now, or stands still. */
  stop(): void {
    this.wish = isSpin(this.map) ? this.map.stopUs : Math.round(this.value);
  }

  wakes(): Values {
    if (this.isOn) return [];
    this.isOn = true;
    return [[this.map, Math.round(this.value)]];
  }
  get isMoving(): boolean {
    // A board stops by itself what is sent speeds and no more points.
    return this.value !== this.wish || (isSpin(this.map) && this.value !== this.map.stopUs);
  }
  beat(): void {
    const most = isSpin(this.map) ? Infinity : (this.perS * PERIOD) / 1000;
    const way = this.wish - this.value;
    this.value = Math.abs(way) <= most ? this.wish : this.value + Math.sign(way) * most;
  }
  stall(): void {}
  pointAt(): Point {
    return { pose: null, values: [[this.map, Math.round(this.value)]] };
  }
  outcome(): null {
    return null;
  }
  /** Its joint is where it was sent, as far as anybody knows. */
  close(desk: Desk): Partial<Status> {
    desk.standAsSent();
    return { mode: 'normal', motor: null };
  }
}
