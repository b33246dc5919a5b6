/**
 * The run loop: one board, one run at a time, set points at absolute deadlines. It knows time only as the numbers
 * given to `tick` (ms, monotonic), so tests drive it by hand and the worker by the clock.
 *
 * A cushion of CUSHION ms is laid in the board's queue first; then one point a period, each at its deadline. Lateness
 * inside the cushion is made up by points at least MIN_GAP apart; beyond it the run's clock is shifted and nothing is
 * sent twice. Pausing and stopping ramp the speed of time down, inside the joints' accelerations.
 */
import {
  boardReader,
  encodeHost,
  type BoardMessage,
  type HostMessage,
  type LineReader,
} from '@cork-elbow/core/board';
import { say, type Finding, type RunState, type Status, idleStatus } from '@cork-elbow/core/contract';
import { fromUs, servoMaps, toWire, type ServoMap } from '@cork-elbow/core/drives';
import { compile, limitExcess, rulesExcess, type Mechanism } from '@cork-elbow/core/mechanism';
import { jointMove } from '@cork-elbow/core/motion';
import { planRoutine, positionAt, preflight, stepAt, type Plan } from '@cork-elbow/core/routine';
import type { Build, Rig } from '@cork-elbow/core/rig';
import type { Link } from '../links/link';
import { confirmedLimits } from './limits';

export const PERIOD = 20;
const CUSHION = 60;
/** Lateness that the cushion still covers with a period to spare. */
const LATE = CUSHION - PERIOD;
const MIN_GAP = 5;
/** A board silent for longer than this is lost. */
const SILENCE = 1000;
const REPORT = 20;
/** Telemetry goes to the pages at most this often (real ms). */
export const TELL = 50;
/** After the last point: cushion, lag of the motors, then the run counts as finished. */
const SETTLE = 250;
/** Share of the speed for the way from where the arm stands to the routine's start. */
const FIRST_MOVE = 0.25;
/** A set point this far (rad or m) past a limit is held back: more than rounding can explain. */
const PAST = 1e-6;
/** A start nearer than this (° or mm) needs no move of its own. */
const AT_START = 0.05;

/** What a run was asked to be; it comes back with `started`, so that the log needs no memory of its own. */
export interface RunRequest {
  readonly id: string;
  readonly rigId: string;
  readonly revision: number;
  readonly buildId: string;
  readonly routineId: string;
}

export interface Telemetry {
  runS: number;
  commanded: Record<string, number>;
  measured: Record<string, number>;
  wire: Record<string, number>;
  stepId: string | null;
}
export type LoopEvent =
  | { type: 'status'; status: Status }
  | { type: 'telemetry'; telemetry: Telemetry }
  | { type: 'refused'; code: string; message: string; findings: Finding[] }
  | { type: 'started'; run: RunRequest; routineName: string; board: string }
  | { type: 'ended'; runId: string; outcome: RunState; ranMs: number; worst: Record<string, number> };

interface Connected {
  rig: Rig;
  rigId: string;
  build: Build;
  mechanism: Mechanism;
  maps: ServoMap[];
  link: Link;
  reader: LineReader<BoardMessage>;
  heardAt: number;
}

interface Going {
  id: string;
  routineId: string;
  plan: Plan;
  /** Blocks of the way to the start come before plan time 0. */
  lead: number;
  time: number;
  rate: number;
  wish: number;
  /** Change of the rate per ms while it ramps. */
  slope: number;
  ends: 'finished' | 'stopped' | null;
  nextDue: number;
  lastSent: number;
  quietAt: number | null;
  worst: Record<string, number>;
}

export class RunLoop {
  private status: Status = { ...idleStatus };
  private board: Connected | null = null;
  private run: Going | null = null;
  private commanded: Float64Array = new Float64Array(0);
  private measured: (number | null)[] = [];
  private wire: Record<string, number> = {};
  private seq = 0;
  /** When the board will have done all it was sent (ms). */
  private queuedUntil = 0;
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
    makeLink: (maps: ServoMap[], mechanism: Mechanism) => Link,
    now: number,
  ): void {
    this.disconnect();
    const build = rig.builds.find((b) => b.id === buildId) ?? rig.builds[0];
    const compiled = compile(rig.mechanism, build.mounting);
    if (!compiled.ok) return this.refuse(compiled.faults[0].code, compiled.faults[0].message);
    const mechanism = confirmedLimits(compiled.mechanism, build);
    const maps = servoMaps(rig, mechanism, build);
    const link = makeLink(maps, mechanism);
    this.board = { rig, rigId, build, mechanism, maps, link, reader: boardReader(), heardAt: now };
    this.commanded = mechanism.home.slice();
    this.measured = maps.map(() => null);
    this.wire = {};
    this.set({ ...idleStatus, link: 'connecting', board: link.name, rigId, buildId: build.id });
    this.send({ word: 'hello' });
    this.sendBounds();
    this.send({ word: 'report', everyMs: REPORT });
  }

  disconnect(): void {
    if (!this.board) return;
    this.finish('failed');
    this.send({ word: 'halt' });
    this.send({ word: 'sleep' });
    this.board.link.close();
    this.board = null;
    this.set({ ...idleStatus });
  }

  arm(): void {
    if (!this.board || this.status.link !== 'connected') return this.refuse('board-absent', say('board-absent'));
    if (this.run) return;
    // Outputs come on where the motors are, so that nothing jumps.
    const values = this.wired().map(({ map, index }): [number, number] => {
      const us = this.measured[index] ?? toWire(map, this.commanded[map.slot]);
      const held = Math.min(map.highUs, Math.max(map.lowUs, us));
      this.commanded[map.slot] = fromUs(map, held);
      return [map.channel!, held];
    });
    this.seq = 0;
    this.send({ word: 'wake', values });
  }

  disarm(): void {
    this.finish('stopped');
    this.send({ word: 'halt' });
    this.send({ word: 'sleep' });
  }

  /** Plans the routine from the given document and begins with a slow move to its start. */
  start(request: RunRequest, rig: Rig, now: number): void {
    const { id: runId, rigId, buildId, routineId } = request;
    if (!this.board || this.status.link !== 'connected') return this.refuse('board-absent', say('board-absent'));
    if (!this.status.armed) return this.refuse('board-unarmed', say('board-unarmed'));
    if (this.run) return this.refuse('run-busy', say('run-busy'));
    const refused = (reason: string, findings: Finding[] = []): void =>
      this.refuse('run-refused', say('run-refused', { reason }), findings);
    if (rigId !== this.board.rigId) return refused('The board was connected for another rig.');
    const routine = rig.routines.find((r) => r.id === routineId);
    const build = rig.builds.find((b) => b.id === buildId);
    if (!routine || !build) return refused('There is no such routine or build in the saved rig.');
    const compiled = compile(rig.mechanism, build.mounting);
    if (!compiled.ok) return refused(compiled.faults[0].message);
    const mechanism = confirmedLimits(compiled.mechanism, build);
    const plan = planRoutine(rig, mechanism, build, routine);
    const stops = preflight(rig, mechanism, build, plan).filter((f) => f.severity === 'stop');
    if (stops.length) return refused(stops[0].message, stops);
    if (plan.durationS === 0) return refused('It has nothing to do.');

    Object.assign(this.board, { rig, build, mechanism, maps: servoMaps(rig, mechanism, build) });
    this.sendBounds();
    const first = jointMove(mechanism, this.commanded.slice(), plan.start, { speedShare: FIRST_MOVE });
    const far = plan.start.some((v, s) => Math.abs(v - this.commanded[s]) / mechanism.siPerUnit[s] > AT_START);
    const lead = far ? first.duration : 0;
    const whole: Plan = {
      ...plan,
      blocks: [
        ...(far ? [{ block: first, startS: 0, stepId: '' }] : []),
        ...plan.blocks.map((b) => ({ ...b, startS: b.startS + lead })),
      ],
      durationS: plan.durationS + lead,
    };
    this.run = {
      id: runId,
      routineId,
      plan: whole,
      lead,
      time: 0,
      rate: 1,
      wish: 1,
      slope: 1 / (1000 * slowest(mechanism)),
      ends: null,
      nextDue: now + PERIOD,
      lastSent: -Infinity,
      quietAt: null,
      worst: {},
    };
    this.layCushion(now);
    this.set({
      run: lead > 0 ? 'starting' : 'running',
      runId,
      routineId,
      runS: 0,
      totalS: plan.durationS,
      notice: '',
      stepId: null,
    });
    this.emit({ type: 'started', run: request, routineName: routine.name, board: this.board.link.name });
  }

  pause(): void {
    if (!this.run || this.run.ends) return;
    this.run.wish = 0;
    this.set({ run: 'pausing' });
  }

  resume(now: number): void {
    if (!this.run || this.run.ends || this.run.wish === 1) return;
    const standing = this.run.rate === 0;
    this.run.wish = 1;
    if (standing) {
      this.run.nextDue = now + PERIOD;
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
    this.finish('stopped');
  }

  // ── Time ────────────────────────────────────────────────────────────────────────────────────────────────────────

  tick(now: number): void {
    if (!this.board) return;
    this.board.link.advanceTo(now);
    for (const bytes of this.board.link.read())
      for (const message of this.board.reader.push(bytes)) if (message) this.hear(message, now);
    if (this.status.link !== 'lost' && now - this.board.heardAt > SILENCE) this.lose(now);
    if (this.run) this.drive(this.run, now);
    if (now - this.toldAt >= this.tellEvery) this.tell(now);
  }

  private drive(run: Going, now: number): void {
    if (run.quietAt !== null) {
      if (now >= run.quietAt) this.finish(run.ends ?? 'finished');
      return;
    }
    if (run.rate === 0 && run.wish === 0) return;
    if (now < run.nextDue || now - run.lastSent < MIN_GAP) return;
    const late = now - run.nextDue;
    if (late > LATE) {
      run.nextDue = now + PERIOD;
      this.set({ notice: say('run-stalled', { ms: late }) });
      this.layCushion(now);
      return;
    }
    const before = run.rate;
    const step = run.slope * PERIOD;
    run.rate = run.wish > before ? Math.min(run.wish, before + step) : Math.max(run.wish, before - step);
    run.time = Math.min(run.plan.durationS, run.time + ((before + run.rate) / 2) * (PERIOD / 1000));
    this.sendPoint(run, PERIOD, now);
    run.nextDue += PERIOD;
    if (run.time >= run.plan.durationS) {
      run.ends ??= 'finished';
      run.quietAt = now + CUSHION + PERIOD + SETTLE;
    } else if (run.rate === 0) {
      if (run.ends) run.quietAt = now + CUSHION + PERIOD;
      else this.set({ run: 'paused' });
    }
  }

  /** Fills the board's queue up to the cushion with standing still where the run is now. */
  private layCushion(now: number): void {
    const missing = Math.round(CUSHION - Math.max(0, this.queuedUntil - now));
    if (this.run && missing >= 1) this.sendPoint(this.run, missing, now);
  }

  /** Sends where the run is now, to be reached in `ms`; what is past a limit never leaves here. */
  private sendPoint(run: Going, ms: number, now: number): void {
    const { mechanism, maps } = this.board!;
    this.commanded = positionAt(mechanism, run.plan, run.time);
    if (limitExcess(mechanism, this.commanded).by > PAST || rulesExcess(mechanism, this.commanded) > PAST) {
      this.send({ word: 'halt' });
      this.set({ notice: 'A set point past a limit was held back; the run has ended.' });
      return this.finish('failed');
    }
    const values = this.wired().map(({ map }): [number, number] => [
      map.channel!,
      toWire(map, this.commanded[map.slot]),
    ]);
    for (const map of maps) this.wire[map.driveId] = toWire(map, this.commanded[map.slot]);
    this.send({ word: 'point', seq: this.seq++, ms, values });
    run.lastSent = now;
    this.queuedUntil = Math.max(now, this.queuedUntil) + ms;
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
      case 'refused':
        this.set({ notice: say('board-refused', { reason: `${message.what}: ${message.why}` }) });
        if (message.what === 'point' || message.what === 'wake') this.finish('failed');
        break;
      case 'here': {
        const measured = new Map(message.measured);
        const commanded = new Map(message.commanded);
        board.maps.forEach((map, i) => {
          const us = map.channel === null ? undefined : measured.get(map.channel);
          if (us === undefined) return;
          this.measured[i] = us;
          if (!this.run) return;
          const error =
            Math.abs(fromUs(map, us) - fromUs(map, commanded.get(map.channel!)!)) /
            board.mechanism.siPerUnit[map.slot];
          this.run.worst[map.jointId] = Math.max(this.run.worst[map.jointId] ?? 0, error);
        });
        if (message.state === 'halted' && this.status.armed) {
          this.finish('stopped');
          this.set({ armed: false });
        }
      }
    }
  }

  private lose(now: number): void {
    this.finish('failed');
    this.set({ link: 'lost', armed: false, notice: say('board-lost', { ms: now - this.board!.heardAt }) });
  }

  private finish(outcome: 'finished' | 'stopped' | 'failed'): void {
    const { run } = this;
    if (!run) return;
    this.run = null;
    const worst = Object.fromEntries(Object.entries(run.worst).map(([id, v]) => [id, Math.round(v * 100) / 100]));
    this.set({ run: outcome, runS: Math.max(0, Math.min(run.time, run.plan.durationS) - run.lead), stepId: null });
    this.emit({ type: 'ended', runId: run.id, outcome, ranMs: Math.max(0, run.time - run.lead) * 1000, worst });
  }

  // ── Out ─────────────────────────────────────────────────────────────────────────────────────────────────────────

  private tell(now: number): void {
    this.toldAt = now;
    const board = this.board!;
    const { run } = this;
    if (run) {
      const runS = Math.max(0, run.time - run.lead);
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
    const unit = (map: ServoMap): number => board.mechanism.siPerUnit[map.slot];
    this.emit({
      type: 'telemetry',
      telemetry: {
        runS: this.status.runS,
        commanded: Object.fromEntries(
          board.mechanism.slotIds.map((id, s) => [id, this.commanded[s] / board.mechanism.siPerUnit[s]]),
        ),
        measured: Object.fromEntries(
          board.maps.flatMap((map, i) =>
            this.measured[i] === null ? [] : [[map.jointId, fromUs(map, this.measured[i]!) / unit(map)]],
          ),
        ),
        wire: { ...this.wire },
        stepId: this.status.stepId,
      },
    });
  }

  private set(change: Partial<Status>): void {
    this.status = { ...this.status, ...change };
    this.emit({ type: 'status', status: this.status });
  }

  private refuse(code: string, message: string, findings: Finding[] = []): void {
    this.emit({ type: 'refused', code, message, findings });
  }

  private wired(): { map: ServoMap; index: number }[] {
    return this.board!.maps.map((map, index) => ({ map, index })).filter(({ map }) => map.channel !== null);
  }

  private sendBounds(): void {
    for (const { map } of this.wired())
      this.send({ word: 'bounds', channel: map.channel!, low: map.lowUs, high: map.highUs });
  }

  private send(message: HostMessage): void {
    this.board?.link.write(encodeHost(message));
  }
}

/** Seconds in which time may slow from full speed to a stand without any joint braking harder than it may. */
function slowest(mechanism: Mechanism): number {
  let seconds = 0.1;
  for (let s = 0; s < mechanism.m; s++) seconds = Math.max(seconds, mechanism.speed[s] / mechanism.accel[s]);
  return Math.min(2, seconds);
}
