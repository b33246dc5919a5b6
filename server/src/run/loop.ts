/**
 * The run loop: the boards of one rig, and one activity at a time that moves them, with set points at absolute deadlines. It knows time
 * only as the numbers given to `tick` (ms, monotonic), so tests drive it by hand and the worker by the clock.
 *
 * A cushion is laid in each board's queue first; then one point a period, when that board's pacer says, which follows the board's clock.
 * The first board with motors keeps time; what the others are sent is where the activity is by then. Lateness inside the cushion is made
 * up; beyond it the beat is shifted and nothing is sent twice.
 */
import type { Finding } from '@cork-elbow/core/findings';
import {
  contractFindings,
  idleStatus,
  isActive,
  type ArmHow,
  type Away,
  type Status,
} from '@cork-elbow/core/contract';
import { isSpin, nativeOf, type CommandMap } from '@cork-elbow/core/actuators';
import { standing } from '@cork-elbow/core/admit';
import { wayDown } from '@cork-elbow/core/bring-up';
import { fromSlots, fromUnit, limitExcess, rulesExcess, type Mechanism } from '@cork-elbow/core/mechanism';
import { boundsOf, Channels, signalPins, type ChannelBounds } from '@cork-elbow/core/commands';
import type { Build, Rig } from '@cork-elbow/core/rig';
import type { LineEnd, Link } from '../links/link';
import type { Activity, Outcome } from './activities/activity';
import { bringUp, BringUpUnderway, RISING } from './activities/bring-up';
import { ByHand, MOST_WAITING } from './activities/by-hand';
import { LayDown } from './activities/lay-down';
import { OneMotor } from './activities/one-motor';
import { RoutineRun } from './activities/routine';
import type { Guiding, LoopEvent, RunRequest } from './events';
import { confirmedLimits } from './limits';
import { lineEnds } from './line-ends';
import { PERIOD } from './pacer';
import { prepareRun } from './prepare';
import { BoardSession, type Heard, type Switches, type Told } from './session';
import { Lateness, telemetryOf, WorstGaps } from './telemetry';
import { toolStep } from './tool-step';

const { say } = contractFindings;
/** Why nothing is begun. */
type Refusal =
  | 'board-none'
  | 'board-absent'
  | 'board-empty'
  | 'board-unarmed'
  | 'board-not-ready'
  | 'run-busy'
  | 'run-other-rig'
  | 'line-armed'
  | 'board-changed'
  | 'hand-off'
  | 'signal-unknown'
  | 'signal-busy'
  | 'force-real'
  | 'motor-no-pin'
  | 'motor-off'
  | 'motor-armed';
/** Telemetry goes to the pages at most this often (real ms), and every so many of them the status. */
export const TELL = 50;
const STATUS_EVERY = 4;
/** A set point this far (rad or m) past a limit is held back: more than rounding can explain. */
const PAST = 1e-6;

/** The rig whose boards are connected. */
interface Desk {
  rig: Rig;
  readonly rigId: string;
  build: Build;
  mechanism: Mechanism;
  channels: Channels;
  readonly sessions: readonly BoardSession[];
  readonly told: Told;
}

/**
 * What boards hold each motor to: between the limits of its joints or, with `ownOf` a build, of the motor alone; no faster than
 * motion is planned or arms are brought up, unless places are told at once.
 */
const limitsOf =
  (rig: Rig, mechanism: Mechanism, { sudden = false, ownOf }: { sudden?: boolean; ownOf?: Build } = {}) =>
  (map: CommandMap): ChannelBounds => {
    const own = ownOf && !isSpin(map) ? nativeOf(map.drive, ownOf) : null;
    return boundsOf(map, mechanism, rig.powerUp.maxDegPerS, sudden, own ?? undefined);
  };

export class RunLoop {
  private status: Status = { ...idleStatus };
  private desk: Desk | null = null;
  private activity: BringUpUnderway | RoutineRun | LayDown | ByHand | OneMotor | null = null;
  /** How far (rad or m) past limits or rules the arm stood as it began to be led by hand: it may go back, no further. */
  private past = 0;
  /** Since when nothing has run while the page with the controls is gone (ms). */
  private quietSince: number | null = null;
  private gaps = new WorstGaps();
  private lateness = new Lateness();
  private commanded: Float64Array = new Float64Array(0);
  /** Outputs that are still to ride on a point of their board. */
  private switches: Switches = [];
  private toldAt = -Infinity;
  private count = 0;

  /** Time of the loop's clock between two telemetries; more than {@link TELL} where simulated time runs fast. */
  tellEvery = TELL;

  constructor(private readonly emit: (event: LoopEvent) => void) {}

  get state(): Status {
    return this.status;
  }
  private get run(): RoutineRun | null {
    return this.activity instanceof RoutineRun ? this.activity : null;
  }
  private get sessions(): readonly BoardSession[] {
    return this.desk?.sessions ?? [];
  }

  // ── Requests ────────────────────────────────────────────────────────────────────────────────────────────────────

  /** Opens a link to each board that has a line of its own. */
  connect(rigId: string, rig: Rig, buildId: string, open: (end: LineEnd) => Link, now: number): void {
    this.disconnect(now);
    const stands = standing(rig, buildId);
    if (!stands.ok) return this.refuseBy(stands.faults[0].code, stands.faults[0].message, []);
    const { build } = stands;
    const mechanism = confirmedLimits(stands.mechanism, build);
    const { channels, ends } = lineEnds(rig, mechanism, build);
    if (!ends.length) return this.refuse('board-none');
    const told: Told = { at: new Map(), measured: new Map(), sent: new Map(), signals: new Map() };
    this.commanded = ends[0].rest;
    this.set({ ...idleStatus, away: this.status.away, link: 'connecting', rigId, buildId: build.id });
    const sessions = ends.map((end) => new BoardSession(end, open(end), told, limitsOf(rig, mechanism), now));
    this.desk = { rig, rigId, build, mechanism, channels, sessions, told };
    this.set({ board: [...new Set(sessions.map(({ name }) => name))].join(', ') });
  }

  disconnect(now: number): void {
    if (!this.desk) return;
    this.end('failed');
    for (const session of this.sessions) {
      session.close(now);
    }
    this.desk = null;
    this.set({ ...idleStatus, away: this.status.away });
  }

  /** Before motors are switched on: the rig as it is saved now. Whether its boards are those that are connected; said where not. */
  takeIn(rig: Rig): boolean {
    if (!this.desk || this.activity || this.status.armed) return true;
    const stands = standing(rig, this.desk.build.id);
    const mechanism = stands.ok ? confirmedLimits(stands.mechanism, stands.build) : null;
    const channels = stands.ok && mechanism ? new Channels(rig, mechanism, stands.build) : null;
    if (!stands.ok) this.refuseBy(stands.faults[0].code, stands.faults[0].message, []);
    else if (!this.reaches(channels!)) this.refuse('board-changed');
    else {
      this.commanded = this.standsBy(channels!);
      this.renew(rig, mechanism!, stands.build);
      return true;
    }
    return false;
  }
  /** Whether each motor is on a board that is connected. */
  private reaches({ all }: Channels): boolean {
    return all.every(({ line }) => this.sessions.some(({ end }) => end.board === line));
  }

  /** Switches the motors on one after the other; without read-back they are taken to be where they rest. */
  arm(how: ArmHow, now: number): void {
    if (!this.desk || this.status.link !== 'connected') return this.refuse('board-absent');
    if (this.activity || this.status.armed) return;
    const { rig, mechanism, build, channels, told } = this.desk;
    if (!channels.all.length) return this.refuse('board-empty');
    channels.poseInto(this.commanded, told.measured);
    // Whatever they were held to before, such as one motor's own range.
    const limits = limitsOf(rig, mechanism, how === 'neutral' ? { ownOf: build } : {});
    for (const session of this.sessions) session.setBounds(limits);
    const plan = bringUp(how, rig, mechanism, build, channels.all, this.commanded, told.measured);
    this.activity = new BringUpUnderway(plan, channels.all, now);
    for (const session of this.sessions) session.begin(this.activity.cushionMs, now);
    this.set({ mode: 'bringing-up', notice: '' });
    this.drive(this.activity, now);
  }

  disarm(now: number): void {
    this.end('stopped');
    for (const session of this.sessions) {
      session.halt(now);
      session.sleep(now);
      if (this.desk) session.setBounds(limitsOf(this.desk.rig, this.desk.mechanism));
    }
    this.set({ mode: 'normal' });
  }

  /** Plans the routine from the given document and begins with a slow move to its start. `clock`: the loop's time when it is looked at. */
  start(request: RunRequest, rig: Rig, clock: () => number): void {
    const { desk } = this;
    if (!desk || this.status.link !== 'connected') return this.refuse('board-absent');
    if (!this.status.armed) return this.refuse('board-unarmed');
    // Who leads it by hand and lets it stand may run as well.
    if (this.hand && !this.hand.isMoving) this.end('finished');
    if (this.status.mode !== 'normal' || !this.isReady) return this.refuse('board-not-ready');
    if (this.activity) return this.refuse('run-busy');
    if (request.rigId !== desk.rigId) return this.refuse('run-other-rig');
    const course = prepareRun(request, rig, (channels) => this.standsBy(channels));
    if (!course.ok) return this.refuseBy(course.code, course.message, course.findings);
    // Planning took its time: what begins, begins now.
    const now = clock();

    const { build, mechanism, full } = course;
    if (!this.reaches(new Channels(rig, mechanism, build))) return this.refuse('board-changed');
    this.commanded = course.motion.start.slice();
    const channels = this.renew(rig, mechanism, build, course.sudden);
    for (const session of this.sessions) session.listen();
    const run = new RoutineRun(request.id, request.routineId, course, channels, signalPins(rig), (signal) =>
      desk.told.signals.get(signal),
    );
    this.activity = run;
    this.gaps = new WorstGaps();
    this.lateness = new Lateness();
    this.set({
      ...run.status(),
      runId: run.runId,
      routineId: run.routineId,
      totalS: run.totalS,
      notice: full < 1 ? say('position-unverified', { share: full * 100 }) : '',
      stepId: null,
    });
    this.emit({ type: 'started', run: request, routineName: course.routineName, board: this.status.board });
    for (const session of this.sessions) {
      session.pace(run.cushionMs, now + PERIOD);
      this.layCushion(session, run, now);
    }
  }

  /** A line of somebody's own to a board; none that moves, and none while anything is switched on. */
  line(board: string, text: string, now: number): void {
    const session = this.sessions.find((s) => s.end.board === board);
    if (!session || this.status.link !== 'connected') return this.refuse('board-absent');
    if (this.status.armed || this.activity) return this.refuse('line-armed');
    const word = session.sendOwn(text, now);
    if (word !== null) this.refuseBy('line-moves', say('line-moves', { word }), []);
  }

  /**
   * Where the arm stands (slots, SI) by other motors than those it was moved by, such as the same ones calibrated meanwhile: what they
   * were sent counts.
   */
  private standsBy(channels: Channels): Float64Array {
    const { mechanism: before, told } = this.desk!;
    const { mechanism } = channels;
    const joints = fromSlots(before, this.commanded);
    const stands = mechanism.home.map((v, s) => {
      const known = joints[mechanism.slotIds[s]];
      return known === undefined ? v : fromUnit(mechanism, s, known);
    });
    const differs = channels
      .values(stands, new Float64Array(mechanism.m))
      .some(([map, value]) => !isSpin(map) && Math.abs((told.sent.get(map.drive.id) ?? value) - value) > 1);
    return differs ? channels.poseInto(stands, told.sent) : stands;
  }
  /** The rig as it is saved now: what each board reaches, and what it is held to. */
  private renew(rig: Rig, mechanism: Mechanism, build: Build, sudden = false): Channels {
    const channels = new Channels(rig, mechanism, build);
    Object.assign(this.desk!, { rig, build, mechanism, channels });
    const limits = limitsOf(rig, mechanism, { sudden });
    const pins = signalPins(rig);
    for (const session of this.sessions) {
      const { board } = session.end;
      session.setMaps(channels.on(board), limits);
      session.setSignals(pins.filter(({ line }) => line === board));
    }
    return channels;
  }

  // ── Led by hand ─────────────────────────────────────────────────────────────────────────────────────────────────

  /** From now on joints are led; asked again after an edit, by what is saved now. */
  byHand(rigId: string, rig: Rig, buildId: string, now: number): void {
    if (!this.desk || this.status.link !== 'connected') return this.refuse('board-absent');
    if (!this.status.armed) return this.refuse('board-unarmed');
    if (rigId !== this.desk.rigId) return this.refuse('run-other-rig');
    if (this.hand && !this.hand.isMoving) this.end('finished');
    if (this.status.mode !== 'normal' || !this.isReady) return this.refuse('board-not-ready');
    if (this.activity) return this.refuse('run-busy');
    const stands = standing(rig, buildId);
    if (!stands.ok) return this.refuseBy(stands.faults[0].code, stands.faults[0].message, []);
    const mechanism = confirmedLimits(stands.mechanism, stands.build);
    const known = new Channels(rig, mechanism, stands.build);
    if (!this.reaches(known)) return this.refuse('board-changed');
    this.commanded = this.standsBy(known);
    const channels = this.renew(rig, mechanism, stands.build);
    this.past = this.excess(this.commanded);
    this.activity = new ByHand(channels, this.commanded.slice());
    for (const session of this.sessions) session.pace(this.activity.cushionMs, now + PERIOD);
    this.set({ mode: 'by-hand', notice: '' });
  }
  handOff(): void {
    this.hand?.leave();
  }

  guide({ joints, share, straight }: Guiding, now: number): void {
    const { hand, desk } = this;
    if (!hand || !desk || hand.isLeaving) return this.refuse('hand-off');
    const { rig, mechanism, build, channels } = desk;
    const driven = new Set(channels.maps.flatMap(({ slots }) => [...slots]));
    const slots = Object.entries(joints).map(([id, value]) => ({ id, value, slot: mechanism.slotIds.indexOf(id) }));
    const lost = slots.find(({ slot }) => !driven.has(slot));
    if (lost && !straight) return this.refuseBy('hand-joint', say('hand-joint', { joint: lost.id }), []);
    const stood = !hand.isMoving;
    if (straight) {
      const step = toolStep(rig, mechanism, build, hand.wish, joints, share, straight.tool);
      if ('reason' in step) return this.refuseBy('hand-straight', say('hand-straight', step), []);
      if (!hand.step(step.motion)) return this.refuseBy('hand-busy', say('hand-busy', { most: MOST_WAITING }), []);
    } else
      hand.lead(
        slots.map(({ slot, value }) => [slot, fromUnit(mechanism, slot, value)] as const),
        share,
      );
    if (stood) this.setOff(hand, now);
  }

  // ── Inputs and outputs by hand ──────────────────────────────────────────────────────────────────────────────────

  switch(signal: string, on: boolean, now: number): void {
    const { desk } = this;
    if (!desk || this.status.link !== 'connected') return this.refuse('board-absent');
    if (!this.status.armed || this.run || this.status.mode === 'bringing-up') return this.refuse('signal-busy');
    const pin = signalPins(desk.rig).find((p) => p.signal.id === signal && p.signal.way === 'out');
    const session = this.sessions.find(({ end }) => end.board === pin?.line);
    if (!pin || !session?.isAwake) return this.refuse('signal-unknown');
    session.point([], PERIOD, now, [[pin, on]]);
  }
  force(signal: string, on: boolean | null): void {
    if (!this.sessions.some((session) => session.hold(signal, on))) this.refuse('force-real');
  }

  // ── One motor alone ─────────────────────────────────────────────────────────────────────────────────────────────

  /** Switches one motor on, at a value of its own unit; the others stay off. */
  motorOn(drive: string, value: number, now: number): void {
    const { desk } = this;
    if (!desk || this.status.link !== 'connected') return this.refuse('board-absent');
    if (this.activity || this.status.armed) return this.refuse('motor-armed');
    const map = desk.channels.all.find((m) => m.drive.id === drive);
    if (!map) return this.refuse('motor-no-pin');
    if (!this.takes(map, value)) return;
    const { rig, mechanism, build } = desk;
    for (const session of this.sessions) {
      session.setBounds(limitsOf(rig, mechanism, { ownOf: build }));
      session.begin(RISING, now);
    }
    const perDeg = isSpin(map) ? 0 : Math.abs(map.native.perDeg);
    this.activity = new OneMotor(map, value, perDeg * rig.powerUp.maxDegPerS);
    this.set({ mode: 'one-motor', motor: drive, notice: '' });
    this.drive(this.activity, now);
  }
  motorTo(value: number, now: number): void {
    const { activity } = this;
    if (!(activity instanceof OneMotor)) return this.refuse('motor-off');
    if (!this.takes(activity.map, value)) return;
    const stood = !activity.isMoving;
    activity.send(value);
    if (stood) this.setOff(activity, now);
  }
  /** Whether a value is inside a motor's own range; said where not. */
  private takes(map: CommandMap, value: number): boolean {
    const { low, high } = isSpin(map) ? map : nativeOf(map.drive, this.desk!.build)!;
    if (value >= low && value <= high) return true;
    const unit = isSpin(map) ? 'µs' : map.native.unit;
    this.refuseBy('motor-range', say('motor-range', { drive: map.drive.name, low, high, unit, got: value }), []);
    return false;
  }
  /** What stood begins to move: boards' queues are filled again. */
  private setOff(activity: Activity, now: number): void {
    if (!activity.isMoving) return;
    for (const session of this.sessions) {
      session.pacer.restart(now);
      if (session.isAwake) this.layCushion(session, activity, now);
    }
  }

  private get hand(): ByHand | null {
    return this.activity instanceof ByHand ? this.activity : null;
  }
  /** Whether no motor of a board that would not wake would stay behind. */
  private get isReady(): boolean {
    return this.sessions.every((session) => session.isAwake || !session.hasMotors);
  }

  pause(): void {
    this.run?.pause();
    this.tellRun();
  }

  resume(now: number): void {
    const { run } = this;
    if (run?.resume())
      for (const session of this.sessions) {
        session.pacer.restart(now);
        this.layCushion(session, run, now);
      }
    this.tellRun();
  }

  /** First call: slow down and end. Second: halt. */
  stop(now: number): void {
    const { run } = this;
    if (this.activity instanceof ByHand || this.activity instanceof OneMotor) return this.activity.stop();
    // What is neither has no way to slow down on: it stands where it is.
    if (!run) return this.activity instanceof LayDown ? this.halt(now) : undefined;
    if (!run.stop()) return this.halt(now);
    this.tellRun();
    const outcome = run.outcome(now);
    if (outcome) this.end(outcome);
  }

  halt(now: number): void {
    for (const session of this.sessions) session.halt(now);
    this.end('stopped');
  }

  // ── The page that has the controls ──────────────────────────────────────────────────────────────────────────────

  /** What is done when it is gone. */
  setAway(away: Away): void {
    this.set({ away });
  }

  /** Whether it is gone: what was chosen for that is done, and shown when it comes back. */
  setAlone(alone: boolean): void {
    if (!this.desk || alone === this.status.alone) return;
    this.quietSince = null;
    this.set({ alone });
    if (alone && this.activity instanceof OneMotor) this.activity.stop();
    if (alone) this.hand?.leave();
    if (!alone || !this.run || !isActive(this.status.run)) return;
    if (this.status.away.run === 'finish') return this.set({ notice: say('page-gone-finishes') });
    this.pause();
    this.set({ notice: say('page-gone-stood') });
  }

  /** Nobody has come back for as long as was chosen: what stands still ends, and the arm lies down. */
  private waitAlone(now: number): void {
    const { alone, armed, mode, away, run } = this.status;
    const isQuiet = alone && armed && mode === 'normal' && (run === 'paused' || !this.activity);
    if (!isQuiet || away.then === 'hold') {
      this.quietSince = null;
      return;
    }
    this.quietSince ??= now;
    if (now - this.quietSince < away.afterS * 1000) return;
    this.quietSince = null;
    this.end('stopped');
    const { rig, mechanism, build, channels } = this.desk!;
    this.activity = new LayDown(wayDown(rig, mechanism, build, this.commanded.slice()), channels, now);
    for (const session of this.sessions) session.pace(this.activity.cushionMs, now);
    this.set({ mode: 'lying-down', notice: say('page-gone-rests') });
  }

  // ── Time ────────────────────────────────────────────────────────────────────────────────────────────────────────

  tick(now: number): void {
    if (!this.desk) return;
    for (const session of this.sessions) for (const heard of session.tick(now)) this.hear(heard, now);
    this.waitAlone(now);
    if (this.activity) this.drive(this.activity, now);
    if (now - this.toldAt >= this.tellEvery) this.tell(now);
  }

  private drive(activity: Activity, now: number): void {
    const woken = activity.wakes(now);
    if (woken.length) for (const session of this.sessions) session.wake(woken, now);
    const moved = this.sessions.filter((session) => session.hasMotors);
    const outcome = moved.every((session) => session.isAwake) && activity.outcome(now);
    if (outcome) return this.finish(outcome, now);
    // None runs ahead of a board that does not take what it is sent.
    if (moved.some((session) => session.isClogged)) return;
    const [first, ...others] = moved.filter((session) => session.isAwake);
    if (first) this.feed(first, activity, now, true);
    for (const other of others) this.feed(other, activity, now, false);
  }

  /** A point for a board that is due for one; the board that keeps time is sent none while nothing moves. */
  private feed(session: BoardSession, activity: Activity, now: number, keepsTime: boolean): void {
    const { pacer } = session;
    if (this.activity !== activity || !pacer.isDue(now) || (keepsTime && !activity.isMoving)) return;
    const late = pacer.late(now);
    if (keepsTime && this.run && activity.isMoving) this.lateness.add(late);
    if (late > activity.cushionMs - PERIOD) {
      pacer.restart(now);
      if (keepsTime) activity.stall(now);
      if (this.run && activity.isMoving) this.remark(say('run-stalled', { ms: late }));
      return this.layCushion(session, activity, now);
    }
    if (keepsTime) this.switches = [...this.switches, ...(activity.beat(now) ?? [])];
    const took = this.sendPoint(session, activity, PERIOD, now);
    if (took !== null) pacer.beat(took);
  }

  /** Fills a board's queue up to the cushion with standing still where the activity is now. */
  private layCushion(session: BoardSession, activity: Activity, now: number): void {
    const missing = Math.round(session.pacer.missing(now));
    if (missing < 1 || !session.hasMotors) return;
    this.sendPoint(session, activity, missing, now);
  }

  /**
   * Sends a board its share of where the activity is now, to be reached in `ms`, or later where motors may not go as fast. What is past a
   * limit never leaves: the boards are halted and the run has failed. The ms that it takes; null where nothing was sent.
   */
  private sendPoint(session: BoardSession, activity: Activity, ms: number, now: number): number | null {
    // Another board's share may just have ended it.
    const point = this.activity === activity ? activity.pointAt(now) : null;
    if (!point) return null;
    this.commanded = point.pose ?? this.commanded;
    const isPast = !(this.activity instanceof BringUpUnderway) && point.pose && this.isPast(point.pose);
    const riding = this.ridingOn(session);
    const takes = isPast ? null : session.point(point.values, ms, now, riding);
    if (takes !== null) {
      this.switches = this.switches.filter((each) => !riding.includes(each));
      return takes;
    }
    for (const each of this.sessions) each.halt(now);
    this.set({ notice: say(isPast ? 'run-held-back' : 'run-too-fast') });
    this.end('failed');
    return null;
  }
  /** What of a board's outputs goes with its next point: each once, what switches it again goes with a later one. */
  private ridingOn({ end }: BoardSession): Switches {
    const own = this.switches.filter(([{ line }]) => line === end.board);
    return own.filter(([pin], k) => own.findIndex(([other]) => other.channel === pin.channel) === k);
  }
  private isPast(pose: Float64Array): boolean {
    return this.excess(pose) > Math.max(PAST, this.hand ? this.past : 0);
  }
  /** How far (rad or m) past limits or rules a pose is. */
  private excess(pose: Float64Array): number {
    const { mechanism } = this.desk!;
    return Math.max(limitExcess(mechanism, pose).by, rulesExcess(mechanism, pose));
  }

  // ── What boards say ─────────────────────────────────────────────────────────────────────────────────────────────

  private hear(heard: Heard, now: number): void {
    const { sessions } = this;
    switch (heard.what) {
      case 'connected':
        if (this.status.link !== 'lost' && sessions.every(({ isConnected }) => isConnected))
          this.set({ link: 'connected' });
        break;
      case 'awake':
        if (!this.status.armed) this.set({ armed: true, notice: '' });
        break;
      case 'asleep':
        if (!sessions.some(({ isAwake }) => isAwake)) this.set({ armed: false });
        break;
      case 'dry':
        if (this.run?.isMoving) this.remark(say('run-dry'));
        break;
      case 'noisy':
        if (this.run) this.remark(say('line-noisy'));
        break;
      case 'refused':
        this.set({ notice: say('board-refused', { reason: `${heard.word}: ${heard.why}` }) });
        if (heard.word === 'point' || heard.word === 'wake') this.end('failed');
        break;
      case 'at':
        if (this.run) this.gaps.look(this.desk!.channels, this.desk!.told);
        break;
      case 'halted':
        this.cutOff('stopped', now);
        this.set({ armed: false, mode: 'normal' });
        break;
      case 'lost':
        this.cutOff('failed', now);
        this.set({
          ...{ link: 'lost', armed: false, mode: 'normal' },
          notice:
            heard.reason === null
              ? say('board-lost', { ms: heard.silentMs })
              : say('link-failed', { reason: heard.reason }),
        });
    }
  }

  /** One board no longer follows: the others do not go on without it. */
  private cutOff(outcome: Outcome, now: number): void {
    for (const session of this.sessions) if (session.isAwake) session.halt(now);
    this.end(outcome);
  }

  /** An activity has come to its end by itself. */
  private finish(outcome: Outcome, now: number): void {
    const liesDown = this.activity instanceof LayDown;
    this.end(outcome);
    if (liesDown && outcome === 'finished') this.disarm(now);
  }
  /** Ends what is under way, however far it has come. */
  private end(outcome: Outcome): void {
    const { activity } = this;
    if (!activity) return;
    this.activity = null;
    this.switches = [];
    if (activity instanceof BringUpUnderway) {
      const { how } = activity.plan;
      const isOn = outcome === 'finished';
      // A motor without a trace of where it was stands where it was sent.
      if (isOn && how !== 'neutral') this.desk!.channels.poseInto(this.commanded, this.desk!.told.sent);
      this.set({ mode: isOn && how === 'neutral' ? 'neutral' : 'normal' });
      return;
    }
    if (activity instanceof OneMotor) {
      // Its joint is where it was sent, as far as anybody knows.
      this.desk!.channels.poseInto(this.commanded, this.desk!.told.sent);
      return this.set({ mode: 'normal', motor: null });
    }
    if (activity instanceof LayDown || activity instanceof ByHand) return this.set({ mode: 'normal' });
    const { missed } = activity;
    if (missed) {
      const signal = this.desk?.rig.signals.find(({ id }) => id === missed.signal)?.name ?? missed.signal;
      this.set({
        notice: say('run-in-vain', { signal, state: missed.is ? 'on' : 'off', s: (missed.atMostMs ?? 0) / 1000 }),
      });
    }
    this.set({ run: outcome, runS: activity.planTime(), stepId: null, waits: null, late: this.lateness.figures });
    this.emit({
      ...{ type: 'ended', runId: activity.runId, outcome },
      ...{ ranMs: activity.ranMs, worst: this.gaps.rounded() },
    });
  }

  // ── Out ─────────────────────────────────────────────────────────────────────────────────────────────────────────

  private tell(now: number): void {
    this.toldAt = now;
    const { channels, told } = this.desk!;
    if (this.run) {
      const before = this.status.run;
      this.status = { ...this.status, ...this.run.status(), late: this.lateness.figures };
      if (this.status.run !== before || ++this.count % STATUS_EVERY === 0)
        this.emit({ type: 'status', status: this.status });
    }
    const { runS, stepId } = this.status;
    this.emit({ type: 'telemetry', telemetry: { runS, stepId, ...telemetryOf(channels, this.commanded, told) } });
  }

  private tellRun(): void {
    if (this.run) this.set(this.run.status());
  }

  /** Worth a look, unless something weightier stands there for whoever comes back. */
  private remark(notice: string): void {
    if (!this.status.alone) this.set({ notice });
  }
  private set(change: Partial<Status>): void {
    this.status = { ...this.status, ...change };
    this.emit({ type: 'status', status: this.status });
  }

  private refuse(code: Refusal): void {
    this.refuseBy(code, say(code), []);
  }
  private refuseBy(code: string, message: string, findings: readonly Finding[]): void {
    this.emit({ type: 'refused', code, message, findings: [...findings] });
  }
}
