/**
 * A board that is not there: takes the same bytes as a real one and answers with the same bytes. It knows time
 * only through `advance`, in whole microseconds; the same bytes at the same times give the same answers.
 */
import {
  encodeBoard,
  hostReader,
  MAX_QUEUED_MS,
  PROTOCOL_VERSION,
  type BoardMessage,
  type BoardState,
  type ChannelValues,
  type HostMessage,
  type Refusal,
} from './protocol';
import { simulatedMotor, type MotorModel, type SimulatedMotor } from './simulated-motors';

export interface SimulatedChannel {
  readonly channel: number;
  readonly motor: MotorModel;
  /** Where the motor stands when the board is switched on, in its channel's unit. */
  readonly restsAt: number;
}

interface Output {
  readonly channel: number;
  readonly motor: SimulatedMotor;
  /** Whether it has been woken: until then the motor is limp. */
  isOn: boolean;
  low: number | null;
  high: number | null;
  /** What stops a motor that is sent speeds; null for one that goes to places. */
  still: number | null;
  value: number;
  from: number;
  to: number;
}

interface Segment {
  readonly ms: number;
  readonly values: ChannelValues;
}

const STEP_MICROS = 1000;

export class SimulatedBoard {
  private readonly reader = hostReader();
  private readonly outputs = new Map<number, Output>();
  private readonly sent: Uint8Array[] = [];
  private state: BoardState = 'asleep';
  private queue: Segment[] = [];
  private current: { segment: Segment; doneMs: number } | null = null;
  private lastSeq = -1;
  private reportMs = 0;
  private sinceReport = 0;
  private micros = 0;
  private clockMs = 0;

  /** `ppm`: by how many millionths its clock is fast; negative: slow. */
  constructor(
    private readonly channels: number,
    wired: readonly SimulatedChannel[],
    private readonly ppm = 0,
  ) {
    for (const { channel, motor, restsAt } of wired)
      this.outputs.set(channel, {
        channel,
        motor: simulatedMotor(motor, restsAt),
        isOn: false,
        low: null,
        high: null,
        still: null,
        value: restsAt,
        from: restsAt,
        to: restsAt,
      });
  }

  /** Bytes from the computer. */
  write(bytes: Uint8Array): void {
    for (const message of this.reader.push(bytes)) {
      if (message) this.take(message);
      else this.refuse('line', 'garbled');
    }
  }

  /** Bytes for the computer since the last read. */
  read(): Uint8Array[] {
    return this.sent.splice(0);
  }

  /** Lets `dtMicros` (a whole number) pass; on the board's own clock it is more or less by its ppm. */
  advance(dtMicros: number): void {
    this.micros += dtMicros * (1 + this.ppm * 1e-6);
    while (this.micros >= STEP_MICROS) {
      this.micros -= STEP_MICROS;
      this.stepMs();
    }
  }

  private stepMs(): void {
    this.clockMs++;
    this.followQueue();
    for (const output of this.outputs.values()) {
      output.motor.command(output.isOn ? Math.round(output.value) : null);
      output.motor.advance(STEP_MICROS / 1e6);
    }
    if (this.reportMs && ++this.sinceReport >= this.reportMs) {
      this.sinceReport = 0;
      this.send(this.here());
    }
  }

  /** Moves every output along the straight line of the segment under way. */
  private followQueue(): void {
    if (this.state !== 'awake') return;
    if (!this.current) {
      const segment = this.queue.shift();
      if (!segment) return this.standStill();
      this.current = { segment, doneMs: 0 };
      for (const output of this.outputs.values()) output.from = output.to = output.value;
      for (const [channel, value] of segment.values) this.outputs.get(channel)!.to = value;
    }
    const share = ++this.current.doneMs / this.current.segment.ms;
    for (const output of this.outputs.values()) output.value = output.from + (output.to - output.from) * share;
    if (share >= 1) this.current = null;
  }

  private take(message: HostMessage): void {
    switch (message.word) {
      case 'hello':
        return this.send({ word: 'board', version: PROTOCOL_VERSION, kind: 'servo', channels: this.channels });
      case 'bounds': {
        const { low, high, still = null } = message;
        if (!(low <= high) || (still !== null && (still < low || still > high)))
          return this.refuse('bounds', 'bounds');
        const output = this.outputs.get(message.channel);
        if (!output) return this.refuse('bounds', 'channel');
        Object.assign(output, { low, high, still });
        return this.send({ word: 'done', what: 'bounds' });
      }
      case 'wake': {
        const why = this.check(message.values);
        if (why) return this.refuse('wake', why);
        this.wake(message.values);
        return this.send({ word: 'done', what: 'wake' });
      }
      case 'sleep':
        this.empty();
        this.state = 'asleep';
        for (const output of this.outputs.values()) output.isOn = false;
        return this.send({ word: 'done', what: 'sleep' });
      case 'halt':
        this.empty();
        if (this.state === 'awake') this.state = 'halted';
        return this.send({ word: 'done', what: 'halt' });
      case 'report':
        this.reportMs = message.everyMs;
        this.sinceReport = 0;
        return this.send({ word: 'done', what: 'report' });
      case 'point':
        return this.takePoint(message);
    }
  }

  /** Outputs on. On a board that is awake more channels join, and those that are on already go on as they were. */
  private wake(values: ChannelValues): void {
    const joins = this.state === 'awake';
    if (!joins) {
      this.empty();
      this.lastSeq = -1;
    }
    for (const [channel, value] of values) {
      const output = this.outputs.get(channel)!;
      if (!joins || !output.isOn) output.value = output.from = output.to = value;
      output.isOn = true;
    }
    this.state = 'awake';
  }

  private takePoint({ seq, ms, values }: Extract<HostMessage, { word: 'point' }>): void {
    if (this.state !== 'awake') return this.refuse('point', 'asleep');
    const why: Refusal | null =
      seq <= this.lastSeq
        ? 'order'
        : ms < 1 || ms > MAX_QUEUED_MS
          ? 'duration'
          : this.queuedMs() + ms > MAX_QUEUED_MS
            ? 'queue-full'
            : (this.check(values) ?? this.checkOn(values));
    if (why) {
      // A set point that cannot be taken ends the motion: hold, and wait to be woken again.
      this.empty();
      this.state = 'halted';
      return this.refuse('point', why);
    }
    this.lastSeq = seq;
    this.queue.push({ ms, values });
    this.send({ word: 'took', seq, queuedMs: this.queuedMs() });
  }

  private check(values: ChannelValues): Refusal | null {
    for (const [channel, value] of values) {
      const output = this.outputs.get(channel);
      if (!output) return 'channel';
      if (output.low === null || output.high === null) return 'no-bounds';
      if (value < output.low || value > output.high) return 'bounds';
    }
    return null;
  }

  private checkOn(values: ChannelValues): Refusal | null {
    return values.every(([channel]) => this.outputs.get(channel)!.isOn) ? null : 'asleep';
  }

  private queuedMs(): number {
    const waiting = this.queue.reduce((sum, segment) => sum + segment.ms, 0);
    return waiting + (this.current ? this.current.segment.ms - this.current.doneMs : 0);
  }

  private empty(): void {
    this.queue = [];
    this.current = null;
    this.standStill();
  }

  /** Nothing is due: what goes to places holds the last value, what turns at speeds stops. */
  private standStill(): void {
    for (const output of this.outputs.values())
      if (output.still !== null) output.value = output.from = output.to = output.still;
  }

  private here(): BoardMessage {
    const outputs = [...this.outputs.values()];
    return {
      word: 'here',
      ms: this.clockMs,
      state: this.state,
      commanded: outputs.map(({ channel, value }) => [channel, Math.round(value)]),
      measured: outputs.flatMap(({ channel, motor }): [number, number][] =>
        motor.measured === null ? [] : [[channel, motor.measured]],
      ),
    };
  }

  private refuse(what: string, why: Refusal): void {
    this.send({ word: 'refused', what, why });
  }

  private send(message: BoardMessage): void {
    this.sent.push(encodeBoard(message));
  }
}
