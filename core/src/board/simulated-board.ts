/**
 * A board that is not there: takes the same bytes as a real one and answers with the same bytes. It knows time
 * only through `advance`, in whole microseconds; the same bytes at the same times give the same answers.
 */
import {
  encodeBoard,
  hereMessages,
  sensedMessages,
  levelMessages,
  hostReader,
  LEAST_BUFFER,
  LONGEST_SEEK,
  MAX_QUEUED_MS,
  passing,
  PROTOCOL_VERSION,
  type BoardMessage,
  type BoardState,
  type ChannelValues,
  type HostMessage,
  type MadeFor,
  type Order,
  type PointLine,
  type Pull,
  type Refusal,
  type Until,
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
  readonly restsAt: number;
  /** Whether it has been woken: until then the motor is limp. */
  isOn: boolean;
  low: number | null;
  high: number | null;
  /** By how much its value may change in a second. */
  perS: number;
  /** What stops a motor that is sent speeds; null for one that goes to places. */
  still: number | null;
  value: number;
  from: number;
  to: number;
  /** Where it is when all that is queued has been played. */
  last: number;
}

interface Segment {
  readonly seq: number;
  readonly ms: number;
  readonly values: ChannelValues;
}

/** A pin that switches something: its level, and the one that it has while the board is asleep. */
interface Relay {
  safe: number;
  level: number;
}
/** A pin that is read. `driven`: what holds it at a level; null: nothing does. */
interface Input {
  pull: Pull;
  /** By hand; that goes before what the world does. */
  driven: number | null;
  level: number;
}

/** What moves by itself, until an input is there or its time is up. */
interface Seek {
  readonly id: number;
  readonly until: Until | null;
  readonly speeds: ChannelValues;
  leftMs: number;
}

/** A point of which lines are still to come. */
interface Begun extends Segment {
  parts: number;
  values: (readonly [number, number])[];
}

export interface BoardTraits {
  /** By how many millionths its clock is fast; negative: slow. */
  readonly ppm?: number;
  /** Bytes that it takes in before it reads them; what comes beyond is lost. */
  readonly buffer?: number;
  /** How often (whole ms) it reads what has come in; 0: at once. */
  readonly loopMs?: number;
  /** The rig that it says it was made for; left out: any. */
  readonly made?: MadeFor;
  /** Pins that may be outputs or inputs. */
  readonly pins?: readonly number[];
  /** Its dice, from 0 to below 1: an input that nothing holds follows them; it stays as it is without. */
  readonly random?: () => number;
  /** What a sensor reads by now, raw and whole; null where nothing answers. */
  readonly sense?: (id: number) => number | null;
  /** What the world does to its inputs by where motors really stand, asked each ms: levels by channel. */
  readonly world?: (truly: (channel: number) => number | null) => ReadonlyMap<number, number>;
  /** What pulls on its motors by where they stand, asked every few ms: shares of their stall torque by channel (see {@link SimulatedMotor.pull}). */
  readonly pulls?: () => ReadonlyMap<number, number>;
}
/** So often (ms) what pulls is asked for. */
const PULLS_MS = 5;
/** Share of the milliseconds in which an input that nothing holds changes its level. */
const FLOATS = 0.01;

const NO_WATCH = { ms: 0, offMs: null };

const STEP_MICROS = 1000;

export class SimulatedBoard {
  private reader = hostReader();
  private readonly outputs = new Map<number, Output>();
  private readonly pins: ReadonlySet<number>;
  private readonly relays = new Map<number, Relay>();
  private readonly inputs = new Map<number, Input>();
  /** Sensors that it reads: the pin of each, by id. */
  private readonly sensors = new Map<number, number>();
  private readonly sense: NonNullable<BoardTraits['sense']>;
  private readonly random: () => number;
  private readonly world: NonNullable<BoardTraits['world']>;
  private readonly pulls: BoardTraits['pulls'];
  private readonly sent: Uint8Array[] = [];
  private readonly inbox: number[] = [];
  private readonly ppm: number;
  private readonly buffer: number;
  private readonly loopMs: number;
  private readonly made: MadeFor | null;
  private state: BoardState = 'asleep';
  private queue: Segment[] = [];
  private current: { segment: Segment; doneMs: number } | null = null;
  private begun: Begun | null = null;
  private seeks: Seek[] = [];
  private soughtId = 0;
  /** What was found, until a channel of it is told otherwise. */
  private finds: Extract<BoardMessage, { word: 'found' }>[] = [];
  /** Number of the point that is wanted, and of the last order. */
  private wanted = 0;
  private ordered = -1;
  /** After how long (ms) without a line it halts, and how much later its motors go off; and how long there was none. */
  private watch: { readonly ms: number; readonly offMs: number | null } = NO_WATCH;
  private silentMs = 0;
  private reportMs = 0;
  private sinceReport = 0;
  private micros = 0;
  private clockMs = 0;
  /** Bytes that came while its buffer was full. */
  overrun = 0;

  constructor(
    private readonly channels: number,
    wired: readonly SimulatedChannel[],
    {
      ppm = 0,
      buffer = 4 * LEAST_BUFFER,
      loopMs = 0,
      made,
      pins = [],
      random = () => 1,
      sense,
      world,
      pulls,
    }: BoardTraits = {},
  ) {
    this.pins = new Set(pins);
    this.random = random;
    this.sense = sense ?? (() => null);
    this.world = world ?? (() => new Map());
    this.pulls = pulls;
    this.ppm = ppm;
    this.buffer = buffer;
    this.loopMs = loopMs;
    this.made = made ?? null;
    for (const { channel, motor, restsAt } of wired)
      this.outputs.set(channel, {
        channel,
        motor: simulatedMotor(motor, restsAt),
        restsAt,
        isOn: false,
        low: null,
        high: null,
        perS: 0,
        still: null,
        value: restsAt,
        from: restsAt,
        to: restsAt,
        last: restsAt,
      });
  }

  /** Number of the last point that it has reached or is on its way to; −1: none since it was woken. */
  get playing(): number {
    return this.current?.segment.seq ?? (this.queue[0]?.seq ?? this.wanted) - 1;
  }

  /** Whether all it was to do is done, the point that it played last among it. */
  get isBetweenPoints(): boolean {
    return !this.current;
  }
  get isHalted(): boolean {
    return this.state === 'halted';
  }
  get isMoving(): boolean {
    return this.state === 'awake' && (this.current !== null || this.queue.length > 0 || this.seeks.length > 0);
  }
  /** What its channels are told at this moment, not rounded, in the order they were wired. */
  get commanded(): number[] {
    return [...this.outputs.values()].map(({ value }) => value);
  }

  /** By channel, of motors that are on: the share of their torque that they give. */
  get efforts(): ReadonlyMap<number, number> {
    return new Map(
      [...this.outputs].flatMap(([channel, { isOn, motor }]) => (isOn ? [[channel, motor.effort] as const] : [])),
    );
  }
  /** Whether the motor of a channel is switched on. */
  isOnAt(channel: number): boolean {
    return this.outputs.get(channel)?.isOn ?? false;
  }

  /** What the world does to a pin: holds it at a level, or lets go of it (null). */
  hold(channel: number, level: number | null): void {
    const input = this.inputs.get(channel);
    if (input) input.driven = level;
  }
  /** What goes wrong with the motor of a channel. */
  motorAt(channel: number): Pick<SimulatedMotor, 'jam' | 'slip'> | null {
    return this.outputs.get(channel)?.motor ?? null;
  }
  /**
   * Its supply has dipped, or somebody pressed its button: it begins anew, knows nothing of what it was told, its motors are limp, what
   * counted counts from where the arm rests, and it says who it is.
   */
  restart(): void {
    this.empty();
    this.state = 'asleep';
    this.inbox.length = 0;
    this.reader = hostReader();
    this.relays.clear();
    this.inputs.clear();
    this.sensors.clear();
    for (const output of this.outputs.values()) {
      const { motor, restsAt } = output;
      if (motor.counts) motor.zero(restsAt);
      Object.assign(output, { isOn: false, low: null, high: null, perS: 0, still: null });
      output.value = output.from = output.to = output.last = restsAt;
    }
    this.ordered = -1;
    this.watch = NO_WATCH;
    this.wanted = this.soughtId = this.reportMs = this.sinceReport = this.clockMs = 0;
    this.greet();
  }
  private greet(): void {
    const { channels, buffer, made } = this;
    this.send({ word: 'board', version: PROTOCOL_VERSION, kind: 'servo', channels, buffer, made });
  }
  /** Level of a pin that switches something; null where it is none. */
  levelAt(channel: number): number | null {
    return this.relays.get(channel)?.level ?? null;
  }

  /** Bytes from the computer. */
  write(bytes: Uint8Array): void {
    for (const byte of bytes)
      if (this.inbox.length < this.buffer) this.inbox.push(byte);
      else this.overrun++;
    if (!this.loopMs) this.readInbox();
  }
  private readInbox(): void {
    if (!this.inbox.length) return;
    for (const message of this.reader.push(Uint8Array.from(this.inbox.splice(0)))) {
      if (message) this.take(message);
      else this.refuse('line', this.wanted, 'garbled');
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
    if (this.loopMs && this.clockMs % this.loopMs === 0) this.readInbox();
    this.minds();
    this.followQueue();
    this.readInputs();
    this.followSeeks();
    if (this.pulls && this.clockMs % PULLS_MS === 0)
      for (const [channel, share] of this.pulls()) this.outputs.get(channel)?.motor.pull(share);
    for (const output of this.outputs.values()) {
      output.motor.command(output.isOn ? Math.round(output.value) : null);
      output.motor.advance(STEP_MICROS / 1e6);
    }
    if (this.reportMs && ++this.sinceReport >= this.reportMs) {
      this.sinceReport = 0;
      this.report();
    }
  }

  /** What it does by itself once nobody has said anything for long. */
  private minds(): void {
    const { ms, offMs } = this.watch;
    if (!ms || this.state === 'asleep') return;
    this.silentMs++;
    if (this.silentMs === ms) this.halt();
    if (offMs !== null && this.silentMs >= ms + offMs) this.sleep();
  }
  /** Freezes where it is. */
  private halt(): void {
    this.empty();
    if (this.state === 'awake') this.state = 'halted';
  }
  /** All its motors are off, and what switches is as it is on a board that is asleep. */
  private sleep(): void {
    this.empty();
    this.state = 'asleep';
    for (const output of this.outputs.values()) output.isOn = false;
    for (const relay of this.relays.values()) relay.level = relay.safe;
  }

  /** Moves every output along the straight line of the segment under way. */
  private followQueue(): void {
    if (this.state !== 'awake') return;
    if (!this.current) {
      const segment = this.queue.shift();
      if (!segment) return this.standStill();
      this.current = { segment, doneMs: 0 };
      for (const output of this.outputs.values()) output.from = output.to = output.value;
      for (const [channel, value] of segment.values) {
        const output = this.outputs.get(channel);
        if (output) output.to = value;
      }
    }
    const done = ++this.current.doneMs;
    const { ms } = this.current.segment;
    // Multiplied first: whole numbers that lie in the middle are rounded the same way by every board.
    for (const output of this.outputs.values()) output.value = output.from + ((output.to - output.from) * done) / ms;
    if (done < ms) return;
    // What switches does so as the point is reached.
    for (const [channel, value] of this.current.segment.values) {
      const relay = this.relays.get(channel);
      if (relay) relay.level = value;
    }
    this.current = null;
  }

  /** Levels at the inputs by now; what has changed is told at once. */
  private readInputs(): void {
    const done = this.world((channel) => this.outputs.get(channel)?.motor.truly ?? null);
    const changed: [number, number][] = [];
    for (const [channel, input] of this.inputs) {
      const rests = input.pull === 'up' ? 1 : 0;
      const floats = input.pull === 'none' && this.random() < FLOATS ? 1 - input.level : input.level;
      const level = input.driven ?? done.get(channel) ?? (input.pull === 'none' ? floats : rests);
      if (level !== input.level) changed.push([channel, (input.level = level)]);
    }
    if (this.reportMs && changed.length) this.tellLevels(changed);
  }
  /** Moves what seeks, each until its input is there or its time is up. */
  private followSeeks(): void {
    for (const seek of this.seeks) {
      const { until, speeds, id } = seek;
      const hit = until !== null && this.inputs.get(until.channel)?.level === until.level;
      if (!hit && seek.leftMs-- > 0) {
        for (const [channel, perS] of speeds) this.outputs.get(channel)!.value += perS / 1000;
        continue;
      }
      this.seeks = this.seeks.filter((other) => other !== seek);
      const values = speeds.map(([channel]) => [channel, this.stand(channel)] as const);
      const find = { word: 'found' as const, id, hit, values };
      this.finds.push(find);
      this.send(find);
    }
  }
  /** A channel stays where it is by now, at a whole value. */
  private stand(channel: number): number {
    const output = this.outputs.get(channel)!;
    output.value = output.from = output.to = output.last = Math.round(output.value);
    return output.value;
  }
  /** What was found of these channels is no longer where they are. */
  private forget(values: ChannelValues): void {
    if (!this.finds.length) return;
    const told = new Set(values.map(([channel]) => channel));
    this.finds = this.finds.filter((find) => !find.values.some(([channel]) => told.has(channel)));
  }
  private tellLevels(levels: ChannelValues): void {
    for (const message of levelMessages(this.clockMs, this.state, levels)) this.send(message);
  }

  private take(message: HostMessage): void {
    this.silentMs = 0;
    if (message.word === 'point' || message.word === 'more') return this.takePoint(message);
    const { word, number } = message;
    // A greeting begins anew, and a halt is done whenever it comes.
    if (word !== 'hello' && word !== 'halt' && number <= this.ordered) return this.refuse(word, number, 'stale');
    this.ordered = word === 'hello' ? number : Math.max(this.ordered, number);
    if (word === 'hello') {
      this.soughtId = 0;
      this.finds = [];
      return this.greet();
    }
    const why = this.follow(message);
    if (why) this.refuse(word, number, why);
    else this.send({ word: 'done', what: word, number });
  }

  /** Does as it is told, or says why not. */
  private follow(order: Order): Refusal | null {
    switch (order.word) {
      case 'bounds': {
        const { low, high, perS, still = null } = order;
        if (!(low <= high) || perS < 1 || (still !== null && (still < low || still > high))) return 'bounds';
        const output = this.outputs.get(order.channel);
        if (!output) return 'channel';
        Object.assign(output, { low, high, perS, still });
        return null;
      }
      case 'wake': {
        // What switches is not switched on by waking.
        const why = order.values.some(([channel]) => this.relays.has(channel)) ? 'channel' : this.check(order.values);
        if (!why) this.wake(order.values);
        return why;
      }
      case 'letgo':
        return this.letGo(order.channels);
      case 'sleep':
        this.sleep();
        return null;
      case 'halt':
        this.halt();
        return null;
      case 'watch':
        this.watch = order;
        return null;
      case 'output': {
        const { channel, safe } = order;
        if (!this.pins.has(channel) || this.inputs.has(channel) || this.isSensedAt(channel)) return 'channel';
        const before = this.relays.get(channel);
        this.relays.set(channel, { safe, level: before && this.state !== 'asleep' ? before.level : safe });
        return null;
      }
      case 'input': {
        const { channel, pull } = order;
        if (!this.pins.has(channel) || this.relays.has(channel) || this.isSensedAt(channel)) return 'channel';
        const { driven = null, level = pull === 'up' ? 1 : 0 } = this.inputs.get(channel) ?? {};
        this.inputs.set(channel, { pull, driven, level });
        return null;
      }
      case 'sensor': {
        const { channel } = order;
        if (!this.pins.has(channel) || this.relays.has(channel) || this.inputs.has(channel)) return 'channel';
        this.sensors.set(order.id, channel);
        return null;
      }
      case 'seek':
        return this.seek(order);
      case 'zero':
        return this.zero(order.values);
      case 'report':
        this.reportMs = order.everyMs;
        this.sinceReport = 0;
        return null;
      default:
        return null;
    }
  }

  private isSensedAt(channel: number): boolean {
    return [...this.sensors.values()].includes(channel);
  }

  /** Outputs on. On a board that is awake more channels join, and those that are on already go on as they were. */
  private wake(values: ChannelValues): void {
    const joins = this.state === 'awake';
    if (!joins) {
      this.empty();
      this.wanted = 0;
    }
    for (const [channel, value] of values) {
      const output = this.outputs.get(channel)!;
      if (!joins || !output.isOn) output.value = output.from = output.to = output.last = value;
      output.isOn = true;
    }
    this.state = 'awake';
  }

  /** Motors off, one by one: those that stand, and are not told to go anywhere. */
  private letGo(channels: readonly number[]): Refusal | null {
    if (this.state !== 'awake') return 'asleep';
    if (channels.some((channel) => !this.outputs.has(channel))) return 'channel';
    const led = [...this.queue, ...(this.current ? [this.current.segment] : [])].flatMap(({ values }) => values);
    const goes = new Set([
      ...led.flatMap(([channel, value]) => (this.outputs.get(channel)?.value === value ? [] : [channel])),
      ...this.seeks.flatMap(({ speeds }) => speeds.map(([channel]) => channel)),
    ]);
    if (channels.some((channel) => goes.has(channel))) return 'moving';
    for (const channel of channels) this.outputs.get(channel)!.isOn = false;
    return null;
  }

  private seek({ id, until, ms, speeds }: Extract<Order, { word: 'seek' }>): Refusal | null {
    // It was begun already.
    if (id <= this.soughtId) return null;
    if (ms < 1 || ms > LONGEST_SEEK || !speeds.length) return 'duration';
    if (until && !this.inputs.has(until.channel)) return 'channel';
    const ends = speeds.map(([channel, perS]) => [channel, this.outputs.get(channel), perS] as const);
    if (ends.some(([, output]) => !output || output.still !== null)) return 'channel';
    const why =
      this.mayMove(speeds) ??
      this.check(ends.map(([channel, output, perS]) => [channel, output!.value + (perS * ms) / 1000] as const));
    if (why) return why;
    if (ends.some(([, output, perS]) => Math.abs(perS) > output!.perS)) return 'speed';
    this.soughtId = id;
    this.forget(speeds);
    this.seeks.push({ id, until, speeds, leftMs: ms });
    return null;
  }

  private zero(values: ChannelValues): Refusal | null {
    if (values.some(([channel]) => !this.outputs.get(channel)?.motor.counts)) return 'channel';
    const why = this.mayMove(values) ?? this.check(values);
    if (why) return why;
    for (const [channel, value] of values) {
      const output = this.outputs.get(channel)!;
      output.motor.zero(value);
      output.value = value;
      this.stand(channel);
    }
    this.forget(values);
    return null;
  }
  /** Why channels are not free to be moved or counted anew: off, or something moves them. */
  private mayMove(values: ChannelValues): Refusal | null {
    if (this.state !== 'awake') return 'asleep';
    const sought = new Set(this.seeks.flatMap(({ speeds }) => speeds.map(([channel]) => channel)));
    if (this.current || this.queue.length || values.some(([channel]) => sought.has(channel))) return 'moving';
    return this.checkOn(values);
  }

  /** A line of a point: the wanted one, its next line; one that was taken already is answered and not done twice. */
  private takePoint(line: PointLine): void {
    const { seq, values, goesOn } = line;
    if (this.state !== 'awake') return this.refuse('point', seq, 'asleep');
    if (seq < this.wanted) return this.send({ word: 'took', seq, queuedMs: this.queuedMs() });
    const begun: Begun | null =
      line.word === 'point'
        ? { seq, ms: line.ms, parts: 0, values: [] }
        : this.begun?.parts === line.part
          ? this.begun
          : null;
    this.begun = null;
    if (seq !== this.wanted || !begun) return this.refuse('point', this.wanted, 'gap');
    begun.values.push(...values);
    begun.parts++;
    if (!goesOn) return this.takeWhole(begun);
    this.begun = begun;
    this.send({ word: 'more', seq });
  }

  private takeWhole({ seq, ms, values }: Begun): void {
    const why: Refusal | null =
      ms < 1 || ms > MAX_QUEUED_MS
        ? 'duration'
        : ((this.seeks.length ? 'moving' : this.check(values)) ??
          this.checkOn(values) ??
          this.checkSpeed(values, ms) ??
          (this.queuedMs() + ms > MAX_QUEUED_MS ? 'queue-full' : null));
    if (why) {
      // A set point that is wrong ends the motion: hold, and wait to be woken again.
      if (!passing.has(why)) {
        this.empty();
        this.state = 'halted';
      }
      return this.refuse('point', seq, why);
    }
    this.wanted++;
    this.forget(values);
    this.queue.push({ seq, ms, values });
    for (const [channel, value] of values) {
      const output = this.outputs.get(channel);
      if (output) output.last = value;
    }
    this.send({ word: 'took', seq, queuedMs: this.queuedMs() });
  }

  private check(values: ChannelValues): Refusal | null {
    if (new Set(values.map(([channel]) => channel)).size < values.length) return 'twice';
    for (const [channel, value] of values) {
      const output = this.outputs.get(channel);
      if (!output && this.relays.has(channel)) {
        if (value !== 0 && value !== 1) return 'bounds';
        continue;
      }
      if (!output) return 'channel';
      if (output.low === null || output.high === null) return 'no-bounds';
      if (value < output.low || value > output.high) return 'bounds';
    }
    return null;
  }

  private checkOn(values: ChannelValues): Refusal | null {
    return values.every(([channel]) => this.outputs.get(channel)?.isOn ?? true) ? null : 'asleep';
  }

  /** Both ends are whole numbers: one more than the speed comes to is rounding. */
  private checkSpeed(values: ChannelValues, ms: number): Refusal | null {
    return values.every(([channel, value]) => {
      const output = this.outputs.get(channel);
      return !output || Math.abs(value - output.last) <= (output.perS * ms) / 1000 + 1;
    })
      ? null
      : 'speed';
  }

  private queuedMs(): number {
    const waiting = this.queue.reduce((sum, segment) => sum + segment.ms, 0);
    return waiting + (this.current ? this.current.segment.ms - this.current.doneMs : 0);
  }

  /** Forgets what is queued: every output stays where it is by now. */
  private empty(): void {
    this.queue = [];
    this.current = null;
    this.begun = null;
    this.seeks = [];
    this.finds = [];
    for (const output of this.outputs.values()) output.last = output.value = Math.round(output.value);
    this.standStill();
  }

  /** Nothing is due: what goes to places holds the last value, what turns at speeds stops. */
  private standStill(): void {
    for (const output of this.outputs.values())
      if (output.still !== null) output.value = output.from = output.to = output.last = output.still;
  }

  private report(): void {
    const rows = [...this.outputs.values()].map(
      ({ channel, value, motor }) => [channel, Math.round(value), motor.measured] as const,
    );
    const switched = [...this.relays].map(([channel, { level }]) => [channel, level, null] as const);
    for (const message of hereMessages(this.clockMs, this.state, [...rows, ...switched])) this.send(message);
    this.tellLevels([...this.inputs].map(([channel, { level }]) => [channel, level]));
    const counts = [...this.sensors.keys()].flatMap((id): [number, number][] => {
      const count = this.sense(id);
      return count === null ? [] : [[id, count]];
    });
    for (const message of sensedMessages(this.clockMs, counts)) this.send(message);
    for (const find of this.finds) this.send(find);
  }

  private refuse(what: string, number: number, why: Refusal): void {
    this.send({ word: 'refused', what, number, why });
  }

  private send(message: BoardMessage): void {
    this.sent.push(encodeBoard(message));
  }
}
