/**
 * Between the protocol and lines of a builder's own: takes what a board of the protocol takes, with its queue, bounds and refusals, and
 * says by lines where motors are to be by now. Nothing it is told is known to have arrived but by answers, where the template has one.
 */
import { SimulatedBoard } from '../board';
import { linesFor, motorTexts, namesAll, valuesLine } from './lines';
import type { LineMotor, MotorPlace } from './motors';
import { LINE_ENDS, type LineTemplate, type Parts } from './template';

/** An answer that takes longer (ms) does not come any more. */
const PATIENCE = 1000;
/** Time (ms) that goes by at once, in which nobody can have listened: that was no silence of the board. */
const DEAF = 100;
/** Letters of an answer that are looked at; a line without end is none. */
const LONGEST = 200;
const MICROS = 1000;

interface Told {
  readonly motor: LineMotor;
  readonly k: number;
  isOn: boolean;
  /** What was said of it last; null: it has to be said. */
  text: string | null;
}
export interface LineOutput {
  readonly channel: number;
  readonly id: string;
}

export class LinePlayer {
  /** Why it cannot go on, one sentence; null while it can. */
  failure: string | null = null;
  private readonly board: SimulatedBoard;
  private readonly motors: readonly Told[];
  private readonly levels = new Map<number, number>();
  private readonly said: string[] = [];
  /** Lines that wait for an answer to those before. */
  private readonly waiting: string[] = [];
  private askedAt: number | null = null;
  private asked = '';
  private answer = '';
  private clockMs = 0;
  private beganAt = 0;
  private dueAt = 0;
  private count = 0;
  private wasHalted = false;
  private micros = 0;

  /**
   * `pins`: all that the line reaches. `restAt`: values of the motors before they are told any. `placesOf`: where values of all motors
   * bring their joints.
   */
  constructor(
    private readonly template: LineTemplate,
    private readonly parts: Parts,
    pins: number,
    motors: readonly LineMotor[],
    restAt: readonly number[],
    private readonly outputs: readonly LineOutput[],
    private readonly placesOf: (natives: readonly number[]) => readonly MotorPlace[],
  ) {
    this.motors = motors.map((motor, k) => ({ motor, k, isOn: false, text: null }));
    this.board = new SimulatedBoard(
      pins,
      motors.map(({ channel }, k) => ({ channel, motor: { kind: 'told' }, restsAt: restAt[k] })),
      { pins: outputs.map(({ channel }) => channel) },
    );
  }

  /** Bytes of the protocol, from the computer and for it. */
  write(bytes: Uint8Array): void {
    this.board.write(bytes);
    this.follow();
  }
  read(): Uint8Array[] {
    return this.board.read();
  }
  /** Lines for the board since the last call, each with its end. */
  lines(): string[] {
    const end = LINE_ENDS[this.template.end];
    return this.said.splice(0).map((line) => line + end);
  }
  /** What the board says. */
  hear(bytes: Uint8Array): void {
    for (const byte of bytes) {
      const isEnd = byte === 10 || byte === 13;
      if (!isEnd && this.answer.length < LONGEST) this.answer += String.fromCharCode(byte);
      if (!isEnd) continue;
      if (this.template.reply && this.answer.startsWith(this.template.reply)) this.askedAt = null;
      this.answer = '';
    }
  }

  /** Lets `dtMicros` go by. However much that is, values are said once at most: the last ones. */
  advance(dtMicros: number): void {
    this.micros += dtMicros;
    if (this.askedAt !== null && dtMicros > DEAF * MICROS) this.askedAt += dtMicros / MICROS;
    let isDue = false;
    while (this.micros >= MICROS) {
      this.micros -= MICROS;
      this.board.advance(MICROS);
      this.clockMs++;
      this.follow();
      isDue ||= this.clockMs >= this.dueAt;
    }
    if (this.askedAt !== null && this.clockMs - this.askedAt > PATIENCE)
      this.failure ??= `nothing has answered “${this.asked}” within ${PATIENCE / 1000} s`;
    this.sendWaiting();
    if (isDue && this.isFree) this.beat();
  }
  private get isFree(): boolean {
    return this.askedAt === null;
  }

  /** What was switched, or stopped, by now. */
  private follow(): void {
    const on: Told[] = [];
    const off: Told[] = [];
    for (const told of this.motors) {
      const isOn = this.board.isOnAt(told.motor.channel);
      if (isOn === told.isOn) continue;
      told.isOn = isOn;
      told.text = null;
      (isOn ? on : off).push(told);
    }
    const { isHalted } = this.board;
    if (isHalted && !this.wasHalted) {
      // What is on its way is given up: where they stand by now is the last that they are told.
      this.waiting.length = 0;
      this.values(true);
      this.atOnce([this.template.halt && linesFor(this.parts.halt, [[noMotor, 0]])[0]]);
    }
    this.wasHalted = isHalted;
    if (off.length) this.atOnce(linesFor(this.parts.off, off.map(numbered)));
    if (on.length) this.switchOn(on);
    for (const [k, { channel, id }] of this.outputs.entries()) {
      const level = this.board.levelAt(channel);
      if (level === null || level === this.levels.get(channel)) continue;
      this.levels.set(channel, level);
      this.later(linesFor(this.parts.output, [[{ channel, id }, k]], { level }));
    }
  }
  /** Where they are to be is said before they come on and after it: some firmware takes it only then. */
  private switchOn(on: readonly Told[]): void {
    if (!this.motors.some((told) => told.isOn && !on.includes(told))) this.beganAt = this.clockMs;
    this.values(true);
    this.later(linesFor(this.parts.on, on.map(numbered)));
    for (const told of on) told.text = null;
    this.dueAt = this.clockMs;
  }

  private beat(): void {
    const period = 1000 / this.template.perS;
    this.dueAt = Math.max(this.dueAt + period, this.clockMs);
    if (this.motors.some(({ isOn }) => isOn) && !this.wasHalted) this.values(false);
  }
  /** Says where motors are to be now. */
  private values(isUrgent: boolean): void {
    const { board, parts, template, motors } = this;
    const texts = motorTexts(
      parts,
      motors.map(({ motor }) => motor),
      this.placesOf(board.commanded),
    );
    const all = namesAll(parts);
    const told = motors.filter((each, k) => all || (each.isOn && (!template.changedOnly || each.text !== texts[k])));
    if (!told.length) return;
    for (const each of told) each.text = texts[each.k];
    const line = valuesLine(
      template,
      parts,
      told.map(({ k }) => texts[k]),
      { ms: 1000 / template.perS, line: this.count++, time: this.clockMs - this.beganAt },
    );
    if (isUrgent) this.atOnce([line]);
    else this.ask(line);
  }

  private atOnce(lines: readonly string[]): void {
    this.said.push(...lines.filter(Boolean));
  }
  private later(lines: readonly string[]): void {
    this.waiting.push(...lines);
    this.sendWaiting();
  }
  private sendWaiting(): void {
    while (this.isFree && this.waiting.length) this.ask(this.waiting.shift()!);
  }
  private ask(line: string): void {
    this.said.push(line);
    if (!this.template.reply) return;
    this.askedAt = this.clockMs;
    this.asked = line;
  }
}
const numbered = ({ motor, k }: Told): readonly [LineMotor, number] => [motor, k];
const noMotor = { channel: 0, id: '' };
