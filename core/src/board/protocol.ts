/**
 * The line protocol between computer and board: one ASCII line a message, words separated by single spaces, then
 * `*` and four hexadecimal digits of a checksum, then a line feed. docs/protocol.md is its reference.
 *
 * Values are whole native numbers per channel (µs for servos), written channel:value. A channel is a pin as its board numbers it;
 * pins of boards that hang on the one at the end of the line have their place before them: 4 is pin 4 of that one, 1.4 of the first
 * that hangs on it.
 */

export const PROTOCOL_VERSION = 2;
/** Longest line (bytes) either side sends, checksum and line feed included. */
export const MAX_LINE = 120;
/** Least that a board takes in (bytes) before it has read a line: no line that cannot be spread is longer. */
export const LEAST_BUFFER = 64;
/** Most motion (ms) a board queues. */
export const MAX_QUEUED_MS = 100;
/** Between two reports of where motors are (ms): longer for more channels, so that the line has room for points. */
export const reportEveryMs = (channels: number): number => 20 * Math.max(1, Math.ceil(channels / 16));
/** Largest value that a line carries, either sign; numbers of orders and points have a digit more. */
export const FARTHEST = 99_999_999;

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

/**
 * What a board is told to do once. Each has a number, higher than those before it, that its answer repeats: a board does none that is
 * not, but for a halt.
 */
export type Order = { readonly number: number } & (
  | { word: 'hello' }
  /**
   * Lowest and highest value a channel may get, and by how much it may change in a second; needed before it can be woken. `still`: what
   * stops a motor that is sent speeds; the board goes there by itself on a halt and when its queue has run dry.
   */
  | { word: 'bounds'; channel: number; low: number; high: number; perS: number; still?: number }
  /** Outputs on, each channel at the value given. */
  | { word: 'wake'; values: ChannelValues }
  /** The motors of these channels off, on a board that is awake; the others go on. They may be woken again. */
  | { word: 'letgo'; channels: readonly number[] }
  | { word: 'sleep' }
  /** Freeze at once and forget the queue. */
  | { word: 'halt' }
  /**
   * A board that is on and has read no line that makes sense for `ms` (0: however long) halts by itself; `offMs` later its motors go off
   * as by `sleep` (null: they hold).
   */
  | { word: 'watch'; ms: number; offMs: number | null }
  /** Send `here` every so many ms; 0: never. */
  | { word: 'report'; everyMs: number }
  /** The pin is an output; `safe`: its level (0 or 1) while the board is asleep. Points give it others: 0 or 1, taken as they are reached. */
  | { word: 'output'; channel: number; safe: number }
  /** The pin is an input, with this resistor at it; its level is told with what is read back, and at once when it changes. */
  | { word: 'input'; channel: number; pull: Pull }
  /**
   * Read sensor `id` at a pin and tell its raw count with each report; on a two-wire bus at this address, behind that port of a
   * multiplexer (null: none).
   */
  | { word: 'sensor'; id: number; channel: number; address: number | null; port: number | null }
  /**
   * Move by yourself: each channel by so much a second, signed, until the input is at the level (`until` null: whatever inputs say) or
   * `ms` have gone by; `found` says where that was. `id`: higher than that of any seek since `hello`; one that is not is not done.
   */
  | { word: 'seek'; id: number; until: Until | null; ms: number; speeds: ChannelValues }
  /** Channels that count stand at these values from now on; nothing moves. */
  | { word: 'zero'; values: ChannelValues }
);
export interface Until {
  readonly channel: number;
  readonly level: 0 | 1;
}
/** Longest seek (ms). */
export const LONGEST_SEEK = 600_000;
/** Most channels that one seek moves: its line is no longer than boards take in. */
export const SOUGHT = 3;
export const pulls = ['none', 'up', 'down'] as const;
export type Pull = (typeof pulls)[number];
type Unnumbered<T> = T extends unknown ? Omit<T, 'number'> : never;
/** An order before it is sent. */
export type Wish = Unnumbered<Order>;

/** A line of a point: its first, then those that hold what the first had no room for. */
export type PointLine =
  /** Go to these values in so many ms, straight from the set point before; channels that are not named stay. `goesOn`: more lines follow. */
  | { word: 'point'; seq: number; ms: number; values: ChannelValues; goesOn: boolean }
  | { word: 'more'; seq: number; part: number; values: ChannelValues; goesOn: boolean };

/** From the computer. */
export type HostMessage = Order | PointLine;

export const boardStates = ['asleep', 'awake', 'halted'] as const;
export type BoardState = (typeof boardStates)[number];
export const refusals = [
  'asleep',
  'bounds',
  'no-bounds',
  'speed',
  'twice',
  'queue-full',
  'gap',
  'stale',
  'duration',
  'garbled',
  'channel',
  'moving',
] as const;
export type Refusal = (typeof refusals)[number];
/** Refusals after which the board goes on with what it has, and wants to hear the same again. */
export const passing: ReadonlySet<Refusal> = new Set<Refusal>(['queue-full', 'gap', 'garbled', 'stale']);

/** A rig as firmware was made for it: its revision, and the fingerprint of its motors (eight hexadecimal digits). */
export interface MadeFor {
  readonly revision: number;
  readonly fingerprint: string;
}
/** From the board. */
export type BoardMessage =
  /** `buffer`: bytes that it can take in before it has read a line. `made`: the rig that its firmware was made for; null: any. */
  | { word: 'board'; version: number; kind: string; channels: number; buffer: number; made: MadeFor | null }
  | { word: 'done'; what: Order['word']; number: number }
  | { word: 'took'; seq: number; queuedMs: number }
  /** A line of this point was taken, and the next of it is waited for. */
  | { word: 'more'; seq: number }
  /** `number`: of the order or point; of the point that is wanted, where something is missing or a line made no sense. */
  | { word: 'refused'; what: string; number: number; why: Refusal }
  /** Where channels were when a seek ended, `hit`: as its input got there; said again with each report until one of them is told otherwise. */
  | { word: 'found'; id: number; hit: boolean; values: ChannelValues }
  /** Raw counts of sensors, by their ids. */
  | { word: 'sensed'; ms: number; values: ChannelValues }
  /** Board time, state, last set point reached (commanded) and position read back (measured) of some or all channels. */
  | { word: 'here'; ms: number; state: BoardState; commanded: ChannelValues; measured: ChannelValues };

/** What the eight bits at its top make of the rest of a checksum. */
const CRC = Uint16Array.from({ length: 256 }, (_, byte) => {
  let crc = byte << 8;
  for (let bit = 0; bit < 8; bit++) crc = crc & 0x8000 ? (crc << 1) ^ 0x1021 : crc << 1;
  return crc;
});
/** CRC-16 (polynomial 0x1021, start 0xFFFF, nothing reflected) over the bytes before the `*`. */
export function checksum(text: string): number {
  let crc = 0xffff;
  for (let i = 0; i < text.length; i++) crc = ((crc << 8) & 0xffff) ^ CRC[(crc >> 8) ^ (text.charCodeAt(i) & 0xff)];
  return crc;
}

const values = (list: ChannelValues): string =>
  list.map(([channel, value]) => ` ${channelText(channel)}:${value}`).join('');

const goesOnText = (goesOn: boolean): string => (goesOn ? ' +' : '');

function hostText(message: HostMessage): string {
  switch (message.word) {
    case 'bounds': {
      const { number, channel, low, high, perS, still } = message;
      return `bounds ${number} ${channelText(channel)} ${low} ${high} ${perS}${still === undefined ? '' : ` ${still}`}`;
    }
    case 'wake':
      return `wake ${message.number}${values(message.values)}`;
    case 'letgo':
      return `letgo ${message.number}${message.channels.map((channel) => ` ${channelText(channel)}`).join('')}`;
    case 'point':
      return `point ${message.seq} ${message.ms}${values(message.values)}${goesOnText(message.goesOn)}`;
    case 'more':
      return `more ${message.seq} ${message.part}${values(message.values)}${goesOnText(message.goesOn)}`;
    case 'report':
      return `report ${message.number} ${message.everyMs}`;
    case 'watch':
      return `watch ${message.number} ${message.ms} ${message.offMs ?? '-'}`;
    case 'output':
      return `output ${message.number} ${channelText(message.channel)} ${message.safe}`;
    case 'input':
      return `input ${message.number} ${channelText(message.channel)} ${message.pull}`;
    case 'seek': {
      const { number, id, until, ms, speeds } = message;
      return `seek ${number} ${id} ${until ? `${channelText(until.channel)}:${until.level}` : '-'} ${ms}${values(speeds)}`;
    }
    case 'zero':
      return `zero ${message.number}${values(message.values)}`;
    case 'sensor': {
      const { number, id, channel, address, port } = message;
      return `sensor ${number} ${id} ${channelText(channel)} ${address ?? '-'} ${port ?? '-'}`;
    }
    default:
      return `${message.word} ${message.number}`;
  }
}

function boardText(message: BoardMessage): string {
  switch (message.word) {
    case 'board': {
      const { version, kind, channels, buffer, made } = message;
      return `board ${version} ${kind} ${channels} ${buffer} ${made ? `${made.revision} ${made.fingerprint}` : '- -'}`;
    }
    case 'done':
      return `done ${message.what} ${message.number}`;
    case 'took':
      return `took ${message.seq} ${message.queuedMs}`;
    case 'more':
      return `more ${message.seq}`;
    case 'refused':
      return `refused ${message.what} ${message.number} ${message.why}`;
    case 'found':
      return `found ${message.id} ${message.hit ? 'hit' : 'end'}${values(message.values)}`;
    case 'sensed':
      return `sensed ${message.ms}${values(message.values)}`;
    case 'here':
      return `here ${message.ms} ${message.state}${values(message.commanded)} |${values(message.measured)}`;
  }
}

/** What is sealed behind a text: `*`, the checksum, a line feed. */
const SEAL = 6;
const IS_SEALED = /\*[0-9a-f]{4}$/i;
const toBytes = (text: string): Uint8Array => ascii(`${text}*${checksum(text).toString(16).padStart(4, '0')}\n`);
/** A line that somebody wrote: with its checksum, right or wrong, where it has one, else with the right one. */
export const sealed = (text: string): Uint8Array => (IS_SEALED.test(text) ? ascii(`${text}\n`) : toBytes(text));
function ascii(line: string): Uint8Array {
  const bytes = new Uint8Array(line.length);
  for (let i = 0; i < line.length; i++) bytes[i] = line.charCodeAt(i);
  return bytes;
}
export const encodeHost = (message: HostMessage): Uint8Array => toBytes(hostText(message));
export const encodeBoard = (message: BoardMessage): Uint8Array => toBytes(boardText(message));

/**
 * What is told of channels in as few lines as hold it, each at most `most` bytes; at least one, and at least one of them a line. `text`
 * gives a line without its seal.
 */
function spread<T, I = ChannelValues[number]>(
  list: readonly I[],
  most: number,
  message: (some: readonly I[], part: number, goesOn: boolean) => T,
  text: (message: T) => string,
): T[] {
  const messages: T[] = [];
  let from = 0;
  do {
    const fits = (end: number): boolean =>
      text(message(list.slice(from, end), messages.length, true)).length + SEAL <= most;
    // A line grows with each item, so that it can be bisected; what is left mostly fits as a whole.
    let upTo = list.length;
    if (upTo > from && !fits(upTo)) {
      let over = upTo;
      for (upTo = from + 1; over - upTo > 1;) {
        const middle = (upTo + over) >> 1;
        if (fits(middle)) upTo = middle;
        else over = middle;
      }
    }
    messages.push(message(list.slice(from, upTo), messages.length, upTo < list.length));
    from = upTo;
  } while (from < list.length);
  return messages;
}

/** The lines of a point, each at most `most` bytes. */
export const pointLines = (seq: number, ms: number, list: ChannelValues, most: number): PointLine[] =>
  spread<PointLine>(
    list,
    most,
    (some, part, goesOn) =>
      part === 0
        ? { word: 'point', seq, ms, values: some, goesOn }
        : { word: 'more', seq, part, values: some, goesOn },
    hostText,
  );

/** Any number of an order is as long as this or shorter. */
const MOST = 999_999_999;
/** Several wakes that together switch all of them on; any number fits. */
export const wakeWishes = (list: ChannelValues, most: number): Wish[] =>
  spread<Wish>(
    list,
    most,
    (some) => ({ word: 'wake', values: some }),
    (wish) => hostText({ ...wish, number: MOST }),
  );

/** Several orders that together let all of them go. */
export const letGoWishes = (list: readonly number[], most: number): Wish[] =>
  spread<Wish, number>(
    list,
    most,
    (channels) => ({ word: 'letgo', channels }),
    (wish) => hostText({ ...wish, number: MOST }),
  );

/** A channel, where it is told to be, and what is read back there. */
type Whereabouts = readonly [channel: number, commanded: number, measured: number | null];
/** Where channels are, in lines of their own that hold some of them each. */
export const hereMessages = (ms: number, state: BoardState, rows: readonly Whereabouts[]): BoardMessage[] =>
  spread<BoardMessage, Whereabouts>(
    rows,
    MAX_LINE,
    (some) => ({
      ...{ word: 'here', ms, state },
      commanded: some.map(([channel, commanded]) => [channel, commanded]),
      measured: some
        .filter(([, , measured]) => measured !== null)
        .map(([channel, , measured]) => [channel, measured!]),
    }),
    boardText,
  );

/** Levels of so many inputs are told in one line. */
const LEVELS = 8;
/** What inputs are at: read back, and nothing that was told. */
export function levelMessages(ms: number, state: BoardState, levels: ChannelValues): BoardMessage[] {
  const lines = Math.ceil(levels.length / LEVELS);
  return Array.from({ length: lines }, (_, k) => ({
    ...{ word: 'here' as const, ms, state, commanded: [] },
    measured: levels.slice(k * LEVELS, (k + 1) * LEVELS),
  }));
}

/** Counts of so many sensors are told in one line. */
const COUNTS = 6;
export function sensedMessages(ms: number, counts: ChannelValues): BoardMessage[] {
  const lines = Math.ceil(counts.length / COUNTS);
  return Array.from({ length: lines }, (_, k) => ({
    ...{ word: 'sensed' as const, ms },
    values: counts.slice(k * COUNTS, (k + 1) * COUNTS),
  }));
}

const WHOLE = /^-?\d{1,8}$/;
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

/** Words of a line of values: whether it goes on, and the values before that. */
function pointRest(words: readonly string[]): { values: ChannelValues; goesOn: boolean } | null {
  const goesOn = words.at(-1) === '+';
  const list = pairs(goesOn ? words.slice(0, -1) : words);
  return list && { values: list, goesOn };
}

function parseHost(text: string): HostMessage | null {
  const [word, first = '', ...rest] = text.split(' ');
  if (!NATURAL.test(first)) return null;
  const number = Number(first);
  switch (word) {
    case 'hello':
    case 'sleep':
    case 'halt':
      return rest.length ? null : { word, number };
    case 'bounds': {
      const channel = channelFrom(rest[0] ?? '');
      const [low, high, perS, still] = rest.slice(1).map(Number);
      if (channel === null || rest.length < 4 || rest.length > 5 || !rest.slice(1).every((v) => WHOLE.test(v)))
        return null;
      return { word, number, channel, low, high, perS, ...(still === undefined ? {} : { still }) };
    }
    case 'wake': {
      const list = pairs(rest);
      return list && { word, number, values: list };
    }
    case 'point': {
      const more = pointRest(rest.slice(1));
      return more && NATURAL.test(rest[0] ?? '') ? { word, seq: number, ms: Number(rest[0]), ...more } : null;
    }
    case 'more': {
      const more = pointRest(rest.slice(1));
      return more && NATURAL.test(rest[0] ?? '') ? { word, seq: number, part: Number(rest[0]), ...more } : null;
    }
    case 'output': {
      const channel = channelFrom(rest[0] ?? '');
      return channel !== null && rest.length === 2 && /^[01]$/.test(rest[1])
        ? { word, number, channel, safe: Number(rest[1]) }
        : null;
    }
    case 'input': {
      const channel = channelFrom(rest[0] ?? '');
      const pull = pulls.find((p) => p === rest[1]);
      return channel !== null && pull && rest.length === 2 ? { word, number, channel, pull } : null;
    }
    case 'seek': {
      const [id = '', where = '', ms = '', ...more] = rest;
      const until = where === '-' ? null : untilFrom(where);
      const speeds = pairs(more);
      return NATURAL.test(id) && until !== undefined && NATURAL.test(ms) && speeds
        ? { word, number, id: Number(id), until, ms: Number(ms), speeds }
        : null;
    }
    case 'zero': {
      const list = pairs(rest);
      return list && { word, number, values: list };
    }
    case 'sensor': {
      const [id = '', at = '', address = '', port = ''] = rest;
      const channel = channelFrom(at);
      const isSmall = [address, port].every((word) => word === '-' || /^\d{1,3}$/.test(word));
      if (!NATURAL.test(id) || channel === null || !isSmall || rest.length !== 4) return null;
      const [onBus, behind] = [address, port].map((word) => (word === '-' ? null : Number(word)));
      return { word, number, id: Number(id), channel, address: onBus, port: behind };
    }
    case 'letgo': {
      const channels = rest.map(channelFrom);
      return channels.every((channel) => channel !== null) ? { word, number, channels } : null;
    }
    case 'report':
      return rest.length === 1 && NATURAL.test(rest[0]) ? { word, number, everyMs: Number(rest[0]) } : null;
    case 'watch': {
      const [ms = '', offMs = ''] = rest;
      const isWhole = NATURAL.test(ms) && (offMs === '-' || NATURAL.test(offMs)) && rest.length === 2;
      return isWhole ? { word, number, ms: Number(ms), offMs: offMs === '-' ? null : Number(offMs) } : null;
    }
    default:
      return null;
  }
}

/** Channel and level of an input; undefined where it is none. */
function untilFrom(text: string): Until | undefined {
  const [at] = pairs([text]) ?? [];
  return at && (at[1] === 0 || at[1] === 1) ? { channel: at[0], level: at[1] } : undefined;
}

/** Of the last words of a banner; undefined where they make no sense. Boards of other versions say what they like there. */
function madeFrom([revision = '-', fingerprint = '-']: readonly string[]): MadeFor | null | undefined {
  if (revision === '-' && fingerprint === '-') return null;
  return NATURAL.test(revision) && /^[0-9a-f]{8}$/.test(fingerprint)
    ? { revision: Number(revision), fingerprint }
    : undefined;
}

/** Every word of an order. */
export const orderWords = [
  ...([
    'hello',
    'bounds',
    'sensor',
    'wake',
    'letgo',
    'sleep',
    'halt',
    'report',
    'output',
    'input',
    'seek',
    'zero',
    'watch',
  ] as const),
];

function parseBoard(text: string): BoardMessage | null {
  const [word, ...rest] = text.split(' ');
  const isNatural = (...at: number[]): boolean => at.every((k) => NATURAL.test(rest[k] ?? ''));
  switch (word) {
    case 'board': {
      const [version, kind, channels, buffer, ...made] = rest;
      if (rest.length > 6) return null;
      const madeFor = madeFrom(made);
      return isNatural(0, 2, 3) && madeFor !== undefined
        ? { word, version: Number(version), kind, channels: Number(channels), buffer: Number(buffer), made: madeFor }
        : null;
    }
    case 'done': {
      const what = orderWords.find((w) => w === rest[0]);
      return what && rest.length === 2 && isNatural(1) ? { word, what, number: Number(rest[1]) } : null;
    }
    case 'took':
      return rest.length === 2 && isNatural(0, 1) ? { word, seq: Number(rest[0]), queuedMs: Number(rest[1]) } : null;
    case 'more':
      return rest.length === 1 && isNatural(0) ? { word, seq: Number(rest[0]) } : null;
    case 'refused': {
      const why = refusals.find((r) => r === rest[2]);
      return why && rest.length === 3 && isNatural(1) ? { word, what: rest[0], number: Number(rest[1]), why } : null;
    }
    case 'found': {
      const list = pairs(rest.slice(2));
      const isEnd = rest[1] === 'hit' || rest[1] === 'end';
      return isNatural(0) && isEnd && list
        ? { word, id: Number(rest[0]), hit: rest[1] === 'hit', values: list }
        : null;
    }
    case 'sensed': {
      const list = pairs(rest.slice(1));
      return isNatural(0) && list ? { word, ms: Number(rest[0]), values: list } : null;
    }
    case 'here': {
      const bar = rest.indexOf('|');
      const state = boardStates.find((s) => s === rest[1]);
      if (bar < 2 || !isNatural(0) || !state) return null;
      const commanded = pairs(rest.slice(2, bar));
      const measured = pairs(rest.slice(bar + 1));
      return commanded && measured && { word, ms: Number(rest[0]), state, commanded, measured };
    }
    default:
      return null;
  }
}

/**
 * Splits a stream of bytes into messages. A line that is too long, has a wrong checksum or makes no sense comes out
 * as null, and reading goes on with the next line; an empty line is none.
 */
export class LineReader<T> {
  private line = '';
  private tooLong = false;

  constructor(private readonly parse: (text: string) => T | null) {}

  push(bytes: Uint8Array): (T | null)[] {
    const messages: (T | null)[] = [];
    for (let k = 0; k < bytes.length; k++) {
      const byte = bytes[k];
      if (byte === 10) {
        const line = this.line.endsWith('\r') ? this.line.slice(0, -1) : this.line;
        if (this.tooLong) messages.push(null);
        else if (line) messages.push(this.finish(line));
        this.line = '';
        this.tooLong = false;
      } else if (this.line.length >= MAX_LINE - 1) this.tooLong = true;
      else this.line += String.fromCharCode(byte);
    }
    return messages;
  }

  private finish(line: string): T | null {
    const star = line.lastIndexOf('*');
    if (star < 0 || !/^[0-9a-f]{4}$/i.test(line.slice(star + 1))) return null;
    const text = line.slice(0, star);
    return checksum(text) === parseInt(line.slice(star + 1), 16) ? this.parse(text) : null;
  }
}

export const hostReader = (): LineReader<HostMessage> => new LineReader(parseHost);
export const boardReader = (): LineReader<BoardMessage> => new LineReader(parseBoard);
