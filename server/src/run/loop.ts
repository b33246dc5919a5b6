/**
 * The run loop: the boards of one rig, and one activity at a time that moves them, with set points at absolute deadlines. It knows time
 * only as the numbers given to `tick` (ms, monotonic), so tests drive it by hand and the worker by the clock.
 */
import type { Finding } from '@cork-elbow/core/findings';
import {
  contractFindings,
  idleStatus,
  isActive,
  SILENT_S,
  type AfterStop,
  type ArmHow,
  type Away,
  type Status,
  type Trouble,
  linesCannot,
} from '@cork-elbow/core/contract';
import { isSpin, nativeOf, type CommandMap } from '@cork-elbow/core/actuators';
import { wayDown } from '@cork-elbow/core/bring-up';
import { fromUnit } from '@cork-elbow/core/mechanism';
import { signalPins } from '@cork-elbow/core/commands';
import type { Rig, Signal } from '@cork-elbow/core/rig';
import type { LineEnd, Link } from '../links/link';
import type { Activity, Outcome } from './activities/activity';
import { bringUp, BringUpUnderway, RISING } from './activities/bring-up';
import { ByHand, MOST_WAITING } from './activities/by-hand';
import { Homing } from './activities/homing';
import { LayDown } from './activities/lay-down';
import { OneMotor } from './activities/one-motor';
import { RoutineRun } from './activities/routine';
import { Desk, type Hindrance } from './desk';
import { Feed } from './feed';
import { HeatWatch } from './heat';
import type { Guiding, LoopEvent, RunRequest } from './events';
import { PERIOD } from './pacer';
import { prepareRun } from './prepare';
import { headOf, RunRecording } from './recording';
import type { BoardSession, Heard } from './session';
import { telemetryOf } from './telemetry';
import { toolStep } from './tool-step';

const { say } = contractFindings;
/** Why nothing is begun. */
type Refusal =
  | 'board-absent'
  | 'board-empty'
  | 'board-unarmed'
  | 'board-not-ready'
  | 'joint-limp'
  | 'stop-latched'
  | 'step-not-now'
  | 'step-no-back'
  | 'run-busy'
  | 'run-other-rig'
  | 'line-armed'
  | 'line-own'
  | 'hand-off'
  | 'homing-busy'
  | 'signal-unknown'
  | 'signal-busy'
  | 'force-real'
  | 'trouble-real'
  | 'motor-no-pin'
  | 'motor-off'
  | 'motor-armed';
/** Telemetry goes to the pages at most this often (real ms), and every so many of them the status. */
export const TELL = 50;
const STATUS_EVERY = 4;
/** An arm of which no motor is on. */
const OFF = { armed: false, homed: false, mode: 'normal', limp: [] } satisfies Partial<Status>;

type Moves = BringUpUnderway | RoutineRun | LayDown | ByHand | OneMotor | Homing;

export class RunLoop {
  private status: Status = { ...idleStatus };
  private desk: Desk | null = null;
  private activity: Moves | null = null;
  /** Its points to the boards. */
  private feed: Feed | null = null;
  /** Since when nothing has run while the page with the controls is gone (ms). */
  private quietSince: number | null = null;
  private recording: RunRecording | null = null;
  private heat = new HeatWatch();
  private toldAt = -Infinity;
  /** When it was looked at last. */
  private nowMs = 0;
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
    const desk = Desk.open(rigId, rig, buildId, open, now);
    if (!(desk instanceof Desk)) return this.hindered(desk);
    const board = [...new Set(desk.sessions.map(({ name }) => name))].join(', ');
    this.desk = desk;
    if (this.heat.rigId !== rigId) this.heat = new HeatWatch(rigId);
    const { away, afterStop } = this.status;
    const ownLines = [...desk.ownLines].map(([id, lines]) => ({ board: id, ...lines }));
    this.set({ ...idleStatus, away, afterStop, ownLines, link: 'connecting', rigId, buildId: desk.build.id, board });
    this.setAway(away);
  }

  disconnect(now: number): void {
    if (!this.desk) return;
    this.end('failed');
    for (const session of this.sessions) {
      session.close(now);
    }
    this.desk = null;
    const { away, afterStop } = this.status;
    this.set({ ...idleStatus, away, afterStop });
  }

  /** Before motors are switched on: the rig as it is saved now. Whether its boards are those that are connected; said where not. */
  takeIn(rig: Rig): boolean {
    if (!this.desk || this.activity || this.status.armed) return true;
    const why = this.desk.takeIn(rig, this.desk.build.id);
    if (why) this.hindered(why);
    else this.set({ madeFor: this.desk.madeFor });
    return !why;
  }

  /**
   * Switches the motors on one after the other; without read-back they are taken to be where they rest. While the arm is on: those that
   * were let go.
   */
  arm(how: ArmHow, now: number): void {
    if (!this.desk || this.status.link !== 'connected') return this.refuse('board-absent');
    const { rig, mechanism, build, channels, told, commanded } = this.desk;
    const limp = channels.all.filter(({ drive }) => told.limp.has(drive.id));
    const { armed } = this.status;
    if (this.activity || (armed && !limp.length)) return;
    if (this.status.latched) return this.refuse('stop-latched');
    if (!channels.all.length) return this.refuse('board-empty');
    if (!armed) channels.poseInto(commanded, told.measured);
    // Whatever they were held to before, such as one motor's own range.
    this.desk.hold(how === 'neutral' && !armed ? 'motors' : 'joints');
    // Of an arm that is on, those that were let go are held again where they are.
    const maps = armed ? limp : channels.all;
    const plan = bringUp(armed ? 'hold' : how, rig, mechanism, build, maps, commanded, told.measured);
    const activity = this.take(new BringUpUnderway(plan, maps, now));
    if (!armed) for (const session of this.sessions) session.begin(activity.cushionMs, now);
    this.set({ mode: 'bringing-up', notice: '' });
    this.drive(activity, now);
  }

  disarm(now: number): void {
    this.end('stopped');
    for (const session of this.sessions) {
      session.halt(now);
      session.sleep(now);
    }
    this.desk?.hold('joints');
    const clings = this.sessions.find(({ ownLines }) => ownLines && !ownLines.turnsOff);
    const notice = clings && this.status.armed ? { notice: say('lines-no-off', { board: clings.end.name }) } : {};
    this.set({ mode: 'normal', ...notice });
  }

  /** Plans the routine from the given document and begins with a slow move to its start. `clock`: the loop's time when it is looked at. */
  start(request: RunRequest, rig: Rig, clock: () => number): void {
    const desk = this.free();
    if (!desk) return;
    if (request.rigId !== desk.rigId) return this.refuse('run-other-rig');
    const course = prepareRun(request, rig, (channels) => desk.standsBy(channels), this.status.homed, desk.ownLines);
    if (!course.ok) return this.refuseBy(course.code, course.message, course.findings);
    // Planning took its time: what begins, begins now.
    const now = clock();

    const { build, mechanism, full } = course;
    const why = desk.take(rig, mechanism, build, course.sudden);
    if (why) return this.hindered(why);
    desk.commanded = course.motion.start.slice();
    for (const session of this.sessions) session.listen();
    const { told } = desk;
    const run = new RoutineRun(
      ...([request.id, request.routineId, course, desk.channels, signalPins(rig)] as const),
      (signal) => told.signals.get(signal),
      (drive) => told.measured.get(drive) ?? told.sent.get(drive),
      request.stepwise,
    );
    this.take(run);
    this.set({
      ...run.status(),
      runId: run.runId,
      routineId: run.routineId,
      totalS: run.totalS,
      notice: full < 1 ? say('position-unverified', { share: full * 100 }) : '',
      stepId: null,
    });
    const head = headOf(desk);
    this.emit({
      ...{ type: 'started', run: request, routineName: course.routineName, board: this.status.board },
      head,
    });
    this.recording = new RunRecording(request.id, desk, head, now, this.emit);
    this.feed!.pace(now + PERIOD);
    this.feed!.begin(now);
  }

  /** Moves the arm from now on. */
  private take<M extends Moves>(activity: M): M {
    this.activity = activity;
    const isRun = activity instanceof RoutineRun;
    this.feed = new Feed(this.desk!, activity, {
      stalled: (ms) => isRun && this.remark(say('run-stalled', { ms })),
      heldBack: (why) => {
        this.set({ notice: say(why) });
        this.end('failed');
      },
    });
    return activity;
  }

  /** The desk, where something may begin to move the arm: who leads it by hand and lets it stand may do so. Said where not. */
  private free(rigId?: string): Desk | null {
    const { desk } = this;
    const refused = (code: Refusal): null => (this.refuse(code), null);
    if (!desk || this.status.link !== 'connected') return refused('board-absent');
    if (!this.status.armed) return refused('board-unarmed');
    if (this.status.latched) return refused('stop-latched');
    if (rigId !== undefined && rigId !== desk.rigId) return refused('run-other-rig');
    if (this.hand && !this.hand.isMoving) this.end('finished');
    if (this.status.mode === 'homing') return refused('homing-busy');
    if (this.status.mode !== 'normal' || !desk.isReady) return refused('board-not-ready');
    if (desk.limp.length && !this.activity) return refused('joint-limp');
    return this.activity ? refused('run-busy') : desk;
  }

  /** A line of somebody's own to a board; none that moves, and none while anything is switched on. */
  line(board: string, text: string, now: number): void {
    const session = this.sessions.find((s) => s.end.board === board);
    if (!session || this.status.link !== 'connected') return this.refuse('board-absent');
    if (this.status.armed || this.activity) return this.refuse('line-armed');
    if (session.ownLines) return this.refuse('line-own');
    const word = session.sendOwn(text, now);
    if (word !== null) this.refuseBy('line-moves', say('line-moves', { word }), []);
  }

  // ── Led by hand ─────────────────────────────────────────────────────────────────────────────────────────────────

  /**
   * From now on joints are led; asked again after an edit, by what is saved now. `limitsOf`: a joint (id) of which it is being found how far
   * it goes.
   */
  byHand(rigId: string, rig: Rig, buildId: string, now: number, limitsOf?: string): void {
    const desk = this.free(rigId);
    if (!desk) return;
    const why = desk.takeIn(rig, buildId, limitsOf);
    if (why) return this.hindered(why);
    this.take(new ByHand(desk.channels, desk.commanded.slice(), desk.excess(desk.commanded)));
    this.feed!.pace(now + PERIOD);
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
    if (stood && hand.isMoving) this.feed!.setOff(now);
  }

  // ── Homing ──────────────────────────────────────────────────────────────────────────────────────────────────────

  /** Joints find their places, by the rig as it is saved now. */
  home(saved: Rig | null, now: number): void {
    const desk = this.free();
    if (!desk) return;
    const why = desk.takeIn(saved ?? desk.rig, desk.build.id);
    if (why) return this.hindered(why);
    const { rig, build, channels, commanded, told } = desk;
    const session = (line: string): BoardSession => this.sessions.find(({ end }) => end.board === line)!;
    const homing = Homing.of(
      rig,
      build,
      channels,
      desk.ownLines,
      commanded,
      {
        seek: (line, speeds, until, ms) => session(line).seek(speeds, until, ms, this.nowMs),
        zero: (values) => this.sessions.forEach((each) => each.zero(values, this.nowMs)),
        sent: told.sent,
        reads: (signal) => told.signals.get(signal),
        sensed: (sensor) => told.sensed.get(sensor) ?? [],
      },
      now,
    );
    if (!(homing instanceof Homing)) return this.hindered(homing);
    this.take(homing);
    desk.hold((map) => homing.reach(map));
    this.feed!.pace(now + PERIOD);
    this.set({ mode: 'homing', homed: false, found: homing.found, notice: '' });
  }

  // ── Inputs and outputs by hand ──────────────────────────────────────────────────────────────────────────────────

  switch(signal: string, on: boolean, now: number): void {
    const { desk } = this;
    if (!desk || this.status.link !== 'connected') return this.refuse('board-absent');
    // What seeks takes no points.
    const isBusy = this.run || ['bringing-up', 'homing'].includes(this.status.mode);
    if (!this.status.armed || isBusy) return this.refuse('signal-busy');
    const pin = signalPins(desk.rig).find((p) => p.signal.id === signal && p.signal.way === 'out');
    const session = this.sessions.find(({ end }) => end.board === pin?.line);
    if (!pin || !session?.isAwake) return this.refuse('signal-unknown');
    if (session.ownLines?.switches === false) return this.refuseLines(session, 'switch outputs');
    session.point([], PERIOD, now, [[pin, on]]);
  }
  /** Something goes wrong with a motor, or with every board (null): simulated ones only. */
  trouble(kind: Trouble, drive: string | null, by: number): void {
    if (!this.sessions.filter((session) => session.trouble(kind, drive, by)).length) this.refuse('trouble-real');
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
    if (this.status.latched) return this.refuse('stop-latched');
    const map = desk.channels.all.find((m) => m.drive.id === drive);
    if (!map) return this.refuse('motor-no-pin');
    if (!this.takes(map, value)) return;
    const own = this.sessions.find(({ end }) => end.board === map.line);
    if (own?.ownLines?.single === false) return this.refuseLines(own, 'speak of one motor alone');
    desk.hold('motors');
    for (const session of this.sessions) session.begin(RISING, now);
    const perDeg = isSpin(map) ? 0 : Math.abs(map.native.perDeg);
    const activity = this.take(new OneMotor(map, value, perDeg * desk.rig.powerUp.maxDegPerS));
    this.set({ mode: 'one-motor', motor: drive, notice: '' });
    this.drive(activity, now);
  }
  motorTo(value: number, now: number): void {
    const { activity } = this;
    if (!(activity instanceof OneMotor)) return this.refuse('motor-off');
    if (!this.takes(activity.map, value)) return;
    const stood = !activity.isMoving;
    activity.send(value);
    if (stood && activity.isMoving) this.feed!.setOff(now);
  }
  /** Whether a value is inside a motor's own range; said where not. */
  private takes(map: CommandMap, value: number): boolean {
    const { low, high } = isSpin(map) ? map : nativeOf(map.drive, this.desk!.build)!;
    if (value >= low && value <= high) return true;
    const unit = isSpin(map) ? 'µs' : map.native.unit;
    this.refuseBy('motor-range', say('motor-range', { drive: map.drive.name, low, high, unit, got: value }), []);
    return false;
  }
  private get hand(): ByHand | null {
    return this.activity instanceof ByHand ? this.activity : null;
  }
  pause(): void {
    this.run?.pause();
    this.tellRun();
  }

  setPace(share: number): void {
    this.run?.setPace(share);
    this.tellRun();
  }

  resume(now: number): void {
    const { run } = this;
    if (run?.resume()) this.feed!.setOff(now);
    this.tellRun();
  }

  /** A run that stands goes on by one step, or back. */
  step(way: 'on' | 'back', now: number): void {
    const { run } = this;
    if (!run?.steps) return this.refuse('step-not-now');
    if (!run.step(way === 'on' ? 1 : -1)) return this.refuse('step-no-back');
    this.feed!.setOff(now);
    this.tellRun();
  }

  /** First call: slow down and end. Second: halt. */
  stop(now: number): void {
    const { run } = this;
    if (this.activity instanceof ByHand || this.activity instanceof OneMotor) return this.activity.stop();
    // What is neither has no way to slow down on: it stands where it is.
    if (!run) return this.activity instanceof LayDown || this.activity instanceof Homing ? this.halt(now) : undefined;
    if (!run.stop()) return this.halt(now);
    this.set({ ...run.status(), latched: true });
    const outcome = run.outcome(now);
    if (outcome) this.end(outcome);
  }

  /** Somebody freezes the arm. */
  halt(now: number): void {
    if (this.status.armed || this.activity) this.set({ latched: true });
    this.freeze(now);
    if (this.status.afterStop === 'off') this.disarm(now);
  }
  private freeze(now: number): void {
    for (const session of this.sessions) session.halt(now);
    this.end('stopped');
  }

  setAfterStop(afterStop: AfterStop): void {
    this.set({ afterStop });
  }
  /** Somebody has looked. */
  clear(): void {
    const input = this.stopInput;
    if (input) return this.refuseBy('stop-input', say('stop-input', { signal: input.name }), []);
    this.set({ latched: false, notice: '' });
  }
  /** An input that stops the arm and is on; null: none is. */
  private get stopInput(): Signal | null {
    const { desk } = this;
    return desk?.rig.signals.find(({ id, way, stops }) => way === 'in' && stops && desk.told.signals.get(id)) ?? null;
  }
  /** Freezes the arm while one is on; what begins then is refused, since nobody can clear that. */
  private heedStopInput(now: number): void {
    const input = this.stopInput;
    if (!input || this.status.latched) return;
    this.set({ latched: true, notice: say('stop-input', { signal: input.name }) });
    if (this.status.armed || this.activity) this.halt(now);
  }

  // ── The page that has the controls ──────────────────────────────────────────────────────────────────────────────

  /** What is done when it is gone. */
  setAway(away: Away): void {
    this.set({ away });
    for (const session of this.sessions) session.setSilence(away.silentOffS);
  }

  /** Whether it is gone: what was chosen for that is done, and shown when it comes back. */
  setAlone(alone: boolean): void {
    if (!this.desk || alone === this.status.alone) return;
    this.quietSince = null;
    this.set({ alone });
    if (alone && this.activity instanceof OneMotor) this.activity.stop();
    if (alone) this.hand?.leave();
    // Boards would go on seeking by themselves.
    if (alone && this.activity instanceof Homing) this.freeze(this.nowMs);
    if (!alone || !this.run || !isActive(this.status.run)) return;
    if (this.status.away.run === 'finish') return this.set({ notice: say('page-gone-finishes') });
    this.pause();
    this.set({ notice: say('page-gone-stood') });
  }

  /** Nobody has come back for as long as was chosen: what stands still ends, and the arm lies down. */
  private waitAlone(now: number): void {
    const { alone, armed, latched, mode, away, run } = this.status;
    // What somebody has stopped nobody else begins to move.
    const isQuiet = alone && armed && !latched && mode === 'normal' && (run === 'paused' || !this.activity);
    if (!isQuiet || away.then === 'hold') {
      this.quietSince = null;
      return;
    }
    this.quietSince ??= now;
    if (now - this.quietSince < away.afterS * 1000) return;
    this.quietSince = null;
    this.end('stopped');
    this.layDown(say('page-gone-rests'), now);
  }
  /** The arm goes to where it rests, and its motors off. */
  lieDown(now: number): void {
    if (this.free()) this.layDown('', now);
  }
  private layDown(notice: string, now: number): void {
    const { rig, mechanism, build, channels, commanded } = this.desk!;
    this.take(new LayDown(wayDown(rig, mechanism, build, commanded.slice()), channels, now));
    this.feed!.pace(now);
    this.set({ mode: 'lying-down', notice });
  }

  // ── Time ────────────────────────────────────────────────────────────────────────────────────────────────────────

  tick(now: number): void {
    this.nowMs = now;
    if (!this.desk) return;
    for (const session of this.sessions)
      for (const heard of session.tick(now)) this.hear(heard, session.end.board, now);
    this.heedStopInput(now);
    const warm = this.heat.look(this.desk, now);
    if (warm) this.remark(warm);
    this.waitAlone(now);
    if (this.activity) this.drive(this.activity, now);
    if (this.run) this.recording?.look(this.run, this.status, now);
    if (now - this.toldAt >= this.tellEvery) this.tell(now);
  }

  private drive(activity: Activity, now: number): void {
    const feed = this.feed!;
    if (activity instanceof Homing && activity.goOn(now) && activity.isMoving) feed.setOff(now);
    const woken = activity.wakes(now);
    if (woken.length) for (const session of this.sessions) session.wake(woken, now);
    const limps = activity.limps?.() ?? [];
    if (limps.length) for (const session of this.sessions) session.letGo(limps, now);
    if (woken.length || limps.length) this.tellLimp();
    const outcome = feed.isAwake && activity.outcome(now);
    if (outcome) return this.finish(outcome, now);
    // None runs ahead of a board that does not take what it is sent.
    if (feed.isClogged) return;
    const answer = this.run?.answer(now) ?? null;
    if (answer !== null) {
      // What comes next is planned, which may take its time: the beat begins anew then.
      this.run!.goOn(answer);
      return feed.excuse();
    }
    feed.go(now);
  }

  // ── What boards say ─────────────────────────────────────────────────────────────────────────────────────────────

  private hear(heard: Heard, board: string, now: number): void {
    const { sessions } = this;
    switch (heard.what) {
      case 'connected':
        if (this.status.link !== 'lost' && sessions.every(({ isConnected }) => isConnected))
          this.set({ link: 'connected', madeFor: this.desk!.madeFor });
        break;
      case 'awake':
        if (!this.status.armed) this.set({ armed: true, notice: '' });
        break;
      case 'asleep':
        // What is limp may be moved by anybody.
        if (!sessions.some(({ isAwake }) => isAwake)) this.set({ armed: false, homed: false, limp: [] });
        break;
      case 'dry':
        if (this.run?.isMoving) this.remark(say('run-dry'));
        break;
      case 'noisy':
        if (this.run) this.remark(say('line-noisy'));
        break;
      case 'refused':
        this.set({ notice: say('board-refused', { reason: `${heard.word}: ${heard.why}` }) });
        if (['point', 'wake', 'letgo', 'seek', 'zero'].includes(heard.word)) this.end('failed');
        if (heard.word === 'letgo') this.tellLimp();
        break;
      case 'found':
        if (this.activity instanceof Homing) this.activity.hear(board, heard.id, heard.hit);
        break;
      case 'anew':
        this.set({ notice: say('board-anew'), madeFor: this.desk!.madeFor });
        this.cutOff('failed', now);
        this.set(OFF);
        break;
      case 'halted':
        if (heard.why === 'silence')
          this.set({ notice: say('board-silence', { board: this.nameOf(board), s: SILENT_S }) });
        if (heard.why === 'unknown') this.set({ notice: say('board-halted', { board: this.nameOf(board) }) });
        this.cutOff('stopped', now);
        this.set(OFF);
        break;
      case 'lost':
        // First why, so that the end of a run stands beside it.
        this.set({
          notice:
            heard.reason === null
              ? say('board-lost', { ms: heard.silentMs })
              : say('link-failed', { reason: heard.reason }),
        });
        this.cutOff('failed', now);
        this.set({ ...OFF, link: 'lost' });
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
  private end(asked: Outcome): void {
    const { activity, desk } = this;
    if (!activity || !desk) return;
    const { figures } = this.feed!.lateness;
    this.activity = this.feed = null;
    const run = activity instanceof RoutineRun ? activity : null;
    this.set({ ...activity.close(desk, asked, this.nowMs), ...(run ? { late: figures } : {}) });
    if (run) this.endRun(run);
  }
  private endRun(run: RoutineRun): void {
    const outcome = this.status.run;
    this.recording!.end(run, this.status, this.nowMs);
    this.emit({
      ...{ type: 'ended', runId: run.runId, outcome },
      ...{ ranMs: run.ranMs, worst: this.recording!.worst },
    });
    this.recording = null;
    if (outcome === 'stopped' && this.status.latched && this.status.afterStop === 'off') this.disarm(this.nowMs);
  }

  // ── Out ─────────────────────────────────────────────────────────────────────────────────────────────────────────

  private tell(now: number): void {
    this.toldAt = now;
    const { channels, told, commanded, rig } = this.desk!;
    const isHoming = this.activity instanceof Homing;
    const found = this.activity instanceof Homing ? this.activity.found : [];
    // What seeks is told to be where its board has taken it by now.
    const stands = isHoming ? channels.poseInto(commanded.slice(), told.at) : commanded;
    if (isHoming && this.status.found.some(({ act }, k) => act !== found[k].act)) this.set({ found });
    if (this.run) {
      const before = this.status.run;
      this.status = { ...this.status, ...this.run.status(), late: this.feed!.lateness.figures };
      if (this.status.run !== before || ++this.count % STATUS_EVERY === 0)
        this.emit({ type: 'status', status: this.status });
    }
    const { runS, stepId } = this.status;
    const heat = this.heat.told;
    this.emit({
      type: 'telemetry',
      telemetry: { runS, stepId, heat, ...telemetryOf(channels, stands, told, rig.sensors) },
    });
  }

  private tellLimp(): void {
    this.set({ limp: this.desk?.limp ?? [] });
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
  private nameOf(board: string): string {
    return this.sessions.find(({ end }) => end.board === board)?.end.name ?? board;
  }
  private refuseLines({ end }: BoardSession, what: Parameters<typeof linesCannot>[2]): void {
    this.hindered(linesCannot(this.desk!.rig, end.board, what));
  }
  private hindered({ code, message }: Hindrance): void {
    this.refuseBy(code, message, []);
  }
  private refuseBy(code: string, message: string, findings: readonly Finding[]): void {
    this.emit({ type: 'refused', code, message, findings: [...findings] });
  }
}
