/**
 * Points of one activity to the boards, as each is due for one. A cushion is laid in a board's queue first; then one point a period, when
 * that board's pacer says, which follows the board's clock. The first board with motors keeps time; what the others are sent is where the
 * activity is by then. Lateness inside the cushion is made up; beyond it the beat is shifted and nothing is sent twice.
 */
import type { Activity } from './activities/activity';
import type { Desk } from './desk';
import { PERIOD } from './pacer';
import type { BoardSession, Switches } from './session';
import { Lateness } from './telemetry';

/** A set point this far (rad or m) past a limit is held back: more than rounding can explain. */
const PAST = 1e-6;

export interface FeedEars {
  /** The computer was away for so long (ms) that the motion stood still for a moment. */
  stalled(ms: number): void;
  /** A set point may not leave, past a limit or faster than motors may go: boards are halted, and nothing more is sent. */
  heldBack(why: 'run-held-back' | 'run-too-fast'): void;
}

export class Feed {
  /** Of the board that keeps time, while something moves. */
  readonly lateness = new Lateness();
  /** Outputs that are still to ride on a point of their board. */
  private switches: Switches = [];
  /** Whether the computer was busy on purpose meanwhile: what is due by now is not late. */
  private isLate = false;
  private isOver = false;

  constructor(
    private readonly desk: Desk,
    private readonly activity: Activity,
    private readonly ears: FeedEars,
  ) {}

  private get moved(): readonly BoardSession[] {
    return this.desk.sessions.filter((session) => session.hasMotors);
  }

  /** From when on points are due. */
  pace(due: number): void {
    for (const session of this.desk.sessions) session.pace(this.activity.cushionMs, due);
  }
  /** What stood begins to move: queues of the boards that are on are filled again. */
  setOff(now: number): void {
    for (const session of this.desk.sessions) {
      session.pacer.restart(now);
      if (session.isAwake) this.layCushion(session, now);
    }
  }
  /** Queues are filled for the first time, for points that are due as was said. */
  begin(now: number): void {
    for (const session of this.desk.sessions) this.layCushion(session, now);
  }
  /** The computer has been busy with what takes its time: the beat begins anew. */
  excuse(): void {
    this.isLate = true;
  }

  /** What is due by now; none runs ahead of a board that does not take what it is sent. */
  go(now: number): void {
    if (this.isLate) {
      this.isLate = false;
      if (this.activity.isMoving) this.setOff(now);
      return;
    }
    const [first, ...others] = this.moved.filter((session) => session.isAwake);
    if (first) this.feed(first, now, true);
    for (const other of others) this.feed(other, now, false);
  }
  get isClogged(): boolean {
    return this.moved.some((session) => session.isClogged);
  }
  get isAwake(): boolean {
    return this.moved.every((session) => session.isAwake);
  }

  /** A point for a board that is due for one; the board that keeps time is sent none while nothing moves. */
  private feed(session: BoardSession, now: number, keepsTime: boolean): void {
    const { activity } = this;
    const { pacer } = session;
    if (this.isOver || !pacer.isDue(now) || (keepsTime && !activity.isMoving)) return;
    const late = pacer.late(now);
    if (keepsTime && activity.isMoving) this.lateness.add(late);
    if (late > activity.cushionMs - PERIOD) {
      pacer.restart(now);
      if (keepsTime) activity.stall(now);
      if (activity.isMoving) this.ears.stalled(late);
      return this.layCushion(session, now);
    }
    if (keepsTime) this.switches = [...this.switches, ...(activity.beat(now) ?? [])];
    const took = this.sendPoint(session, PERIOD, now);
    if (took !== null) pacer.beat(took);
  }

  /** Fills a board's queue up to the cushion with standing still where the activity is now. */
  private layCushion(session: BoardSession, now: number): void {
    const missing = Math.round(session.pacer.missing(now));
    if (missing < 1 || !session.hasMotors) return;
    this.sendPoint(session, missing, now);
  }

  /**
   * Sends a board its share of where the activity is now, to be reached in `ms`, or later where motors may not go as fast. What is past a
   * limit never leaves. The ms that it takes; null where nothing was sent.
   */
  private sendPoint(session: BoardSession, ms: number, now: number): number | null {
    const { desk, activity } = this;
    // Another board's share may just have ended it.
    const point = this.isOver ? null : activity.pointAt(now);
    if (!point) return null;
    if (point.pose) desk.commanded = point.pose;
    const isPast = point.pose && desk.excess(point.pose) > Math.max(PAST, activity.leeway ?? 0);
    const riding = this.ridingOn(session);
    const takes = isPast ? null : session.point(point.values, ms, now, riding);
    if (takes !== null) {
      this.switches = this.switches.filter((each) => !riding.includes(each));
      return takes;
    }
    this.isOver = true;
    for (const each of desk.sessions) each.halt(now);
    this.ears.heldBack(isPast ? 'run-held-back' : 'run-too-fast');
    return null;
  }
  /** What of a board's outputs goes with its next point: each once, what switches it again goes with a later one. */
  private ridingOn({ end }: BoardSession): Switches {
    const own = this.switches.filter(([{ line }]) => line === end.board);
    return own.filter(([pin], k) => own.findIndex(([other]) => other.channel === pin.channel) === k);
  }
}
