/**
 * A routine on the boards: the way to its begin, then what motors are told of it. Pausing and stopping ramp the speed of time down,
 * inside the joints' accelerations. The board that keeps time moves it on by a period a point; what other boards are sent in between is
 * where the run is by then.
 */
import { isSpin, type CommandMap } from '@cork-elbow/core/actuators';
import { PaceAhead, type Channels, type SignalPin, type Values } from '@cork-elbow/core/commands';
import { contractFindings, type RunState, type Status } from '@cork-elbow/core/contract';
import type { Mechanism } from '@cork-elbow/core/mechanism';
import { poseAt, sampleBuffers } from '@cork-elbow/core/motion';
import { stepAt, waitOf, type Plan, type PlanEvent } from '@cork-elbow/core/routine';
import type { Rig } from '@cork-elbow/core/rig';
import { PERIOD } from '../pacer';
import type { Course, NotRun } from '../prepare';
import type { Switches } from '../session';
import type { Desk } from '../desk';
import type { Activity, Outcome, Point } from './activity';
import { LetGo, type PowerStep } from './let-go';

const { say } = contractFindings;
/** What is queued on a board (ms) just after it took a point. */
export const CUSHION = 60;
/** Times of the plan (s) this near are one. */
const EPS = 1e-9;
/** For how long (ms) motors may lag behind what they were sent, where an input is read on which the way depends. */
const ARRIVES = 60;
/** Where it goes to the end of a step it goes no slower than at this share of the speed, so that it gets there. */
const CREEP = 0.02;
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
/** Tools that somebody takes off and puts on while the run stands. */
export type Swap = NonNullable<Status['swap']>;
interface Doing {
  readonly power?: PowerStep;
  readonly switch?: readonly [SignalPin, boolean];
  readonly swap?: Swap;
  readonly gate?: Gate;
}
/** A time of the run (s) at which it is to stand, and whether that lies behind it. */
interface StepTo {
  readonly at: number;
  readonly way: 1 | -1;
}
interface Mark extends Doing {
  /** Time of the run (s), its way to the begin counted. */
  readonly at: number;
  /** Joints move as it is come to: where it holds the run back, time slows to a stand there. */
  readonly isUnderway: boolean;
}
function gateOf(rig: Rig, event: Extract<PlanEvent, { kind: 'input' }>): Gate | null {
  const wait = waitOf(rig, event);
  return wait && { ...wait, atMostMs: wait.atMostS === null ? null : wait.atMostS * 1000 };
}
/** Slower than this (rad/s or m/s) a joint stands. */
const STANDS = 1e-6;

export class RoutineRun implements Activity {
  readonly cushionMs = CUSHION;
  /** Time of the run (s), and what the laps done so far took. */
  private time = 0;
  private lapped = 0;
  private rate: number;
  /** Whether it goes on, and at which share of the planned speed that is wished. */
  private goes = true;
  private paceWish = 1;
  /** Where it stands next, gone through step by step. */
  private stepTo: StepTo | null = null;
  /** Whether its time goes backwards. */
  private way: 1 | -1 = 1;
  /** Tools that are to be swapped before it goes on; whether they were. */
  private swapNow: Swap | null = null;
  private swapDone = false;
  private ahead: PaceAhead | null = null;
  /** Change of the rate per ms while it ramps. */
  private readonly slope: number;
  private ends: 'finished' | 'stopped' | null = null;
  private quietAt: number | null = null;
  private beatAt = -Infinity;
  /** What is done on the way, by the run's own time: first the plan once, then from `lapFrom` on what comes again each lap. */
  private marks: readonly Mark[] = [];
  private lapFrom = 0;
  /** Those of them before which it brakes; mostly none. */
  private braking: readonly Mark[] = [];
  /** What the parts before this one took: of the plan, and in all (s). */
  private behindS = 0;
  private ranS = 0;
  /** Since when (ms) the arm has been sent to where the way depends on an input. */
  private askedAt: number | null = null;
  /** The next of them. */
  private next = 0;
  /** For how long (ms) it has waited where it is. */
  private waitedMs = 0;
  private waitsNow: { readonly signal: string; readonly is: boolean } | null = null;
  /** For how long (ms) it has stood where the way depends on an input. */
  private heldMs = 0;
  /** Why it ended, where a wait was in vain, or what came next could not be run. */
  private inVain: Gate | null = null;
  private noWayOn: NotRun | null = null;
  /** What inputs let it through while it could still have stood there. */
  private readonly decided = new Set<Mark>();
  private readonly letGo: LetGo;

  constructor(
    readonly runId: string,
    readonly routineId: string,
    private course: Course,
    private readonly channels: Channels,
    private readonly pins: readonly SignalPin[] = [],
    /** Whether an input is on, as its board says; undefined where nothing is known. */
    private readonly reads: (signal: string) => boolean | undefined = () => undefined,
    /** Where a motor stands as far as anybody knows, by its drive. */
    stands: (drive: string) => number | undefined = () => undefined,
    /** Whether it stands as it has come to its begin, to be gone through step by step. */
    stepwise = false,
  ) {
    const { maxDegPerS } = course.rig.powerUp;
    this.letGo = new LetGo(channels, stands, maxDegPerS, CUSHION + PERIOD + ARRIVES);
    this.mark();
    this.rate = stepwise && course.lead === 0 ? 0 : course.full;
    if (stepwise && course.lead === 0) this.goes = false;
    else if (stepwise) this.stepTo = { at: course.lead, way: 1 };
    this.slope = 1 / (1000 * slowest(course.mechanism));
  }

  /** Marks what is done on the way of the part that begins. */
  private mark(): void {
    const { routineId, pins, course } = this;
    const { plan, from, fromIndex, lead, round } = course;
    const doings = plan.events.flatMap((event): (Doing & { timeS: number; isBefore: boolean })[] => {
      if (event.kind === 'counter') return [];
      const { timeS, routine, index } = event;
      // What a step before the first one does at the very moment of the begin is not done.
      const isBefore = routine === routineId && index < fromIndex && timeS <= from + EPS;
      if (event.kind === 'power') return [{ timeS, isBefore, power: { joints: event.joints, on: event.on } }];
      if (event.kind === 'swap') return [{ timeS, isBefore, swap: { off: event.off, on: event.on } }];
      const pin = pins.find(({ signal }) => signal.id === event.signal);
      if (event.kind === 'output') return pin ? [{ timeS, isBefore, switch: [pin, event.on] }] : [];

      const gate = gateOf(course.rig, event);
      return gate ? [{ timeS, isBefore, gate }] : [];
    });
    const once = doings
      .filter(({ timeS, isBefore }) => timeS >= from - EPS && !isBefore)
      .map((doing): Mark => this.marked(doing, lead + doing.timeS - from));
    const laps = round ? doings.filter(({ timeS }) => timeS >= round.againS - EPS) : [];
    this.marks = [
      ...once,
      ...laps.map((doing): Mark => this.marked(doing, round!.atS + doing.timeS - round!.againS)),
    ];
    this.lapFrom = once.length;
    this.braking = this.marks.filter(({ isUnderway }) => isUnderway);
    this.next = 0;
  }

  private marked(doing: Doing, at: number): Mark {
    const { motion, mechanism } = this.course;
    if (!doing.gate && !doing.swap && !doing.power) return { ...doing, at, isUnderway: false };
    const [pose, speed, accel] = sampleBuffers(mechanism.m);
    motion.sampleInto(pose, speed, accel, at);
    // What is sent speeds goes on turning while time stands.
    const spins = new Set(this.channels.all.filter(isSpin).flatMap(({ slots }) => [...slots]));
    return { ...doing, at, isUnderway: speed.some((v, slot) => Math.abs(v) > STANDS && !spins.has(slot)) };
  }

  /** Those that were let go and come on again. */
  wakes(): Values {
    const still = new Float64Array(this.course.mechanism.m);
    return this.letGo.wakes(() => this.channels.values(poseAt(this.course.motion, this.time), still));
  }
  limps(): readonly CommandMap[] {
    return this.letGo.limps();
  }
  /** Whether motors are elsewhere than the plan has them: let go, or on their way back. */
  get isOffPlan(): boolean {
    return this.letGo.isOffPlan;
  }

  get isMoving(): boolean {
    return this.quietAt === null && (this.rate > 0 || this.goes);
  }

  beat(now: number): Switches {
    const { motion, round } = this.course;
    const before = this.rate;
    const wish = this.goes ? Math.min(this.mostPace(), this.toStand(), this.toGate()) : 0;
    // Above what was planned time changes half as fast: joints need some of their acceleration for the motion itself.
    const step = this.slope * PERIOD * (this.goes && Math.max(wish, before) > 1 ? 1 / 2 : 1);
    this.rate = wish > before ? Math.min(wish, before + step) : Math.max(wish, before - step);
    const switched: (readonly [SignalPin, boolean])[] = [];
    const goesBy = ((before + this.rate) / 2) * (PERIOD / 1000);
    if (this.way < 0) {
      this.goBack(goesBy);
      this.beatAt = now;
      return switched;
    }
    const stand = this.stepTo;
    let time = Math.min(this.time + goesBy, stand?.at ?? Infinity);
    const end = round ? round.atS + round.lapS : motion.durationS;
    let held = this.pass(Math.min(time, end), switched);
    const stands = stand !== null && Math.min(time, held?.at ?? time) >= stand.at - EPS;
    if (!held && round && time >= end) {
      time -= round.lapS;
      this.lapped += round.lapS;
      this.next = this.lapFrom;
      held = this.pass(time, switched);
    }
    this.time = held ? held.at : Math.min(end, time);
    this.beatAt = now;
    if (stands && this.stepTo === stand) this.stand();
    if (!held && !round && this.time >= motion.durationS && this.course.ask && this.ends !== 'stopped') {
      // The arm is on its way there for as long as is queued, and comes to rest.
      this.askedAt ??= now + (motion.durationS > 0 ? CUSHION + PERIOD + ARRIVES : 0);
      const { signal, is } = this.course.ask;
      this.waitsNow = is === null ? null : { signal, is };
      if (now >= this.askedAt) this.heldMs += PERIOD;
    } else if (!held && !round && this.time >= motion.durationS) {
      this.ends ??= 'finished';
      this.quietAt = now + CUSHION + PERIOD + SETTLE;
    } else if (this.rate === 0 && this.ends) this.quietAt = now + CUSHION + PERIOD;
    return switched;
  }

  // ── Step by step ────────────────────────────────────────────────────────────────────────────────────────────────

  /** Times of the run (s) at which steps that take time begin and end, in order. */
  private get stands(): readonly number[] {
    const { plan, from, lead, round } = this.course;
    const ends = plan.steps.filter(({ startS, endS }) => endS > startS).flatMap(({ startS, endS }) => [startS, endS]);
    const once = ends.filter((at) => at >= from - EPS).map((at) => lead + at - from);
    const laps = round
      ? ends.filter((at) => at >= round.againS - EPS).map((at) => round.atS + at - round.againS)
      : [];
    return [...new Set([lead, ...once, ...laps])].sort((a, b) => a - b);
  }
  /** Nothing before this time (s) comes back: what was let go, swapped or asked for stays as it is. */
  private get noFurtherBack(): number {
    const kept = this.marks.slice(0, this.next).filter(({ power, swap }) => power || swap);
    return Math.max(this.course.lead, ...kept.map(({ at }) => at));
  }
  /** Where it stood before, as far as that comes back; null: nowhere. */
  private get before(): number | null {
    const least = this.noFurtherBack;
    return this.stands.findLast((at) => at < this.time - EPS && at >= least - EPS) ?? null;
  }
  /** Which ways it may step now: it stands, and nobody is asked for anything. */
  get steps(): NonNullable<Status['steps']> | null {
    if (this.goes || this.rate > 0 || this.ends || this.swapNow) return null;
    return { on: true, back: this.before !== null };
  }
  /** Goes on to the end of its step, or back to where that began. Whether it does. */
  step(way: 1 | -1): boolean {
    const may = this.steps;
    if (!may || (way < 0 && !may.back)) return false;
    const next = this.stands.find((at) => at > this.time + EPS);
    // Behind the last of them it stands where that begins which comes then.
    this.stepTo = { at: way < 0 ? this.before! : (next ?? Infinity), way };
    this.way = way;
    this.goes = true;
    // Who goes back asks anew when it comes by again.
    if (way < 0) this.askAnew();
    return true;
  }
  /** The share of the speed from which it still comes to stand where it is to; what is left is gone at a creep. */
  private toStand(): number {
    return this.stepTo ? this.shareTo(this.stepTo.at) : Infinity;
  }
  /** The same for all that it comes to which may hold it back while joints move. */
  private toGate(): number {
    if (this.way < 0) return Infinity;
    const { round } = this.course;
    const coming = this.braking.flatMap((mark): [Mark, number][] => {
      const k = this.marks.indexOf(mark);
      return k >= this.next ? [[mark, mark.at]] : round && k >= this.lapFrom ? [[mark, mark.at + round.lapS]] : [];
    });
    let most = Infinity;
    for (const [mark, at] of coming) {
      if (this.decided.has(mark)) continue;
      const share = this.shareTo(at);
      const isOpen = mark.gate && this.reads(mark.gate.signal) === mark.gate.is;
      if (!isOpen) most = Math.min(most, share);
      // Where it would have to brake, what the input says counts: later than that it could not stand there any more.
      else if (share <= this.rate) this.decided.add(mark);
    }
    return most;
  }
  /** The share of the speed from which it still comes to stand at a time of the run (s). */
  private shareTo(at: number): number {
    const [slope, period] = [1000 * this.slope, PERIOD / 1000];
    const left = Math.abs(at - this.time);
    // What this beat takes, and then the way of braking: (r + r′) p/2 + r′²/(2a) ≤ left.
    const under = (slope * period) ** 2 - 4 * slope * (period * this.rate - 2 * left);
    return Math.max(CREEP, under > 0 ? (Math.sqrt(under) - slope * period) / 2 : 0);
  }
  private goBack(by: number): void {
    this.time = Math.max(this.stepTo?.at ?? this.noFurtherBack, this.time - by);
    // What was done on this way is done again when it comes by once more.
    const next = this.marks.findIndex(({ at }) => at > this.time + EPS);
    this.next = Math.min(this.next, next < 0 ? this.marks.length : next);
    this.waitedMs = 0;
    if (this.stepTo && this.time <= this.stepTo.at + EPS) this.stand();
    else if (this.rate === 0) this.way = 1;
    if (this.rate === 0 && this.ends) this.quietAt = this.beatAt + CUSHION + 2 * PERIOD;
  }
  /** It is where it is to stand. */
  private stand(): void {
    this.stepTo = null;
    this.way = 1;
    this.goes = false;
    this.rate = 0;
  }

  /** What the input says by now that the way depends on: whether it is on, or came in time; null while that is not known, or it does not. */
  answer(now: number): boolean | null {
    const { ask } = this.course;
    if (!ask || this.askedAt === null || now < this.askedAt || !this.goes) return null;
    const says = this.reads(ask.signal);
    if (ask.is === null) return says ?? null;
    if (says === ask.is) return true;
    return ask.atMostS !== null && this.heldMs >= ask.atMostS * 1000 ? false : null;
  }
  /** Goes on by what it said; it may take its time to plan that. */
  goOn(answer: boolean): void {
    const { course } = this;
    const next = course.onward(answer);
    this.askAnew();
    if (!next.ok) {
      this.noWayOn = next;
      this.goes = false;
      this.rate = 0;
      this.ends = 'stopped';
      return;
    }
    this.behindS += course.plan.durationS;
    this.ranS += this.time - course.lead;
    this.time = 0;
    this.ahead = null;
    this.course = next;
    this.mark();
    if (this.stepTo) this.stand();
  }

  private askAnew(): void {
    this.askedAt = null;
    this.waitsNow = null;
    this.heldMs = 0;
  }

  /** Does what is to be done up to a time of the run; the wait that holds it back, if one does. */
  private pass(upTo: number, switched: (readonly [SignalPin, boolean])[]): Mark | null {
    this.waitsNow = null;
    for (; this.next < this.marks.length && this.marks[this.next].at <= upTo + EPS; this.next++) {
      const mark = this.marks[this.next];
      if (mark.switch) switched.push(mark.switch);
      if (mark.gate && !this.decided.delete(mark) && !this.opens(mark.gate)) return mark;
      if (mark.swap && !this.isSwapped(mark.swap)) return mark;
      if (mark.power && !this.letGo.pass(mark.power)) return mark;
    }
    return null;
  }
  /** Whether somebody has said that the tools are swapped; until then it stands. */
  private isSwapped(swap: Swap): boolean {
    if (this.swapDone) {
      this.swapDone = false;
      return true;
    }
    if (!this.ends) this.goes = false;
    this.swapNow = swap;
    return false;
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
    const ahead = Number.isFinite(this.beatAt) && this.quietAt === null ? since * this.rate * this.way : 0;
    const stand = this.stepTo?.way === 1 ? this.stepTo.at : Infinity;
    const least = this.way < 0 ? (this.stepTo?.at ?? 0) : 0;
    const gate =
      this.marks.find((mark, k) => k >= this.next && (mark.gate || mark.swap || mark.power))?.at ?? Infinity;
    motion.sampleInto(
      pose,
      speed,
      accel,
      Math.max(least, Math.min(motion.durationS, gate, stand, this.time + ahead)),
    );
    // Time runs slower while it ramps, and so do the speeds.
    const paced = speed.map((v) => v * this.rate * this.way);
    return { pose, values: this.letGo.values(this.channels.values(pose, paced)) };
  }

  outcome(now: number): Outcome | null {
    if (this.quietAt !== null) return now >= this.quietAt ? (this.ends ?? 'finished') : null;
    // Stopped while it stood.
    return this.ends !== null && this.rate === 0 ? this.ends : null;
  }

  close(desk: Desk, outcome: Outcome): Partial<Status> {
    if (this.isOffPlan) desk.standAsSent();
    const { inVain, noWayOn } = this;
    const signal = inVain && (desk.rig.signals.find(({ id }) => id === inVain.signal)?.name ?? inVain.signal);
    const notice = inVain
      ? say('run-in-vain', { signal: signal!, state: inVain.is ? 'on' : 'off', s: (inVain.atMostMs ?? 0) / 1000 })
      : noWayOn?.message;
    return {
      ...{ run: noWayOn ? 'failed' : outcome, runS: this.planTime() },
      ...{ stepId: null, waits: null, swap: null, pace: null, steps: null },
      ...(notice === undefined ? {} : { notice }),
    };
  }

  /** At so many times the planned speed from now on, as far as limits allow; an arm that has not homed goes no faster for it. */
  setPace(pace: number): void {
    this.paceWish = pace;
  }
  /** What time may run at by now. */
  private mostPace(): number {
    const { motion, mechanism, full, round, lead } = this.course;
    if (full < 1 || this.paceWish <= 1 || this.way < 0 || this.time < lead) return full * Math.min(1, this.paceWish);
    this.ahead ??= new PaceAhead(motion, mechanism, this.channels.all, (1000 * this.slope) / 2, round && round.atS);
    return Math.min(this.paceWish, this.ahead.most(this.time));
  }

  pause(): void {
    if (!this.ends) this.goes = false;
  }
  /** Whether it stood, so that boards have to be filled again. */
  resume(): boolean {
    // What still slows down on its way back stands first.
    if (this.ends || this.goes || this.way < 0) return false;
    this.goes = true;
    this.stepTo = null;
    this.swapDone = this.swapNow !== null;
    this.swapNow = null;
    return this.rate === 0;
  }
  /** Slows down and ends. False where it was asked to already. */
  stop(): boolean {
    if (this.ends === 'stopped') return false;
    this.goes = false;
    this.ends = 'stopped';
    return true;
  }

  /** What of the status is the run's. */
  status(): Pick<Status, 'run' | 'runS' | 'stepId' | 'waits' | 'pace' | 'swap' | 'steps'> {
    const { plan, lead } = this.course;
    const onItsWay = this.time < lead;
    return {
      run: this.state(onItsWay),
      runS: this.planTime(),
      waits: this.waitsNow && { signal: this.waitsNow.signal, is: this.waitsNow.is },
      swap: this.goes ? null : this.swapNow,
      steps: this.steps,
      pace: { wished: this.paceWish, now: this.rate / this.course.full },
      stepId: onItsWay ? null : this.stepId(plan),
    };
  }
  private stepId(plan: Plan): string | null {
    const { ask } = this.course;
    if (ask && this.askedAt !== null) return ask.stepId;
    return stepAt(plan, this.partTime())?.stepId ?? null;
  }
  private state(onItsWay: boolean): RunState {
    if (this.ends === 'stopped') return 'stopping';
    if (!this.goes) return this.rate === 0 ? 'paused' : 'pausing';
    return onItsWay ? 'starting' : 'running';
  }

  /** Time of the plan that it is at; where it begins, while it is on its way there. */
  planTime(): number {
    return this.behindS + this.partTime();
  }
  private partTime(): number {
    const { from, plan, lead, round } = this.course;
    if (round && this.time > round.atS) return round.againS + (this.time - round.atS);
    return Math.min(plan.durationS, from + Math.max(0, this.time - lead));
  }
  get totalS(): number {
    return this.course.totalS;
  }
  /** Share of the planned speed at which it goes now. */
  get speed(): number {
    return this.quietAt === null ? this.rate * this.way : 0;
  }
  /** How long (ms) it has run, its way to the begin left out. */
  get ranMs(): number {
    return Math.max(0, this.ranS + this.lapped + this.time - this.course.lead) * 1000;
  }
}

/** Seconds in which time may slow from full speed to a stand without any joint braking harder than it may. */
export function slowest(mechanism: Mechanism): number {
  let seconds = 0.1;
  for (let s = 0; s < mechanism.m; s++) seconds = Math.max(seconds, mechanism.speed[s] / mechanism.accel[s]);
  return Math.min(2, seconds);
}
