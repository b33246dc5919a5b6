/**
 * A routine on the boards: the way to its begin, then what motors are told of it. Pausing and stopping ramp the speed of time down,
 * inside the joints' accelerations. The board that keeps time moves it on by a period a point; what other boards are sent in between is
 * where the run is by then.
 */
import type { Channels, SignalPin, Values } from '@cork-elbow/core/commands';
import type { RunState, Status } from '@cork-elbow/core/contract';
import type { Mechanism } from '@cork-elbow/core/mechanism';
import { sampleBuffers } from '@cork-elbow/core/motion';
import { stepAt } from '@cork-elbow/core/routine';
import { PERIOD } from '../pacer';
import type { PreparedRun } from '../prepare';
import type { Switches } from '../session';
import type { Activity, Outcome, Point } from './activity';

/** What is queued on a board (ms) just after it took a point. */
export const CUSHION = 60;
/** Times of the plan (s) this near are one. */
const EPS = 1e-9;
/** After the last point: cushion, lag of the motors, then the run counts as finished. */
const SETTLE = 250;

export type Course = Extract<PreparedRun, { ok: true }>;

export class RoutineRun implements Activity {
  readonly cushionMs = CUSHION;
  /** Time of the run (s), and what the laps done so far took. */
  private time = 0;
  private lapped = 0;
  private rate: number;
  private wish: number;
  /** Change of the rate per ms while it ramps. */
  private readonly slope: number;
  private ends: 'finished' | 'stopped' | null = null;
  private quietAt: number | null = null;
  private beatAt = -Infinity;
  /** Whether it is past its way to the begin. */
  private hasBegun = false;
  /** What of the plan switches outputs, in time. */
  private readonly switching: readonly { readonly timeS: number; readonly pin: SignalPin; readonly on: boolean }[];

  constructor(
    readonly runId: string,
    readonly routineId: string,
    private readonly course: Course,
    private readonly channels: Channels,
    pins: readonly SignalPin[] = [],
  ) {
    const { plan, from, fromIndex } = course;
    this.switching = plan.events.flatMap((event) => {
      if (event.kind !== 'output') return [];
      const pin = pins.find(({ signal }) => signal.id === event.signal);
      // What a step before the first one does at the very moment of the begin is not done.
      const isBefore = event.routine === routineId && event.index < fromIndex && event.timeS <= from + EPS;
      return pin && !isBefore ? [{ timeS: event.timeS, pin, on: event.on }] : [];
    });
    this.rate = this.wish = course.full;
    this.slope = 1 / (1000 * slowest(course.mechanism));
  }

  wakes(): Values {
    return [];
  }

  get isMoving(): boolean {
    return this.quietAt === null && (this.rate > 0 || this.wish > 0);
  }

  beat(now: number): Switches {
    const before = this.rate;
    const step = this.slope * PERIOD;
    this.rate = this.wish > before ? Math.min(this.wish, before + step) : Math.max(this.wish, before - step);
    const { motion, round } = this.course;
    const [was, isFirst] = [this.planTime(), !this.hasBegun];
    const time = this.time + ((before + this.rate) / 2) * (PERIOD / 1000);
    if (!round) this.time = Math.min(motion.durationS, time);
    else if (time >= round.atS + round.lapS) {
      this.time = time - round.lapS;
      this.lapped += round.lapS;
    } else this.time = time;
    this.beatAt = now;
    const isOn = this.time >= this.course.lead;
    this.hasBegun ||= isOn;
    const switched = isOn ? this.between(isFirst ? null : was, this.planTime()) : [];
    if (!round && this.time >= motion.durationS) {
      this.ends ??= 'finished';
      this.quietAt = now + CUSHION + PERIOD + SETTLE;
    } else if (this.rate === 0 && this.ends) this.quietAt = now + CUSHION + PERIOD;
    return switched;
  }

  /** What switches after a time of the plan up to another one; from its begin on where that is null; round by its end. */
  private between(after: number | null, upTo: number): Switches {
    const { from, plan, round } = this.course;
    const pass = (low: number, high: number, isFirst: boolean): Switches =>
      this.switching
        .filter(({ timeS }) => (isFirst ? timeS >= low - EPS : timeS > low + EPS) && timeS <= high + EPS)
        .map(({ pin, on }) => [pin, on]);
    if (after === null) return pass(from, upTo, true);
    if (upTo >= after || !round) return pass(after, upTo, false);
    return [...pass(after, plan.durationS, false), ...pass(round.againS, upTo, true)];
  }

  stall(now: number): void {
    this.beatAt = now;
  }

  pointAt(now: number): Point {
    const { motion, mechanism } = this.course;
    const [pose, speed, accel] = sampleBuffers(mechanism.m);
    // Between two beats of the board that keeps time, never further than its next one.
    const since = Math.min(PERIOD, Math.max(0, now - this.beatAt)) / 1000;
    const ahead = Number.isFinite(this.beatAt) && this.quietAt === null ? since * this.rate : 0;
    motion.sampleInto(pose, speed, accel, Math.min(motion.durationS, this.time + ahead));
    // Time runs slower while it ramps, and so do the speeds.
    const paced = speed.map((v) => v * this.rate);
    return { pose, values: this.channels.values(pose, paced) };
  }

  outcome(now: number): Outcome | null {
    if (this.quietAt !== null) return now >= this.quietAt ? (this.ends ?? 'finished') : null;
    // Stopped while it stood.
    return this.ends !== null && this.rate === 0 ? this.ends : null;
  }

  pause(): void {
    if (!this.ends) this.wish = 0;
  }
  /** Whether it stood, so that boards have to be filled again. */
  resume(): boolean {
    if (this.ends || this.wish > 0) return false;
    this.wish = this.course.full;
    return this.rate === 0;
  }
  /** Slows down and ends. False where it was asked to already. */
  stop(): boolean {
    if (this.ends === 'stopped') return false;
    this.wish = 0;
    this.ends = 'stopped';
    return true;
  }

  /** What of the status is the run's. */
  status(): Pick<Status, 'run' | 'runS' | 'stepId'> {
    const { plan, lead } = this.course;
    const onItsWay = this.time < lead;
    const runS = this.planTime();
    return {
      run: this.state(onItsWay),
      runS,
      stepId: onItsWay ? null : (stepAt(plan, runS)?.stepId ?? null),
    };
  }
  private state(onItsWay: boolean): RunState {
    if (this.ends === 'stopped') return 'stopping';
    if (this.wish === 0) return this.rate === 0 ? 'paused' : 'pausing';
    return onItsWay ? 'starting' : 'running';
  }

  /** Time of the plan that it is at; where it begins, while it is on its way there. */
  planTime(): number {
    const { from, plan, lead, round } = this.course;
    if (round && this.time > round.atS) return round.againS + (this.time - round.atS);
    return Math.min(plan.durationS, from + Math.max(0, this.time - lead));
  }
  get totalS(): number {
    return this.course.plan.durationS;
  }
  /** How long (ms) it has run, its way to the begin left out. */
  get ranMs(): number {
    return Math.max(0, this.lapped + this.time - this.course.lead) * 1000;
  }
}

/** Seconds in which time may slow from full speed to a stand without any joint braking harder than it may. */
export function slowest(mechanism: Mechanism): number {
  let seconds = 0.1;
  for (let s = 0; s < mechanism.m; s++) seconds = Math.max(seconds, mechanism.speed[s] / mechanism.accel[s]);
  return Math.min(2, seconds);
}
