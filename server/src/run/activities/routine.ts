/**
 * A routine on the boards: the way to its begin, then what motors are told of it. Pausing and stopping ramp the speed of time down,
 * inside the joints' accelerations. The board that keeps time moves it on by a period a point; what other boards are sent in between is
 * where the run is by then.
 */
import type { Channels, SignalPin, Values } from '@cork-elbow/core/commands';
import type { RunState, Status } from '@cork-elbow/core/contract';
import type { Mechanism } from '@cork-elbow/core/mechanism';
import { sampleBuffers } from '@cork-elbow/core/motion';
import { stepAt, waitOf, type PlanEvent } from '@cork-elbow/core/routine';
import type { Rig } from '@cork-elbow/core/rig';
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

/** A step that waits for an input: the run goes no further until it is there, or its time is up. */
export interface Gate {
  readonly signal: string;
  readonly is: boolean;
  readonly atMostMs: number | null;
  /** Whether the run goes on when the time is up; else it ends. */
  readonly goesOn: boolean;
}
interface Doing {
  readonly switch?: readonly [SignalPin, boolean];
  readonly gate?: Gate;
}
interface Mark extends Doing {
  /** Time of the run (s), its way to the begin counted. */
  readonly at: number;
}
function gateOf(rig: Rig, event: Extract<PlanEvent, { kind: 'input' }>): Gate | null {
  const step = waitOf(rig, event);
  if (!step) return null;
  const { signal, is, timeoutS, otherwise } = step;
  return { signal, is, atMostMs: timeoutS === null ? null : timeoutS * 1000, goesOn: otherwise === 'go-on' };
}

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
  /** What is done on the way, by the run's own time: first the plan once, then from `lapFrom` on what comes again each lap. */
  private readonly marks: readonly Mark[];
  private readonly lapFrom: number;
  /** The next of them. */
  private next = 0;
  /** For how long (ms) it has waited where it is. */
  private waitedMs = 0;
  private waitsNow: Gate | null = null;
  /** Why it ended, where a wait was in vain. */
  private inVain: Gate | null = null;

  constructor(
    readonly runId: string,
    readonly routineId: string,
    private readonly course: Course,
    private readonly channels: Channels,
    pins: readonly SignalPin[] = [],
    /** Whether an input is on, as its board says; undefined where nothing is known. */
    private readonly reads: (signal: string) => boolean | undefined = () => undefined,
  ) {
    const { plan, from, fromIndex, lead, round } = course;
    const doings = plan.events.flatMap((event): (Doing & { timeS: number; isBefore: boolean })[] => {
      if (event.kind !== 'output' && event.kind !== 'input') return [];
      const { timeS, routine, index } = event;
      // What a step before the first one does at the very moment of the begin is not done.
      const isBefore = routine === routineId && index < fromIndex && timeS <= from + EPS;
      const pin = pins.find(({ signal }) => signal.id === event.signal);
      if (event.kind === 'output') return pin ? [{ timeS, isBefore, switch: [pin, event.on] }] : [];
      const gate = gateOf(course.rig, event);
      return gate ? [{ timeS, isBefore, gate }] : [];
    });
    const once = doings
      .filter(({ timeS, isBefore }) => timeS >= from - EPS && !isBefore)
      .map((doing): Mark => ({ ...doing, at: lead + doing.timeS - from }));
    const laps = round ? doings.filter(({ timeS }) => timeS >= round.againS - EPS) : [];
    this.marks = [
      ...once,
      ...laps.map((doing): Mark => ({ ...doing, at: round!.atS + doing.timeS - round!.againS })),
    ];
    this.lapFrom = once.length;
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
    const switched: (readonly [SignalPin, boolean])[] = [];
    let time = this.time + ((before + this.rate) / 2) * (PERIOD / 1000);
    const end = round ? round.atS + round.lapS : motion.durationS;
    let held = this.pass(Math.min(time, end), switched);
    if (!held && round && time >= end) {
      time -= round.lapS;
      this.lapped += round.lapS;
      this.next = this.lapFrom;
      held = this.pass(time, switched);
    }
    this.time = held ? held.at : Math.min(end, time);
    this.beatAt = now;
    if (!held && !round && this.time >= motion.durationS) {
      this.ends ??= 'finished';
      this.quietAt = now + CUSHION + PERIOD + SETTLE;
    } else if (this.rate === 0 && this.ends) this.quietAt = now + CUSHION + PERIOD;
    return switched;
  }

  /** Does what is to be done up to a time of the run; the wait that holds it back, if one does. */
  private pass(upTo: number, switched: (readonly [SignalPin, boolean])[]): Mark | null {
    this.waitsNow = null;
    for (; this.next < this.marks.length && this.marks[this.next].at <= upTo + EPS; this.next++) {
      const mark = this.marks[this.next];
      if (mark.switch) switched.push(mark.switch);
      if (mark.gate && !this.opens(mark.gate)) return mark;
    }
    return null;
  }
  /** Whether what a step waits for is there, or its time is up. */
  private opens(gate: Gate): boolean {
    const isThere = this.reads(gate.signal) === gate.is;
    const isUp = gate.atMostMs !== null && this.waitedMs >= gate.atMostMs;
    if (isThere || (isUp && gate.goesOn)) {
      this.waitedMs = 0;
      return true;
    }
    this.waitsNow = gate;
    this.waitedMs += PERIOD;
    if (isUp && !this.ends) {
      this.inVain = gate;
      this.stop();
    }
    return false;
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
    const gate = this.marks.find((mark, k) => k >= this.next && mark.gate)?.at ?? Infinity;
    motion.sampleInto(pose, speed, accel, Math.min(motion.durationS, gate, this.time + ahead));
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

  /** The wait that was in vain, and ended it; null where none was. */
  get missed(): Gate | null {
    return this.inVain;
  }

  /** What of the status is the run's. */
  status(): Pick<Status, 'run' | 'runS' | 'stepId' | 'waits'> {
    const { plan, lead } = this.course;
    const onItsWay = this.time < lead;
    const runS = this.planTime();
    return {
      run: this.state(onItsWay),
      runS,
      waits: this.waitsNow && { signal: this.waitsNow.signal, is: this.waitsNow.is },
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
