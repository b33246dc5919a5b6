/**
 * When the next point is due. A board plays what it was sent by its own clock, and cheap clocks are off by half a percent: so what
 * it answers about its queue moves the deadlines of this computer's clock, until as much is queued as should be.
 */

/** Length of a point (ms). */
export const PERIOD = 20;
/** Points are never closer together than this (ms), however late they are. */
const MIN_GAP = 5;
/** Share of the queue's error that one answer makes up, and the most (ms) that it moves a deadline: 5 % of the period. */
const GAIN = 0.05;
const MOST = 1;

export class Pacer {
  private lastSent = -Infinity;
  /** Points that the board has not answered yet. */
  private underway: { readonly seq: number; readonly ms: number }[] = [];

  /**
   * `cushion`: what is to be queued just after a point was taken (ms); `due`: when the first one is; `emptyAt`: when the board will
   * have done all it was sent before.
   */
  constructor(
    private readonly cushion: number,
    private due: number,
    private emptyAt = 0,
  ) {}

  /** When the board will have done all it was sent, by this computer's clock (ms). */
  get doneAt(): number {
    return this.emptyAt;
  }

  /** How late (ms) the next point is; negative: not due yet. */
  late(now: number): number {
    return now - this.due;
  }
  isDue(now: number): boolean {
    return now >= this.due && now - this.lastSent >= MIN_GAP;
  }
  /** After a point of so many ms: the next one as much later; what was late is made up. */
  beat(ms: number): void {
    this.due += ms;
  }
  /** A new beat from now on; lateness is given up. */
  restart(now: number): void {
    this.due = now + PERIOD;
  }
  /** What is missing (ms) to the cushion; at most 0 where none is. */
  missing(now: number): number {
    return this.cushion - Math.max(0, this.emptyAt - now);
  }

  sent(seq: number, ms: number, now: number): void {
    this.underway.push({ seq, ms });
    this.emptyAt = Math.max(now, this.emptyAt) + ms;
    this.lastSent = now;
  }
  /** The board took point `seq`, and `queuedMs` were queued then. Whether it had nothing left to do before a point of the beat. */
  took(seq: number, queuedMs: number, now: number): boolean {
    const own = this.underway.find((point) => point.seq === seq);
    this.underway = this.underway.filter((point) => point.seq > seq);
    if (!own) return false;
    this.emptyAt = now + queuedMs + this.underway.reduce((sum, { ms }) => sum + ms, 0);
    this.due += Math.max(-MOST, Math.min(MOST, GAIN * (queuedMs - this.cushion)));
    return own.ms === PERIOD && queuedMs <= PERIOD;
  }
}
