/**
 * The line protocol between computer and board: one ASCII line a message, words separated by single spaces, then
 * `*` and two hexadecimal digits of a checksum, then a line feed. docs/protocol.md is its reference.
 *
 * Values are whole native numbers per channel (µs for servos), written channel:value. A channel is a pin as its board numbers it;
 * pins of boards that hang on the one at the end of the line have their place before them: 4 is pin 4 of that one, 1.4 of the first
 * that hangs on it.
 */

export const PROTOCOL_VERSION = 1;
/** Longest line either side sends, checksum included. */
export const MAX_LINE = 512;
/** Most motion (ms) a board queues. */
export const MAX_QUEUED_MS = 100;

/** Numbers of pins that a board has room for. */
const PINS = 256;
export const channelOf = (board: number, pin: number): number => board * PINS + pin;
/** As the line writes it. */
export const channelText = (channel: number): string =>
  channel < PINS ? `${channel}` : `${Math.floor(channel / PINS)}.${channel % PINS}`;
function channelFrom(text: string): number | null {
  const match = /^(?:([1-9]\d?)\.)?(\d{1,3})$/.exec(text);
  if (!match || Number(match[2]) >= PINS) return null;
  return channelOf(Number(match[1] ?? 0), Number(match[2]));
}

export type ChannelValues = readonly (readonly [channel: number, value: number])[];

/** From the computer. */
export type HostMessage =
  | { word: 'hello' }
  /**
   * Lowest and highest value a channel may get; needed before it can be woken. `still`: what stops a motor that is sent speeds; the
   * board goes there by itself on a halt and when its queue has run dry.
   */
  | { word: 'bounds'; channel: number; low: number; high: number; still?: number }
  /** Outputs on, each channel at the value given. */
  | { word: 'wake'; values: ChannelValues }
  | { word: 'sleep' }
  /** Go to these values in so many ms, straight from the set point before. */
  | { word: 'point'; seq: number; ms: number; values: ChannelValues }
  /** Freeze at once and forget the queue. */
  | { word: 'halt' }
  /** Send `here` every so many ms; 0: never. */
  | { word: 'report'; everyMs: number };

export type BoardState = 'asleep' | 'awake' | 'halted';
export const refusals = [
  'asleep',
  'bounds',
  'no-bounds',
  'queue-full',
  'order',
  'duration',
  'garbled',
  'unknown',
  'channel',
] as const;
export type Refusal = (typeof refusals)[number];

/** From the board. */
export type BoardMessage =
  | { word: 'board'; version: number; kind: string; channels: number }
  | { word: 'done'; what: HostMessage['word'] }
  | { word: 'took'; seq: number; queuedMs: number }
  | { word: 'refused'; what: string; why: Refusal }
  /** Board time, state, last set point reached (commanded) and position read back (measured) per channel. */
  | { word: 'here'; ms: number; state: BoardState; commanded: ChannelValues; measured: ChannelValues };

/** CRC-8, polynomial 0x07, start 0, over the bytes before the `*`. */
export function checksum(text: string): number {
  let crc = 0;
  for (let i = 0; i < text.length; i++) {
    crc ^= text.charCodeAt(i) & 0xff;
    for (let bit = 0; bit < 8; bit++) crc = crc & 0x80 ? ((crc << 1) ^ 0x07) & 0xff : (crc << 1) & 0xff;
  }
  return crc;
}

const values = (list: ChannelValues): string =>
  list.map(([channel, value]) => ` ${channelText(channel)}:${value}`).join('');

function hostText(message: HostMessage): string {
  switch (message.word) {
    case 'bounds':
      return `bounds ${channelText(message.channel)} ${message.low} ${message.high}${message.still === undefined ? '' : ` ${message.still}`}`;
    case 'wake':
      return `wake${values(message.values)}`;
    case 'point':
      return `point ${message.seq} ${message.ms}${values(message.values)}`;
    case 'report':
      return `report ${message.everyMs}`;
    default:
      return message.word;
  }
}

function boardText(message: BoardMessage): string {
  switch (message.word) {
    case 'board':
      return `board ${message.version} ${message.kind} ${message.channels}`;
    case 'done':
      return `done ${message.what}`;
    case 'took':
      return `took ${message.seq} ${message.queuedMs}`;
    case 'refused':
      return `refused ${message.what} ${message.why}`;
    case 'here':
      return `here ${message.ms} ${message.state}${values(message.commanded)} |${values(message.measured)}`;
  }
}

function toBytes(text: string): Uint8Array {
  const line = `${text}*${checksum(text).toString(16).padStart(2, '0')}\n`;
  return Uint8Array.from(line, (c) => c.charCodeAt(0));
}
export const encodeHost = (message: HostMessage): Uint8Array => toBytes(hostText(message));
export const encodeBoard = (message: BoardMessage): Uint8Array => toBytes(boardText(message));

const WHOLE = /^-?\d{1,9}$/;
const NATURAL = /^\d{1,9}$/;

function pairs(words: readonly string[]): ChannelValues | null {
  const list: [number, number][] = [];
  for (const word of words) {
    const [where, value, ...more] = word.split(':');
    const channel = channelFrom(where);
    if (channel === null || more.length || !WHOLE.test(value ?? '')) return null;
    list.push([channel, Number(value)]);
  }
  return list;
}

function parseHost(text: string): HostMessage | null {
  const [word, ...rest] = text.split(' ');
  switch (word) {
    case 'hello':
    case 'sleep':
    case 'halt':
      return rest.length ? null : { word };
    case 'bounds': {
      const channel = channelFrom(rest[0] ?? '');
      const [low, high, still] = rest.slice(1).map(Number);
      if (channel === null || rest.length < 3 || rest.length > 4 || !rest.slice(1).every((v) => WHOLE.test(v)))
        return null;
      return { word, channel, low, high, ...(still === undefined ? {} : { still }) };
    }
    case 'wake': {
      const list = pairs(rest);
      return list && { word, values: list };
    }
    case 'point': {
      const list = pairs(rest.slice(2));
      return list && NATURAL.test(rest[0] ?? '') && NATURAL.test(rest[1] ?? '')
        ? { word, seq: Number(rest[0]), ms: Number(rest[1]), values: list }
        : null;
    }
    case 'report':
      return rest.length === 1 && NATURAL.test(rest[0]) ? { word, everyMs: Number(rest[0]) } : null;
    default:
      return null;
  }
}

const hostWords = ['hello', 'bounds', 'wake', 'sleep', 'point', 'halt', 'report'] as const;
const states: readonly string[] = ['asleep', 'awake', 'halted'];

function parseBoard(text: string): BoardMessage | null {
  const [word, ...rest] = text.split(' ');
  switch (word) {
    case 'board':
      return rest.length === 3 && NATURAL.test(rest[0]) && NATURAL.test(rest[2])
        ? { word, version: Number(rest[0]), kind: rest[1], channels: Number(rest[2]) }
        : null;
    case 'done': {
      const what = hostWords.find((w) => w === rest[0]);
      return what && rest.length === 1 ? { word, what } : null;
    }
    case 'took':
      return rest.length === 2 && rest.every((r) => NATURAL.test(r))
        ? { word, seq: Number(rest[0]), queuedMs: Number(rest[1]) }
        : null;
    case 'refused': {
      const why = refusals.find((r) => r === rest[1]);
      return why && rest.length === 2 ? { word, what: rest[0], why } : null;
    }
    case 'here': {
      const bar = rest.indexOf('|');
      if (bar < 2 || !NATURAL.test(rest[0]) || !states.includes(rest[1])) return null;
      const commanded = pairs(rest.slice(2, bar));
      const measured = pairs(rest.slice(bar + 1));
      return (
        commanded && measured && { word, ms: Number(rest[0]), state: rest[1] as BoardState, commanded, measured }
      );
    }
    default:
      return null;
  }
}

/**
 * Splits a stream of bytes into messages. A line that is too long, has a wrong checksum or makes no sense comes out
 * as null, and reading goes on with the next line.
 */
export class LineReader<T> {
  private line = '';
  private tooLong = false;

  constructor(private readonly parse: (text: string) => T | null) {}

  push(bytes: Uint8Array): (T | null)[] {
    const messages: (T | null)[] = [];
    for (const byte of bytes) {
      if (byte === 10) {
        messages.push(
          this.tooLong ? null : this.finish(this.line.endsWith('\r') ? this.line.slice(0, -1) : this.line),
        );
        this.line = '';
        this.tooLong = false;
      } else if (this.line.length >= MAX_LINE) this.tooLong = true;
      else this.line += String.fromCharCode(byte);
    }
    return messages;
  }

  private finish(line: string): T | null {
    const star = line.lastIndexOf('*');
    if (star < 0 || !/^[0-9a-f]{2}$/i.test(line.slice(star + 1))) return null;
    const text = line.slice(0, star);
    return checksum(text) === parseInt(line.slice(star + 1), 16) ? this.parse(text) : null;
  }
}

export const hostReader = (): LineReader<HostMessage> => new LineReader(parseHost);
export const boardReader = (): LineReader<BoardMessage> => new LineReader(parseBoard);
