/**
 * The run loop: one board, one run at a time, set points at absolute deadlines. It knows time only as the numbers
 * given to `tick` (ms, monotonic), so tests drive it by hand and the worker by the clock.
 *
 * A cushion of CUSHION ms is laid in the board's queue first; then one point a period, when the pacer says, which follows the
 * board's clock. Lateness inside the cushion is made up; beyond it the run's clock is shifted and nothing is sent twice. Pausing and stopping ramp the speed of time down, inside the joints' accelerations.
 */
import {
  boardReader,
  encodeHost,
  type BoardMessage,
  type HostMessage,
  type LineReader,
} from '@cork-elbow/core/board';
import { say, type Code, type Finding } from '@cork-elbow/core/findings';
import { type ArmHow, type RunState, type Status, idleStatus } from '@cork-elbow/core/contract';
import { nativeOf, type DriveMap } from '@cork-elbow/core/actuators';
import { standing } from '@cork-elbow/core/admit';
import { restPose } from '@cork-elbow/core/bring-up';
import { inUnit, limitExcess, rulesExcess, type Mechanism } from '@cork-elbow/core/mechanism';
import { byChannel, Channels, type Values } from '@cork-elbow/core/commands';
import { sampleBuffers, type Motion } from '@cork-elbow/core/motion';
import { stepAt, type Plan } from '@cork-elbow/core/routine';
import type { Build, Rig } from '@cork-elbow/core/rig';
import type { Link } from '../links/link';
import { bringUp, BringUpUnderway } from './bring-up';
import { prepareRun } from './prepare';
import type { LoopEvent, RunRequest } from './events';
import { confirmedLimits } from './limits';
import { Pacer, PERIOD } from './pacer';

/** What is queued on the board (ms) just after it took a point: in a run, and while motors are switched on. */
const CUSHION = 60;
const RISING = 30;
/** Lateness that the cushion still covers with a period to spare. */
const LATE = CUSHION - PERIOD;
/** A board silent for longer than this is lost. */
const SILENCE = 1000;
const REPORT = 20;
/** Telemetry goes to the pages at most this often (real ms). */
export const TELL = 50;
/** After the last point: cushion, lag of the motors, then the run counts as finished. */
const SETTLE = 250;
/** A set point this far (rad or m) past a limit is held back: more than rounding can explain. */
const PAST = 1e-6;

interface Connected {
  rig: Rig;
  rigId: string;
  build: Build;
  mechanism: Mechanism;
  wire: Channels;
  link: Link;
  reader: LineReader<BoardMessage>;
  heardAt: number;
}

interface ActiveRun {
  id: string;
  routineId: string;
  plan: Plan;
  /** The way to the start, `lead` seconds, then what motors are told of the plan. */
  motion: Motion;
  lead: number;
  /** Time of the plan at which it begins. */
  from: number;
  /** Where it goes round for ever, and what the laps done so far took (s). */
  round: { readonly atS: number; readonly againS: number; readonly lapS: number } | null;
  lapped: number;
  time: number;
  rate: number;
  wish: number;
  /** Rate of a run under way: 1, or less while the arm's position is unverified. */
  full: number;
  /** Change of the rate per ms while it ramps. */
  slope: number;
  ends: 'finished' | 'stopped' | null;
  quietAt: number | null;
  worst: Record<string, number>;
}

export class RunLoop {
  private status: Status = { ...idleStatus };
  private board: Connected | null = null;
  private run: ActiveRun | null = null;
  private commanded: Float64Array = new Float64Array(0);
  /** Read back, and sent last; by channel of the line. */
  private measured = new Map<number, number>();
  private sent = new Map<number, number>();
  private rising: BringUpUnderway | null = null;
  private seq = 0;
  private pacer = new Pacer(CUSHION, 0);
  private toldAt = -Infinity;
  private count = 0;

  /** Time of the loop's clock between two telemetries; more than {@link TELL} where simulated time runs fast. */
  tellEvery = TELL;

  constructor(private readonly emit: (event: LoopEvent) => void) {}

  get state(): Status {
    return this.status;
  }

  // ── Requests ────────────────────────────────────────────────────────────────────────────────────────────────────

  connect(
    rigId: string,
    rig: Rig,
    buildId: string,
    makeLink: (wire: Channels, build: Build, rest: Float64Array) => Link,
    now: number,
  ): void {
    this.disconnect();
    const stands = standing(rig, buildId);
    if (!stands.ok) return this.refuse(stands.faults[0].code, stands.faults[0].message);
    const { build } = stands;
    const mechanism = confirmedLimits(stands.mechanism, build);
    const wire = new Channels(rig, mechanism, build);
    const rest = restPose(rig, mechanism);
    const link = makeLink(wire, build, rest);
    this.board = { rig, rigId, build, mechanism, wire, link, reader: boardReader(), heardAt: now };
    this.commanded = rest;
    this.measured = new Map();
    this.sent = new Map();
    this.set({ ...idleStatus, link: 'connecting', board: link.name, rigId, buildId: build.id });
    this.send({ word: 'hello' });
    this.sendBounds();
    this.send({ word: 'report', everyMs: REPORT });
  }

  disconnect(): void {
    if (!this.board) return;
    this.finish('failed');
    this.rising = null;
    this.send({ word: 'halt' });
    this.send({ word: 'sleep' });
    this.board.link.close();
    this.board = null;
    this.set({ ...idleStatus });
  }

  /** Switches the motors on one after the other; without read-back they are taken to be where they rest. */
  arm(how: ArmHow, now: number): void {
    if (!this.board || this.status.link !== 'connected') return this.refuse('board-absent');
    if (this.run || this.rising || this.status.armed) return;
    const { rig, mechanism, build, wire } = this.board;
    if (!wire.all.length) return this.refuse('board-empty');
    wire.poseInto(this.commanded, this.measured);
    if (how === 'neutral') this.sendBounds((map) => nativeOf(map.drive, build)!);
    const plan = bringUp(how, rig, mechanism, build, wire.all, this.commanded, this.measured);
    this.pacer = new Pacer(RISING, now);
    this.rising = new BringUpUnderway(plan, wire.all, now, this.pacer);
    this.seq = 0;
    this.set({ mode: 'bringing-up', notice: '' });
    this.rise(this.rising, now);
  }

  /** Wakes the drives that are due and sends those awake where they are to be. */
  private rise(rising: BringUpUnderway, now: number): void {
    const due = rising.wakes(now);
    if (due.length) {
      this.keep(due);
      this.send({ word: 'wake', values: byChannel(due) });
    }
    if (!this.status.armed) return;
    const point = rising.point(now);
    if (point) {
      this.sendValues(point, PERIOD, now);
      this.commanded = rising.poseAt(now) ?? this.commanded;
    }
    if (!rising.isDone(now, CUSHION)) return;
    const { how } = rising.plan;
    // A motor without a trace of where it was stands where it was sent.
    if (how !== 'neutral') this.board!.wire.poseInto(this.commanded, this.sent);
    this.rising = null;
    this.set({ mode: how === 'neutral' ? 'neutral' : 'normal' });
  }

  disarm(): void {
    this.finish('stopped');
    this.rising = null;
    this.send({ word: 'halt' });
    this.send({ word: 'sleep' });
    if (this.board) this.sendBounds();
    this.set({ mode: 'normal' });
  }

  /** Plans the routine from the given document and begins with a slow move to its start. */
  start(request: RunRequest, rig: Rig, now: number): void {
    if (!this.board || this.status.link !== 'connected') return this.refuse('board-absent');
    if (!this.status.armed) return this.refuse('board-unarmed');
    if (this.status.mode !== 'normal') return this.refuse('board-not-ready');
    if (this.run) return this.refuse('run-busy');
    if (request.rigId !== this.board.rigId) return this.refuse('run-other-rig');
    const course = prepareRun(request, rig, this.commanded.slice());
    if (!course.ok) return this.refuse(course.code, course.message, course.findings);

    const { build, mechanism, plan, motion, lead, from, full, round } = course;
    const { id: runId, routineId } = request;
    Object.assign(this.board, { rig, build, mechanism, wire: new Channels(rig, mechanism, build) });
    this.sendBounds();
    this.run = {
      id: runId,
      routineId,
      plan,
      motion,
      lead,
      from,
      round,
      lapped: 0,
      time: 0,
      rate: full,
      wish: full,
      full,
      slope: 1 / (1000 * slowest(mechanism)),
      ends: null,
      quietAt: null,
      worst: {},
    };
    this.pacer = new Pacer(CUSHION, now + PERIOD, this.pacer.doneAt);
    this.layCushion(now);
    this.set({
      run: lead > 0 ? 'starting' : 'running',
      runId,
      routineId,
      runS: from,
      totalS: plan.durationS,
      notice: full < 1 ? say('position-unverified', { share: full * 100 }) : '',
      stepId: null,
    });
    this.emit({ type: 'started', run: request, routineName: course.routineName, board: this.board.link.name });
  }

  pause(): void {
    if (!this.run || this.run.ends) return;
    this.run.wish = 0;
    this.set({ run: 'pausing' });
  }

  resume(now: number): void {
    if (!this.run || this.run.ends || this.run.wish > 0) return;
    const standing = this.run.rate === 0;
    this.run.wish = this.run.full;
    if (standing) {
      this.pacer.restart(now);
      this.layCushion(now);
    }
    this.set({ run: this.run.time < this.run.lead ? 'starting' : 'running' });
  }

  /** First call: slow down and end. Second: halt. */
  stop(): void {
    if (!this.run) return;
    if (this.run.ends === 'stopped') return this.halt();
    this.run.wish = 0;
    this.run.ends = 'stopped';
    this.set({ run: 'stopping' });
    if (this.run.rate === 0) this.finish('stopped');
  }

  halt(): void {
    if (!this.board) return;
    this.send({ word: 'halt' });
    this.rising = null;
    this.finish('stopped');
  }

  // ── Time ────────────────────────────────────────────────────────────────────────────────────────────────────────

  tick(now: number): void {
    if (!this.board) return;
    this.board.link.advanceTo(now);
    for (const bytes of this.board.link.read())
      for (const message of this.board.reader.push(bytes)) if (message) this.hear(message, now);
    if (this.status.link !== 'lost' && now - this.board.heardAt > SILENCE) this.lose(now);
    if (this.rising) this.rise(this.rising, now);
    if (this.run) this.drive(this.run, now);
    if (now - this.toldAt >= this.tellEvery) this.tell(now);
  }

  private drive(run: ActiveRun, now: number): void {
    if (run.quietAt !== null) {
      if (now >= run.quietAt) this.finish(run.ends ?? 'finished');
      return;
    }
    if (run.rate === 0 && run.wish === 0) return;
    if (!this.pacer.isDue(now)) return;
    const late = this.pacer.late(now);
    if (late > LATE) {
      this.pacer.restart(now);
      this.set({ notice: say('run-stalled', { ms: late }) });
      this.layCushion(now);
      return;
    }
    const before = run.rate;
    const step = run.slope * PERIOD;
    run.rate = run.wish > before ? Math.min(run.wish, before + step) : Math.max(run.wish, before - step);
    run.time = run.time + ((before + run.rate) / 2) * (PERIOD / 1000);
    const { round } = run;
    if (!round) run.time = Math.min(run.motion.durationS, run.time);
    else if (run.time >= round.atS + round.lapS) {
      run.time -= round.lapS;
      run.lapped += round.lapS;
    }
    this.sendPoint(run, PERIOD, now);
    this.pacer.beat();
    if (!round && run.time >= run.motion.durationS) {
      run.ends ??= 'finished';
      run.quietAt = now + CUSHION + PERIOD + SETTLE;
    } else if (run.rate === 0) {
      if (run.ends) run.quietAt = now + CUSHION + PERIOD;
      else this.set({ run: 'paused' });
    }
  }

  /** Fills the board's queue up to the cushion with standing still where the run is now. */
  private layCushion(now: number): void {
    const missing = Math.round(this.pacer.missing(now));
    if (this.run && missing >= 1) this.sendPoint(this.run, missing, now);
  }

  /** Sends where the run is now, to be reached in `ms`; what is past a limit never leaves here. */
  private sendPoint(run: ActiveRun, ms: number, now: number): void {
    const { mechanism } = this.board!;
    const [q, v, a] = sampleBuffers(mechanism.m);
    run.motion.sampleInto(q, v, a, run.time);
    this.commanded = q;
    if (limitExcess(mechanism, this.commanded).by > PAST || rulesExcess(mechanism, this.commanded) > PAST) {
      this.send({ word: 'halt' });
      this.set({ notice: say('run-held-back') });
      return this.finish('failed');
    }
    // Time runs slower while it ramps, and so do the speeds.
    const paced = v.map((speed) => speed * run.rate);
    this.sendValues(this.board!.wire.values(q, paced), ms, now);
  }

  private keep(values: Values): void {
    for (const [map, value] of values) this.sent.set(map.channel!, value);
  }

  private sendValues(values: Values, ms: number, now: number): void {
    this.keep(values);
    const seq = this.seq++;
    this.send({ word: 'point', seq, ms, values: byChannel(values) });
    this.pacer.sent(seq, ms, now);
  }

  // ── What the board says ─────────────────────────────────────────────────────────────────────────────────────────

  private hear(message: BoardMessage, now: number): void {
    const board = this.board!;
    board.heardAt = now;
    switch (message.word) {
      case 'board':
        this.set({ link: 'connected' });
        break;
      case 'done':
        if (message.what === 'wake') this.set({ armed: true, notice: '' });
        if (message.what === 'sleep') this.set({ armed: false });
        break;
      case 'took':
        // It has played all it had while the run was not at rest: it stood still for a moment.
        if (this.pacer.took(message.seq, message.queuedMs, now) && this.run && this.run.rate > 0)
          this.set({ notice: say('run-dry') });
        break;
      case 'refused':
        this.set({ notice: say('board-refused', { reason: `${message.what}: ${message.why}` }) });
        if (message.what === 'point' || message.what === 'wake') {
          this.finish('failed');
          if (this.rising) this.set({ mode: 'normal' });
          this.rising = null;
        }
        break;
      case 'here': {
        for (const [channel, value] of message.measured) this.measured.set(channel, value);
        if (this.run) this.compare(this.run, new Map(message.commanded));
        if (message.state === 'halted' && this.status.armed) {
          this.finish('stopped');
          this.rising = null;
          this.set({ armed: false, mode: 'normal' });
        }
      }
    }
  }

  /** Keeps the widest gap between what each joint was told and where it is. */
  private compare(run: ActiveRun, commanded: ReadonlyMap<number, number>): void {
    const { mechanism, wire } = this.board!;
    const told = wire.poseInto(mechanism.home.slice(), commanded);
    const stands = wire.poseInto(told.slice(), this.measured);
    for (const slot of wire.known(this.measured)) {
      const id = mechanism.slotIds[slot];
      const error = inUnit(mechanism, slot, Math.abs(stands[slot] - told[slot]));
      run.worst[id] = Math.max(run.worst[id] ?? 0, error);
    }
  }

  private lose(now: number): void {
    this.finish('failed');
    this.rising = null;
    this.set({
      link: 'lost',
      armed: false,
      mode: 'normal',
      notice: say('board-lost', { ms: now - this.board!.heardAt }),
    });
  }

  private finish(outcome: 'finished' | 'stopped' | 'failed'): void {
    const { run } = this;
    if (!run) return;
    this.run = null;
    const worst = Object.fromEntries(Object.entries(run.worst).map(([id, v]) => [id, Math.round(v * 100) / 100]));
    this.set({ run: outcome, runS: planTime(run), stepId: null });
    this.emit({
      type: 'ended',
      runId: run.id,
      outcome,
      ranMs: Math.max(0, run.lapped + run.time - run.lead) * 1000,
      worst,
    });
  }

  // ── Out ─────────────────────────────────────────────────────────────────────────────────────────────────────────

  private tell(now: number): void {
    this.toldAt = now;
    const board = this.board!;
    const { run } = this;
    if (run) {
      const runS = planTime(run);
      const stepId = run.time < run.lead ? null : (stepAt(run.plan, runS)?.stepId ?? null);
      const moving: RunState =
        run.ends === 'stopped'
          ? 'stopping'
          : run.wish === 0
            ? run.rate === 0
              ? 'paused'
              : 'pausing'
            : run.time < run.lead
              ? 'starting'
              : 'running';
      const before = this.status.run;
      this.status = { ...this.status, runS, stepId, run: moving };
      if (moving !== before || ++this.count % 4 === 0) this.emit({ type: 'status', status: this.status });
    }
    const { mechanism, wire } = board;
    const stands = wire.poseInto(this.commanded.slice(), this.measured);
    this.emit({
      type: 'telemetry',
      telemetry: {
        runS: this.status.runS,
        commanded: Object.fromEntries(
          mechanism.slotIds.map((id, s) => [id, inUnit(mechanism, s, this.commanded[s])]),
        ),
        measured: Object.fromEntries(
          [...wire.known(this.measured)].map((s) => [mechanism.slotIds[s], inUnit(mechanism, s, stands[s])]),
        ),
        wire: Object.fromEntries(
          wire.all.flatMap((map) =>
            this.sent.has(map.channel!) ? [[map.drive.id, this.sent.get(map.channel!)!]] : [],
          ),
        ),
        stepId: this.status.stepId,
      },
    });
  }

  private set(change: Partial<Status>): void {
    this.status = { ...this.status, ...change };
    this.emit({ type: 'status', status: this.status });
  }

  private refuse(code: Code, message = say(code), findings: readonly Finding[] = []): void {
    this.emit({ type: 'refused', code, message, findings: [...findings] });
  }

  private sendBounds(rangeOf: (map: DriveMap) => { low: number; high: number } = (map) => map.native): void {
    const { maps, spins } = this.board!.wire;
    for (const map of maps) {
      const { low, high } = rangeOf(map);
      this.send({ word: 'bounds', channel: map.channel!, low, high });
    }
    for (const { channel, low, high, stopUs } of spins)
      this.send({ word: 'bounds', channel: channel!, low, high, still: stopUs });
  }

  private send(message: HostMessage): void {
    this.board?.link.write(encodeHost(message));
  }
}

/** Time of the plan that a run is at; where it begins, while it is on its way there. */
function planTime({ from, time, plan, lead, round }: ActiveRun): number {
  if (round && time > round.atS) return round.againS + (time - round.atS);
  return Math.min(plan.durationS, from + Math.max(0, time - lead));
}

/** Seconds in which time may slow from full speed to a stand without any joint braking harder than it may. */
function slowest(mechanism: Mechanism): number {
  let seconds = 0.1;
  for (let s = 0; s < mechanism.m; s++) seconds = Math.max(seconds, mechanism.speed[s] / mechanism.accel[s]);
  return Math.min(2, seconds);
}
