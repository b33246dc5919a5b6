/**
 * The computer's end of a line to a board: orders one after the other, each until it is answered; points in their numbers without a gap,
 * sent again from the one that is wanted (go back n); and never more bytes under way than the board has room for. It knows time only as
 * the numbers it is given (ms).
 */
import {
  boardReader,
  encodeHost,
  letGoWishes,
  LEAST_BUFFER,
  MAX_LINE,
  MAX_QUEUED_MS,
  passing,
  pointLines,
  sealed,
  wakeWishes,
  type BoardMessage,
  type ChannelValues,
  type Order,
  type Wish,
} from './protocol';

/** Without an answer an order, a halt, a point with all behind it go again after so long (ms), or after half as long again as answers take. */
const ORDER_AGAIN = 60;
const HALT_AGAIN = 20;
const POINT_AGAIN = 40;
/** A board that asks for a point is sent it once in so long (ms), or in as long as answers take. */
const SAME_AGAIN = 15;
/** Bytes without an answer count as under way for so long (ms), or as answers take: the board has read them by then. */
const UNDERWAY = 60;
/** Share of the difference that an answer quicker than those before it makes up. */
const EASE = 0.05;
/** Motion (ms) beyond a full queue and what is on its way, from which on a board is sent no more for now. */
const CLOGGED = 60;
/** So long (ms) after a greeting by hand what a board says of itself answers that. */
const GREETED = 1000;
/** Share of the time after which a board takes this end to be gone, in which it hears something in any case. */
const SAID_AGAIN = 0.2;
/** Kept free in the board's buffer for a halt: `halt 999999999*ffff` and its end. */
const FOR_HALT = 20;

/** Orders that a halt makes forgotten. */
const MOVES: ReadonlySet<Wish['word']> = new Set(['wake', 'letgo', 'seek', 'zero']);
/** Words that nobody sends by hand. */
const RELIED_ON: ReadonlySet<string> = new Set([
  ...['wake', 'letgo', 'point', 'more', 'seek', 'zero'],
  ...['bounds', 'report', 'output', 'input', 'watch', 'sensor'],
]);

/** A point that the board has not taken yet. */
interface Kept {
  readonly seq: number;
  readonly ms: number;
  readonly values: ChannelValues;
  /** Its lines, made when the first of them is sent; how many are sent; and when the last was. */
  lines: readonly Uint8Array[];
  sent: number;
  at: number;
  isAgain: boolean;
}

interface Sendings {
  readonly sent: Map<number, number>;
  at: number;
}
const unsent = (): Sendings => ({ sent: new Map(), at: -Infinity });

export class HostLine {
  private readonly reader = boardReader();
  private readonly wishes: Wish[] = [];
  /** The order that is to be answered, and a halt: when each went by which number, and when last. */
  private order: (Sendings & { readonly wish: Wish }) | null = null;
  private halting: Sendings | null = null;
  /** How long (ms) answers take, rather too long than too short. */
  private answerMs = 0;
  private number = 0;
  private seq = 0;
  private points: Kept[] = [];
  private backAt = -Infinity;
  private backTo = -1;
  private readonly underway: { readonly bytes: number; readonly at: number }[] = [];
  private buffer = LEAST_BUFFER;
  /** When all points were last taken, or one of them was. */
  private tookAt = -Infinity;
  /** When somebody greeted the board by a line of their own. */
  private greetedAt = -Infinity;
  /** What the board is to do once this end is silent, and when it was last sent anything. */
  private watch: Extract<Wish, { word: 'watch' }> | null = null;
  private saidAt = -Infinity;
  /** How often points were sent again. */
  again = 0;
  /** When the board last said something that makes sense, and bytes that have come since. */
  heardAt: number;
  noise = 0;

  constructor(
    private readonly write: (bytes: Uint8Array) => void,
    now: number,
  ) {
    this.heardAt = now;
  }

  /** To be done once, after all that was asked for before. */
  ask(wish: Wish): void {
    if (wish.word === 'wake') this.wishes.push(...wakeWishes(wish.values, this.room));
    else if (wish.word === 'letgo') this.wishes.push(...letGoWishes(wish.channels, this.room));
    else this.wishes.push(wish);
    if (wish.word === 'watch') this.watch = wish.ms ? wish : null;
  }

  /** Before motors are switched on: points are counted anew. */
  begin(): void {
    this.seq = 0;
    this.points = [];
  }

  /** A point behind those before it; its number. `values`: what is to change. */
  point(ms: number, values: ChannelValues): number {
    this.points.push({ seq: this.seq, ms, values, lines: [], sent: 0, at: -Infinity, isAgain: false });
    return this.seq++;
  }

  /** At once, before everything else, until the board says so; points, wakes and seeks that are not taken yet are forgotten. */
  halt(now: number): void {
    this.forgetMoves();
    this.halting = unsent();
    this.pump(now);
  }
  private forgetMoves(): void {
    this.points = [];
    const kept = this.wishes.filter(({ word }) => !MOVES.has(word));
    this.wishes.splice(0, Infinity, ...kept);
    if (this.order && MOVES.has(this.order.wish.word)) this.order = null;
  }

  /**
   * A line of somebody's own, sealed where it is not; a word that is `#` stands for the next number. Null, or its first word where that
   * one switches on, moves or sets what this end relies on: nothing is sent.
   */
  own(text: string, now: number): string | null {
    const words = text.split(' ').map((word) => (word === '#' ? `${this.number++}` : word));
    const [word] = words;
    if (RELIED_ON.has(word)) return word;
    if (word === 'hello') this.greetedAt = now;
    this.put(sealed(words.join(' ')), now);
    return null;
  }

  /** For the last time: halt, and motors off. No answer is waited for. */
  leave(now: number): void {
    this.points = [];
    this.wishes.length = 0;
    this.order = this.halting = null;
    this.send({ word: 'halt' }, now);
    this.send({ word: 'sleep' }, now);
  }

  /** For so long (ms) nobody has listened here: that was no silence of the board. */
  excuse(ms: number): void {
    this.heardAt += ms;
    this.tookAt += ms;
  }

  /** Whether all that was asked for has been answered. */
  get isSettled(): boolean {
    return !this.order && !this.halting && !this.wishes.length;
  }
  /** Whether it has not taken what it was sent, and is to be sent no more for now. */
  get isClogged(): boolean {
    return this.points.reduce((sum, { ms }) => sum + ms, 0) > MAX_QUEUED_MS + CLOGGED + this.answerMs;
  }
  /** For how long (ms) the board has taken none of the points that wait. */
  stuckMs(now: number): number {
    return this.points.length ? now - this.tookAt : 0;
  }
  private get room(): number {
    return Math.min(MAX_LINE, this.buffer - FOR_HALT);
  }

  /** What the board has said; what is of no concern to anybody else is left out. */
  hear(bytes: Uint8Array, now: number): BoardMessage[] {
    this.noise += bytes.length;
    return this.reader.push(bytes).flatMap((message) => {
      if (!message) return [];
      this.heardAt = now;
      this.noise = 0;
      return this.take(message, now) ? [message] : [];
    });
  }

  /** Sends what may go by now. */
  pump(now: number): void {
    const read = Math.max(UNDERWAY, this.answerMs);
    while (this.underway.length && now - this.underway[0].at >= read) this.underway.shift();
    if (!this.points.length) this.tookAt = now;
    const { halting } = this;
    if (halting && now - halting.at >= this.patience(HALT_AGAIN)) this.sendAs(halting, { word: 'halt' }, now);
    // So that it hears something while there is nothing to say.
    if (this.watch && this.isSettled && now - this.saidAt > this.watch.ms * SAID_AGAIN) this.wishes.push(this.watch);
    if (!this.order && this.wishes.length) this.order = { wish: this.wishes.shift()!, ...unsent() };
    const { order } = this;
    if (order) {
      if (now - order.at >= this.patience(ORDER_AGAIN) && this.fits(order.wish)) this.sendAs(order, order.wish, now);
    } else if (!halting) this.pumpPoints(now);
  }
  private patience(least: number): number {
    return Math.max(least, 1.5 * this.answerMs);
  }
  private sendAs(sendings: Sendings, wish: Wish, now: number): void {
    sendings.at = now;
    sendings.sent.set(this.send(wish, now), now);
  }

  private pumpPoints(now: number): void {
    const [oldest] = this.points;
    const isSent = oldest && oldest.sent > 0;
    if (isSent && now - Math.max(oldest.at, this.backAt) >= this.patience(POINT_AGAIN)) this.goBack(oldest.seq, now);
    for (const point of this.points) {
      if (!point.lines.length)
        point.lines = pointLines(point.seq, point.ms, point.values, this.room).map((line) => encodeHost(line));
      while (point.sent < point.lines.length) {
        const line = point.lines[point.sent];
        if (!this.hasRoom(line.length)) return;
        point.sent++;
        point.at = now;
        this.put(line, now);
      }
    }
  }

  private take(message: BoardMessage, now: number): boolean {
    switch (message.word) {
      case 'here':
      case 'sensed':
      case 'found':
        return true;
      case 'board':
        this.underway.shift();
        this.buffer = Math.max(LEAST_BUFFER, message.buffer);
        if (this.order?.wish.word === 'hello') this.order = null;
        // Somebody has greeted it by a line of their own.
        else if (now - this.greetedAt < GREETED) return false;
        // It has begun anew, and knows nothing of what was on its way.
        else this.forgetMoves();
        return true;
      case 'done':
        this.underway.shift();
        return this.answered(message.what, message.number, now);
      case 'more':
        this.underway.shift();
        return false;
      case 'took':
        this.underway.shift();
        for (const { seq, at, isAgain } of this.points) if (seq === message.seq && !isAgain) this.took(now - at);
        this.points = this.points.filter(({ seq }) => seq > message.seq);
        this.tookAt = now;
        return true;
      case 'refused':
        this.underway.shift();
        return this.refused(message, now);
    }
  }

  /** Whether it is what is waited for; a board may answer twice what was sent twice. */
  private answered(what: Order['word'], number: number, now: number): boolean {
    const isHalt = what === 'halt';
    const waiting = isHalt ? this.halting : this.order?.wish.word === what ? this.order : null;
    const sentAt = waiting?.sent.get(number);
    if (sentAt === undefined) return false;
    this.took(now - sentAt);
    if (isHalt) this.halting = null;
    else this.order = null;
    return true;
  }
  /** An answer took so long (ms). */
  private took(ms: number): void {
    this.answerMs = Math.max(ms, this.answerMs + EASE * (ms - this.answerMs));
  }

  private refused({ what, number, why }: Extract<BoardMessage, { word: 'refused' }>, now: number): boolean {
    if (what === 'line' || what === 'point') {
      // Of what was given up meanwhile nobody wants to hear.
      const isOurs = this.points.some(({ seq }) => seq === number);
      if (!passing.has(why)) {
        // The board stands, and takes none of those that wait.
        if (isOurs) this.points = [];
        return isOurs;
      }
      if (why === 'queue-full') {
        // Room for it comes as the board plays; what stands behind it is asked for again as well.
        const full = this.points.find(({ seq }) => seq === number);
        if (full) full.at = now;
      } else if (isOurs) this.goBack(number, now);
      if (why === 'garbled') this.hurry();
      return false;
    }
    if (why === 'stale') return false;
    return what !== 'halt' && this.answered(what as Order['word'], number, now);
  }

  /** The board could not read a line: it may have been any that has no answer. */
  private hurry(): void {
    if (this.order) this.order.at = -Infinity;
    if (this.halting) this.halting.at = -Infinity;
  }

  /** Sends again from a point on, unless that has just been done. */
  private goBack(seq: number, now: number): void {
    if (seq === this.backTo && now - this.backAt < Math.max(SAME_AGAIN, 1.2 * this.answerMs)) return;
    this.backTo = seq;
    this.backAt = now;
    this.again++;
    for (const point of this.points)
      if (point.seq >= seq && point.sent > 0) Object.assign(point, { sent: 0, isAgain: true });
  }

  private hasRoom(bytes: number): boolean {
    const used = this.underway.reduce((sum, line) => sum + line.bytes, 0);
    return used === 0 || used + bytes <= this.buffer - FOR_HALT;
  }
  private fits(wish: Wish): boolean {
    return this.hasRoom(encodeHost({ ...wish, number: this.number }).length);
  }

  private send(wish: Wish, now: number): number {
    const number = this.number++;
    this.put(encodeHost({ ...wish, number }), now);
    return number;
  }
  private put(bytes: Uint8Array, now: number): void {
    this.saidAt = now;
    this.underway.push({ bytes: bytes.length, at: now });
    this.write(bytes);
  }
}
