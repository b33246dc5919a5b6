/**
 * A host and a board with a line between them that damages what it carries: seeded, so that a soak of millions of lines is the same
 * each time. What the board does is held against what was sent while it goes.
 */
import { HostLine } from './host-line';
import { encodeHost, hostReader, type HostMessage } from './protocol';
import { SimulatedBoard, type BoardTraits } from './simulated-board';

const LOW = 500;
const HIGH = 2500;
const PER_S = 4000;
/** Length of a point, and the most that a value changes by in one. */
const MS = 6;
const STEP = (PER_S * MS) / 1000;

const LINE_END = Uint8Array.of(10);
const latin = (bytes: Uint8Array): string => String.fromCharCode(...bytes);

const damages = ['change', 'digits', 'cut', 'double', 'splice', 'reorder', 'swallow', 'insert', 'newline'] as const;
export type Damage = (typeof damages)[number];

export interface Soaked {
  /** Lines to the board, those that were damaged, and damaged ones that nonetheless made sense as something nobody had sent. */
  lines: number;
  damaged: number;
  mistaken: number;
  readonly of: Record<Damage, number>;
  /** Points that the board has played, points sent again, orders that it took though they are of no use now. */
  played: number;
  again: number;
  halts: number;
  /** How often the board stopped by itself: at a halt that came late, or a line that read as something it must refuse. */
  stopped: number;
  /** What must not be: one line for each. */
  readonly wrong: string[];
}

/**
 * Until so many lines were damaged. `share`: of the lines, either way. The host moves `channels` to and fro as fast as they may go, and
 * now and then halts and switches them on again.
 */
export function soak(
  random: () => number,
  upTo: number,
  { share = 0.3, channels = 3, traits = {} }: { share?: number; channels?: number; traits?: BoardTraits } = {},
): Soaked {
  const of = Object.fromEntries(damages.map((d) => [d, 0])) as Record<Damage, number>;
  const soaked: Soaked = {
    ...{ lines: 0, damaged: 0, mistaken: 0, of },
    ...{ played: 0, again: 0, halts: 0, stopped: 0, wrong: [] },
  };
  const wrong = (what: string): void => {
    if (soaked.wrong.length < 20) soaked.wrong.push(what);
  };
  const whole = (below: number): number => Math.floor(random() * below);
  const all = Array.from({ length: channels }, (_, channel) => channel);
  const motor = { kind: 'stepper' as const, maxHz: 1e9 };
  const board = new SimulatedBoard(
    channels,
    all.map((channel) => ({ channel, motor, restsAt: 1500 })),
    traits,
  );

  /** What was sent last, which damage may bring in again; and as it reads, of more. */
  const recent: Uint8Array[] = [];
  const texts = new Set<string>();
  const textOf = (message: HostMessage): string => latin(encodeHost(message));
  const remember = (bytes: Uint8Array): void => {
    const text = latin(bytes);
    texts.delete(text);
    texts.add(text);
    if (texts.size > 500) texts.delete(texts.values().next().value!);
  };
  let kept: Uint8Array | null = null;
  const check = hostReader();

  const damagedBy = (line: Uint8Array): Uint8Array => {
    const kind = damages[whole(damages.length)];
    of[kind]++;
    soaked.damaged++;
    const bytes = [...line];
    const at = whole(bytes.length);
    const other = recent[whole(recent.length)] ?? line;
    switch (kind) {
      case 'change':
        for (let k = 1 + whole(4); k > 0; k--) bytes[whole(bytes.length)] = whole(256);
        break;
      case 'digits': {
        const places = bytes.flatMap((byte, k) => (byte >= 48 && byte <= 57 ? [k] : []));
        for (let k = 2 + whole(4); k > 0; k--) bytes[places[whole(places.length)]] = 48 + whole(10);
        break;
      }
      case 'cut':
        bytes.splice(at, 1 + whole(bytes.length - at));
        break;
      case 'double':
        bytes.push(...bytes);
        break;
      case 'splice':
        bytes.splice(at, bytes.length, ...other.slice(whole(other.length)));
        break;
      case 'reorder':
        // Behind the next one.
        if (kept) bytes.unshift(...kept);
        kept = line;
        if (bytes.length === line.length) return new Uint8Array(0);
        break;
      case 'swallow':
        return new Uint8Array(0);
      case 'insert':
        bytes.splice(at, 0, ...Array.from({ length: 1 + whole(5) }, () => whole(256)));
        break;
      case 'newline':
        bytes[at] = 10;
    }
    return Uint8Array.from(bytes);
  };

  const host = new HostLine((bytes) => {
    soaked.lines++;
    recent.push(bytes);
    if (recent.length > 8) recent.shift();
    remember(bytes);
    let out = random() < share ? damagedBy(bytes) : bytes;
    if (kept && out === bytes) {
      out = Uint8Array.from([...bytes, ...kept]);
      kept = null;
    }
    for (const message of out === bytes ? [] : check.push(out))
      if (message && !texts.has(textOf(message))) soaked.mistaken++;
    if (out !== bytes) check.push(LINE_END);
    board.write(out);
  }, 0);
  /** Back from the board lines are spoilt as well. */
  const back = (bytes: Uint8Array): Uint8Array => {
    if (random() >= share / 2) return bytes;
    const spoilt = bytes.slice();
    spoilt[whole(spoilt.length)] ^= 1 + whole(255);
    return whole(3) ? spoilt : new Uint8Array(0);
  };

  /** Values of each channel after each point of this wake, from its first on. */
  let sent: number[][] = [];
  let at: number[] = [];
  let way: number[] = [];
  let phase: 'greet' | 'wake' | 'move' | 'halt' = 'greet';
  let due = 0;
  let until = 0;
  let before: number[] | null = null;
  let playing = -1;
  host.ask({ word: 'hello' });
  for (const channel of all) host.ask({ word: 'bounds', channel, low: LOW, high: HIGH, perS: PER_S });

  for (let now = 1; soaked.damaged < upTo; now++) {
    board.advance(1000);
    for (const bytes of board.read()) host.hear(back(bytes), now);
    host.pump(now);

    // What it is told to be is inside its bounds, changes no faster than it may, and at the end of a point is what was sent.
    const values = board.commanded;
    values.forEach((value, k) => {
      if (value < LOW || value > HIGH) wrong(`channel ${k} at ${value}`);
      if (before && phase !== 'wake' && Math.abs(value - before[k]) > PER_S / 1000 + 1 + 1e-9)
        wrong(`channel ${k} from ${before[k]} to ${value} in a ms`);
    });
    if (phase === 'move' && board.playing !== playing) {
      playing = board.playing;
      soaked.played++;
    }
    if (
      phase === 'move' &&
      before &&
      !board.isHalted &&
      board.isBetweenPoints &&
      sent[playing]?.some((v, k) => v !== values[k])
    )
      wrong(`point ${playing} ended at ${values.join(' ')}, not at ${sent[playing].join(' ')}`);
    before = values;

    if (phase === 'move' && board.isHalted) {
      soaked.stopped++;
      until = now;
    }

    if (phase === 'greet' && host.isSettled) phase = 'wake';
    else if (phase === 'wake' && host.isSettled) {
      if (!sent.length) {
        at = values.map((v) => Math.round(v));
        way = all.map(() => (whole(2) ? 1 : -1));
        sent = [at];
        host.begin();
        host.ask({ word: 'wake', values: at.map((v, k) => [k, v] as const) });
        host.pump(now);
      } else {
        phase = 'move';
        playing = -1;
        sent = [];
        due = now;
        until = now + 500 + whole(8000);
      }
    } else if (phase === 'move') {
      if (now >= until) {
        host.halt(now);
        soaked.halts++;
        phase = 'halt';
      } else if (now >= due && !host.isClogged) {
        due = Math.max(now - 2 * MS, due) + MS;
        at = at.map((v, k) => {
          const next = v + way[k] * whole(STEP + 1);
          if (next > HIGH || next < LOW) way[k] = -way[k];
          return Math.min(HIGH, Math.max(LOW, next));
        });
        const last = sent.at(-1);
        sent.push(at);
        host.point(
          MS,
          at.flatMap((v, k): [number, number][] => (!last || last[k] !== v ? [[k, v]] : [])),
        );
        host.pump(now);
      }
    } else if (phase === 'halt' && host.isSettled) {
      // Whatever the line did to it, the board stands.
      if (board.isMoving) wrong('moves after a halt that it has answered');
      phase = 'wake';
      sent = [];
    }
  }
  soaked.again = host.again;
  return soaked;
}
