/**
 * One board at the end of one link: what it was told of itself, what it says, how much it has queued, and its silence. Numbers of
 * channels stay in here; outside motors go by the ids of their drives.
 */
import {
  boardReader,
  encodeHost,
  type BoardMessage,
  type ChannelValues,
  type HostMessage,
} from '@cork-elbow/core/board';
import { isSpin, type CommandMap, type DriveMap } from '@cork-elbow/core/actuators';
import { byChannel, type Values } from '@cork-elbow/core/commands';
import type { LineEnd, Link } from '../links/link';
import { Pacer } from './pacer';

/** A board silent for longer than this (ms) is lost. */
const SILENCE = 1000;
/** Between two reports of where the motors are (ms). */
const REPORT = 20;

/** What a board has said, as far as anybody outside is concerned. */
export type Heard =
  | { readonly what: 'connected' | 'awake' | 'asleep' | 'halted' }
  /** It has reported where its motors are. */
  | { readonly what: 'at' }
  /** It has played all it had: what moved stood still for a moment. */
  | { readonly what: 'dry' }
  | { readonly what: 'refused'; readonly word: string; readonly why: string }
  | { readonly what: 'lost'; readonly reason: string | null; readonly silentMs: number };

/** Values of all boards by drive: where each is by what its board was told, read back, and sent last. */
export interface Told {
  readonly at: Map<string, number>;
  readonly measured: Map<string, number>;
  readonly sent: Map<string, number>;
}

export class BoardSession {
  isConnected = false;
  isAwake = false;
  pacer = new Pacer(0, 0);
  private isLost = false;
  private maps: readonly CommandMap[] = [];
  /** Ids of drives by channel. */
  private drives: ReadonlyMap<number, string> = new Map();
  private readonly reader = boardReader();
  private seq = 0;

  constructor(
    readonly end: LineEnd,
    private readonly link: Link,
    private readonly told: Told,
    private heardAt: number,
  ) {
    this.send({ word: 'hello' });
    this.setMaps(end.maps);
    this.send({ word: 'report', everyMs: REPORT });
  }

  get name(): string {
    return this.link.name;
  }
  /** Whether any motor hangs on it. */
  get hasMotors(): boolean {
    return this.maps.length > 0;
  }

  /** Motors as a changed document has them; their ranges go to the board. */
  setMaps(maps: readonly CommandMap[]): void {
    this.maps = maps;
    this.drives = new Map(maps.map((map) => [map.channel!, map.drive.id]));
    this.bounds();
  }

  /** Tells the board the range of each channel: what joints allow, unless others are asked for. */
  bounds(rangeOf: (map: DriveMap) => { low: number; high: number } = (map) => map.native): void {
    for (const map of this.maps)
      if (isSpin(map))
        this.send({ word: 'bounds', channel: map.channel!, low: map.low, high: map.high, still: map.stopUs });
      else {
        const { low, high } = rangeOf(map);
        this.send({ word: 'bounds', channel: map.channel!, low, high });
      }
  }

  /** Of values for all motors those of this board. */
  private own(values: Values): Values {
    return values.filter(([map]) => map.line === this.end.board);
  }

  /** Switches on those of the drives that are its own. */
  wake(values: Values): void {
    const own = this.own(values);
    if (!own.length) return;
    this.keep(own);
    this.send({ word: 'wake', values: byChannel(own) });
  }

  /** Sends its own of the values, to be reached in `ms` after what it has queued. */
  point(values: Values, ms: number, now: number): void {
    const own = this.own(values);
    this.keep(own);
    const seq = this.seq++;
    this.send({ word: 'point', seq, ms, values: byChannel(own) });
    this.pacer.sent(seq, ms, now);
  }

  /** What is sent from `due` on keeps so much queued (ms); what is queued now counts. */
  pace(cushionMs: number, due: number): void {
    this.pacer = new Pacer(cushionMs, due, this.pacer.doneAt);
  }
  /** Before motors are switched on: points are counted anew, and nothing is queued. */
  begin(cushionMs: number, now: number): void {
    this.seq = 0;
    this.pacer = new Pacer(cushionMs, now);
  }

  halt(): void {
    this.send({ word: 'halt' });
  }
  sleep(): void {
    this.send({ word: 'sleep' });
  }
  close(): void {
    this.link.close();
  }

  /** Lets time go by up to `now` (ms), and gives what the board has said until then. */
  tick(now: number): Heard[] {
    this.link.advanceTo(now);
    const heard: Heard[] = [];
    for (const bytes of this.link.read())
      for (const message of this.reader.push(bytes))
        if (message) {
          this.heardAt = now;
          heard.push(...this.hear(message, now));
        }
    const { failure } = this.link;
    const silentMs = now - this.heardAt;
    if (!this.isLost && (failure !== null || silentMs > SILENCE)) {
      this.isLost = true;
      this.isAwake = this.isConnected = false;
      heard.push({ what: 'lost', reason: failure, silentMs });
    }
    return heard;
  }

  private hear(message: BoardMessage, now: number): Heard[] {
    switch (message.word) {
      case 'board':
        this.isConnected = true;
        return [{ what: 'connected' }];
      case 'done':
        if (message.what === 'wake') {
          this.isAwake = true;
          return [{ what: 'awake' }];
        }
        if (message.what !== 'sleep') return [];
        this.isAwake = false;
        return [{ what: 'asleep' }];
      case 'took':
        return this.pacer.took(message.seq, message.queuedMs, now) ? [{ what: 'dry' }] : [];
      case 'refused':
        return [{ what: 'refused', word: message.what, why: message.why }];
      case 'here': {
        this.take(message.commanded, this.told.at);
        this.take(message.measured, this.told.measured);
        const at: Heard = { what: 'at' };
        if (message.state !== 'halted' || !this.isAwake) return [at];
        this.isAwake = false;
        return [at, { what: 'halted' }];
      }
    }
  }

  /** Puts values by channel `into` those by drive. */
  private take(values: ChannelValues, into: Map<string, number>): void {
    for (const [channel, value] of values) {
      const id = this.drives.get(channel);
      if (id !== undefined) into.set(id, value);
    }
  }

  private keep(values: Values): void {
    for (const [map, value] of values) this.told.sent.set(map.drive.id, value);
  }

  private send(message: HostMessage): void {
    this.link.write(encodeHost(message));
  }
}
