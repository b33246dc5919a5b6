/**
 * One board at the end of one link: what it was told of itself, what it says, how much it has queued, and its silence. Numbers of
 * channels stay in here; outside motors go by the ids of their drives.
 */
import {
  HostLine,
  MAX_QUEUED_MS,
  PROTOCOL_VERSION,
  type MadeFor,
  type BoardMessage,
  type ChannelValues,
  type Until,
  reportEveryMs,
} from '@cork-elbow/core/board';
import { isSpin, type CommandMap } from '@cork-elbow/core/actuators';
import { SILENT_S, type Trouble } from '@cork-elbow/core/contract';
import {
  isOnAt,
  levelOf,
  type ChannelBounds,
  type Channels,
  type SensorPin,
  type SignalPin,
  type Values,
} from '@cork-elbow/core/commands';
import type { OwnLines } from '@cork-elbow/core/own-lines';
import type { LineEnd, Link } from '../links/link';
import { Pacer } from './pacer';

/** A board silent for longer than this (ms) is lost. */
const SILENCE = 1000;
/** Nobody listened for what is longer than this (ms) between two looks: planning, or a computer that was busy or asleep. */
const DEAF = 100;
/** … and for so long (ms) that boards may have taken the computer to be gone. */
const SILENT_MS = SILENT_S * 900;
/** So many of a sensor's counts are kept, to tell where it is at rest and how much it scatters. */
const SENSED = 10;
/** … and those of one that is not heard for so long (ms) are none any more. */
const STALE = 500;
/** A run in which lines were sent again so often has a line that is worth a look. */
const NOISY = 5;

/** What a board has said, as far as anybody outside is concerned. */
export type Heard =
  | { readonly what: 'connected' | 'awake' | 'asleep' }
  /** It holds and takes nothing: as it was told, since it had heard nothing for long, or for what nobody here knows. */
  | { readonly what: 'halted'; readonly why: 'told' | 'silence' | 'unknown' }
  /** It has begun anew in the middle of things. */
  | { readonly what: 'anew' }
  /** It has played all it had: what moved stood still for a moment. */
  | { readonly what: 'dry' }
  /** Lines did not arrive, again and again. */
  | { readonly what: 'noisy' }
  /** A seek has ended, `hit`: as its input got there; where its motors are is known by now. */
  | { readonly what: 'found'; readonly id: number; readonly hit: boolean }
  | { readonly what: 'refused'; readonly word: string; readonly why: string }
  | { readonly what: 'lost'; readonly reason: string | null; readonly silentMs: number };

/** Values of all boards by drive: where each is by what its board was told, read back, and sent last. */
export interface Told {
  readonly at: Map<string, number>;
  readonly measured: Map<string, number>;
  readonly sent: Map<string, number>;
  /** Inputs and outputs by id: whether each is on, as its board says. */
  readonly signals: Map<string, boolean>;
  /** Raw counts of sensors by id, the last few of each, oldest first. */
  readonly sensed: Map<string, number[]>;
  /** Motors that were let go while others hold. */
  readonly limp: Set<string>;
}
/** Outputs that are to be switched. */
export type Switches = readonly (readonly [pin: SignalPin, on: boolean])[];

export class BoardSession {
  isConnected = false;
  /** Of the protocol, as its board says. */
  version = PROTOCOL_VERSION;
  isAwake = false;
  /** The rig that its firmware was made for; null: any. */
  made: MadeFor | null = null;
  pacer = new Pacer(0, 0);
  private isLost = false;
  private hasGreeted = false;
  private maps: readonly CommandMap[] = [];
  /** Ids of drives by channel. */
  private drives: ReadonlyMap<number, string> = new Map();
  /** What the board was told of each channel, and the value it was sent last there. */
  private readonly bound = new Map<number, ChannelBounds>();
  private readonly last = new Map<number, number>();
  private signals: readonly SignalPin[] = [];
  private pins: ReadonlyMap<number, SignalPin> = new Map();
  private sensors: readonly SensorPin[] = [];
  /** When each sensor (id) was last heard. */
  private readonly sensedAt = new Map<string, number>();
  private readonly line: HostLine;
  private toldNoisy = false;
  /** Whether it was told to halt, or has refused what it was sent, since it was switched on. */
  private isHalted = false;
  /** Whether nothing was sent for about as long as a board waits. */
  private wasSilent = false;
  /** Its motors go off so long (s) after it has halted by itself, since it heard nothing any more; null: they hold. */
  private silentOffS: number | null = null;
  /** Seeks so far, and those of which the end is not known yet. */
  private sought = 0;
  private readonly seeking = new Set<number>();
  private tickedAt: number;
  /** Motors (drive ids) of the last order to let go. */
  private goingLimp: readonly string[] = [];

  constructor(
    readonly end: LineEnd,
    private readonly link: Link,
    private readonly told: Told,
    private limits: (map: CommandMap) => ChannelBounds,
    now: number,
  ) {
    this.line = new HostLine((bytes) => link.write(bytes), now);
    this.tickedAt = now;
    this.maps = end.maps;
    this.signals = end.signals;
    this.sensors = end.sensors;
    this.line.ask({ word: 'hello' });
    this.setUp(limits);
    this.line.pump(now);
  }

  /** Tells a board that knows nothing all that it has to know. */
  private setUp(limits: (map: CommandMap) => ChannelBounds): void {
    this.bound.clear();
    this.setMaps(this.maps, limits);
    this.tellSignals();
    this.tellSensors();
    this.tellWatch();
    const reported = this.maps.length + this.sensors.length;
    this.line.ask({ word: 'report', everyMs: reportEveryMs(reported) });
  }

  /** What it does once nobody speaks to it any more. */
  setSilence(offS: number | null): void {
    if (offS === this.silentOffS) return;
    this.silentOffS = offS;
    this.tellWatch();
  }
  private tellWatch(): void {
    const { silentOffS } = this;
    this.line.ask({ word: 'watch', ms: SILENT_S * 1000, offMs: silentOffS === null ? null : silentOffS * 1000 });
  }

  get name(): string {
    return this.link.name;
  }
  /** What lines of a builder's own can do; undefined where the board speaks the protocol. */
  get ownLines(): OwnLines | undefined {
    return this.link.ownLines;
  }
  /** Whether any motor hangs on it. */
  get hasMotors(): boolean {
    return this.maps.length > 0;
  }
  /** Whether it has not taken what it was sent, and is sent no more for now. */
  get isClogged(): boolean {
    return this.line.isClogged;
  }

  /** Motors as a changed document has them; what holds them goes to the board. */
  setMaps(maps: readonly CommandMap[], limits: (map: CommandMap) => ChannelBounds): void {
    this.maps = maps;
    this.drives = new Map(maps.map((map) => [map.channel!, map.drive.id]));
    this.setBounds(limits);
  }

  /** All motors of the rig as a changed document has them. */
  setChannels(channels: Channels): void {
    this.link.setChannels?.(channels);
  }

  /** Inputs and outputs as a changed document has them: which pins are read and which switch, and off while the board is asleep. */
  setSignals(signals: readonly SignalPin[]): void {
    const same = JSON.stringify(signals) === JSON.stringify(this.signals);
    this.signals = signals;
    if (!same) this.tellSignals();
  }
  private tellSignals(): void {
    this.pins = new Map(this.signals.map((pin) => [pin.channel, pin]));
    const { ownLines } = this;
    for (const { signal, channel } of this.signals)
      if (ownLines && (signal.way === 'in' || !ownLines.switches)) continue;
      else if (signal.way === 'out') this.line.ask({ word: 'output', channel, safe: levelOf(signal, false) });
      else this.line.ask({ word: 'input', channel, pull: signal.pull });
  }

  /** Sensors as a changed document has them. */
  setSensors(sensors: readonly SensorPin[]): void {
    const same = JSON.stringify(sensors) === JSON.stringify(this.sensors);
    this.sensors = sensors;
    if (!same) this.tellSensors();
  }
  private tellSensors(): void {
    if (this.ownLines) return;
    for (const { id, channel, sensor } of this.sensors)
      this.line.ask({ word: 'sensor', id, channel, address: sensor.address, port: sensor.port });
  }

  /** Tells the board what each channel is held to, where that has changed. */
  setBounds(limits: (map: CommandMap) => ChannelBounds): void {
    this.limits = limits;
    for (const map of this.maps) {
      const channel = map.channel!;
      const bounds = limits(map);
      const before = this.bound.get(channel);
      if (before && same(before, bounds)) continue;
      this.bound.set(channel, bounds);
      this.line.ask({ word: 'bounds', channel, ...bounds });
    }
  }

  /** Of values for all motors those of this board. */
  private own(values: Values): Values {
    return values.filter(([map]) => map.line === this.end.board);
  }
  /** … that are on. */
  private held(values: Values): Values {
    return this.own(values).filter(([{ drive }]) => !this.told.limp.has(drive.id));
  }

  /** Switches on those of the drives that are its own. */
  wake(values: Values, now: number): void {
    this.place('wake', values, now);
  }

  /**
   * Sends its own of the values, to be reached in `ms` after what it has queued, or later where that were faster than any of its channels
   * may change. The ms that it takes; null where it were too long for one point: nothing is sent. `switches`: done as it is reached.
   */
  point(values: Values, ms: number, now: number, switches: Switches = []): number | null {
    const own = this.held(values);
    const takes = Math.max(ms, ...own.map(([map, value]) => this.leastMs(map.channel!, value)));
    if (takes > MAX_QUEUED_MS) return null;
    this.keep(own);
    const changed: [number, number][] = [];
    for (const [map, value] of own) {
      const channel = map.channel!;
      // The board stops by itself what is sent speeds: it has to hear of those each time.
      const isStill = !isSpin(map) || value === map.stopUs;
      if (!isStill || this.last.get(channel) !== value) changed.push([channel, value]);
      this.last.set(channel, value);
    }
    for (const [pin, on] of switches)
      if (pin.line === this.end.board) changed.push([pin.channel, levelOf(pin.signal, on)]);
    this.pacer.sent(this.line.point(takes, changed), takes, now);
    this.line.pump(now);
    return takes;
  }
  /** In how many ms a channel may be at a value. */
  private leastMs(channel: number, value: number): number {
    const way = Math.abs(value - (this.last.get(channel) ?? value)) - 1;
    return Math.ceil((1000 * way) / (this.bound.get(channel)?.perS ?? Infinity) - 1e-9);
  }

  /**
   * Its motors move by themselves, each by so much a second, until an input is at a level or so many ms have gone by: the number by which
   * its end is told. They have to stand.
   */
  seek(speeds: Values, until: Until | null, ms: number, now: number): number {
    const id = ++this.sought;
    this.seeking.add(id);
    this.line.ask({ word: 'seek', id, until, ms, speeds: speeds.map(([map, perS]) => [map.channel!, perS]) });
    this.line.pump(now);
    return id;
  }
  /** Those of the motors that are its own go off; the others hold. */
  letGo(maps: readonly CommandMap[], now: number): void {
    const own = maps.filter((map) => map.line === this.end.board);
    if (!own.length) return;
    this.goingLimp = own.map(({ drive }) => drive.id);
    for (const id of this.goingLimp) this.told.limp.add(id);
    this.line.ask({ word: 'letgo', channels: own.map(({ channel }) => channel!) });
    this.line.pump(now);
  }
  /** Its motors, which count, are at these values from now on. */
  zero(values: Values, now: number): void {
    this.place('zero', values, now);
  }
  /** From an order on its own motors are at these values. */
  private place(word: 'wake' | 'zero', values: Values, now: number): void {
    const own = this.own(values);
    if (!own.length) return;
    this.keep(own);
    for (const [{ drive }] of own) this.told.limp.delete(drive.id);
    for (const [{ channel }, value] of own) this.last.set(channel!, value);
    this.line.ask({ word, values: own.map(([map, value]) => [map.channel!, value]) });
    this.line.pump(now);
  }

  /** What is sent from `due` on keeps so much queued (ms); what is queued now counts. */
  pace(cushionMs: number, due: number): void {
    this.pacer = new Pacer(cushionMs, due, this.pacer.doneAt);
  }
  /** Before motors are switched on: points are counted anew, and nothing is queued. */
  begin(cushionMs: number, now: number): void {
    this.line.begin();
    this.last.clear();
    this.pacer = new Pacer(cushionMs, now);
  }
  /** Before a run: what was noisy until then is none of it. */
  listen(): void {
    this.line.again = 0;
    this.toldNoisy = false;
  }

  /** Simulated boards only: the world holds an input on or off, or lets go of it (null). Whether there is such an input here. */
  hold(signal: string, on: boolean | null): boolean {
    const pin = this.signals.find((p) => p.signal.id === signal && p.signal.way === 'in');
    if (!pin || !this.link.hold) return false;
    this.link.hold(pin.channel, on === null ? null : levelOf(pin.signal, on));
    return true;
  }

  /** Simulated boards only: something goes wrong. Whether it could. */
  trouble(kind: Trouble, drive: string | null, by: number): boolean {
    const map = drive === null ? null : this.maps.find((m) => m.drive.id === drive);
    if (map === undefined || !this.link.trouble) return false;
    this.link.trouble(kind, map?.channel ?? null, map && !isSpin(map) ? by * Math.abs(map.native.perDeg) : 0);
    return true;
  }

  /** A line of somebody's own; null, or the word that it may not begin with. */
  sendOwn(text: string, now: number): string | null {
    return this.line.own(text, now);
  }

  halt(now: number): void {
    this.isHalted = true;
    this.seeking.clear();
    this.line.halt(now);
  }
  sleep(now: number): void {
    this.line.ask({ word: 'sleep' });
    this.line.pump(now);
  }
  /** Leaves it with its motors off. */
  close(now: number): void {
    this.line.leave(now);
    this.link.close();
  }

  /** Lets time go by up to `now` (ms), and gives what the board has said until then. */
  tick(now: number): Heard[] {
    // What came meanwhile is read only once this thread has come to it.
    const gap = now - this.tickedAt;
    if (gap > DEAF) this.line.excuse(gap);
    if (gap > SILENT_MS) this.wasSilent = true;
    this.tickedAt = now;
    this.link.advanceTo(now);
    const heard: Heard[] = [];
    // An answer may make room for the next line, and that one be answered at once.
    for (let come = this.link.read(); ; come = this.link.read()) {
      for (const bytes of come)
        for (const message of this.line.hear(bytes, now)) heard.push(...this.hear(message, now));
      this.line.pump(now);
      if (!come.length) break;
    }
    if (!this.isConnected && !this.isLost && this.hasGreeted && this.line.isSettled) {
      this.isConnected = true;
      heard.push({ what: 'connected' });
    }
    if (this.line.again >= NOISY && !this.toldNoisy) {
      this.toldNoisy = true;
      heard.push({ what: 'noisy' });
    }
    const stuckMs = this.line.stuckMs(now);
    const silentMs = now - this.line.heardAt;
    const isSilent = silentMs > (this.hasGreeted ? SILENCE : this.link.patienceMs);
    const failure =
      this.link.failure ??
      (stuckMs > SILENCE ? 'the board takes no more points' : isSilent ? this.silence(silentMs) : null);
    if (!this.isLost && (failure !== null || isSilent)) {
      heard.push(...this.lose(failure, silentMs));
      // It may still hear what it does not answer.
      this.line.halt(now);
    }
    return heard;
  }

  /** Why nothing is heard, as far as that can be told; null where it was heard before and simply went silent. */
  private silence(ms: number): string | null {
    const { noise } = this.line;
    if (noise > 0)
      return `nothing that came makes sense (${noise} bytes): its speed may be another one, or it speaks another protocol`;
    return this.hasGreeted ? null : `the board has not said a word within ${Math.round(ms / 1000)} s`;
  }

  /** All its motors are off, or hold without taking anything. */
  private fallsAsleep(): void {
    this.isAwake = false;
    for (const { drive } of this.maps) this.told.limp.delete(drive.id);
  }
  private lose(reason: string | null, silentMs: number): Heard[] {
    if (this.isLost) return [];
    this.isLost = true;
    this.isConnected = false;
    this.forgetSensed(Infinity);
    this.fallsAsleep();
    return [{ what: 'lost', reason, silentMs }];
  }

  private hear(message: BoardMessage, now: number): Heard[] {
    switch (message.word) {
      case 'board':
        this.hasGreeted = true;
        this.version = message.version;
        this.made = message.made;
        if (message.version !== PROTOCOL_VERSION)
          return this.lose(
            `the board speaks version ${message.version} of the protocol, this program version ${PROTOCOL_VERSION}`,
            0,
          );
        if (!this.isConnected) return [];
        // It has begun anew: its motors are limp, and it knows nothing.
        this.forgetSensed(Infinity);
        this.fallsAsleep();
        this.setUp(this.limits);
        return [{ what: 'anew' }];
      case 'done':
        if (message.what === 'wake') {
          this.isAwake = true;
          this.isHalted = this.wasSilent = false;
          return [{ what: 'awake' }];
        }
        if (message.what !== 'sleep') return [];
        this.fallsAsleep();
        return [{ what: 'asleep' }];
      case 'took':
        return this.pacer.took(message.seq, message.queuedMs, now) ? [{ what: 'dry' }] : [];
      case 'more':
        return [];
      case 'found':
        // It is said again and again.
        if (!this.seeking.delete(message.id)) return [];
        this.stoodAt(message.values);
        return [{ what: 'found', id: message.id, hit: message.hit }];
      case 'refused':
        if (message.what === 'point') this.isHalted = true;
        // Motors that it does not let go hold on.
        if (message.what === 'letgo') for (const id of this.goingLimp) this.told.limp.delete(id);
        return [{ what: 'refused', word: message.what, why: message.why }];
      case 'sensed':
        for (const [id, raw] of message.values) this.sense(id, raw, now);
        return [];
      case 'here': {
        this.forgetSensed(now);
        this.take(message.commanded, this.told.at);
        this.take(message.measured, this.told.measured);
        if (message.state === 'awake' || !this.isAwake) return [];
        this.fallsAsleep();
        return [{ what: 'halted', why: this.isHalted ? 'told' : this.wasSilent ? 'silence' : 'unknown' }];
      }
    }
  }

  private sense(id: number, raw: number, now: number): void {
    const sensor = this.sensors.find((pin) => pin.id === id)?.sensor;
    if (!sensor) return;
    const last = this.told.sensed.get(sensor.id) ?? [];
    this.told.sensed.set(sensor.id, [...last.slice(1 - SENSED), raw]);
    this.sensedAt.set(sensor.id, now);
  }
  /** What sensors said that say nothing any more is no reading. */
  private forgetSensed(now: number): void {
    for (const [id, at] of this.sensedAt)
      if (now - at > STALE) {
        this.sensedAt.delete(id);
        this.told.sensed.delete(id);
      }
  }

  /** Motors stand where they were not sent. */
  private stoodAt(values: ChannelValues): void {
    for (const [channel, value] of values) this.last.set(channel, value);
    this.take(values, this.told.sent);
    this.take(values, this.told.at);
  }
  /** Puts values by channel `into` those by drive. */
  private take(values: ChannelValues, into: Map<string, number>): void {
    for (const [channel, value] of values) {
      const id = this.drives.get(channel);
      if (id !== undefined) into.set(id, value);
      const pin = this.pins.get(channel);
      if (pin) this.told.signals.set(pin.signal.id, isOnAt(pin.signal, value));
    }
  }

  private keep(values: Values): void {
    for (const [map, value] of values) this.told.sent.set(map.drive.id, value);
  }
}

const same = (a: ChannelBounds, b: ChannelBounds): boolean =>
  a.low === b.low && a.high === b.high && a.perS === b.perS && a.still === b.still;
