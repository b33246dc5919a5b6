/**
 * Routines as records that a board walks through: moves whose motion it works out by itself, what it switches, and where to go on by loops,
 * inputs and counters. Numbers are of variable length (as tables have them); places in the records three bytes, lowest first.
 *
 *     END               the routine is done               VAIN              an input did not come, and it stops without
 *     MOVE duration law [ramps] motors pieces {[to] {value…}}              durations in 256ths of a millisecond
 *     SWITCH pin level                                    POWER on motors
 *     SET counter value, ADD counter value                LOOP loop laps
 *     GO place                                            READ signal place-if-off
 *     AWAIT signal level ms place-if-in-vain              COMPARE counter how value place-if-not
 *     LAP loop place-if-again                             LEAD duration {value…}
 *     SEEK until [signal level] if-on ms motors {motor speed…}               COUNT motor value
 */
import { isSpin, type CommandMap } from '../actuators';
import { hold, shareOf } from '../motion';
import type { MotionChoice } from '../rig';
import type { Flow, FlowAct, FlowNext, FlowSwitch } from '../routine';
import type { Described } from './described';
import { homingOf, type HomingRecord } from './homing';
import { putSigned, putVar } from '../commands';
import type { Playing } from './table';
import { piecesOf, SHARES, type Piece, type Pieces } from './pieces';

// prettier-ignore
export const OPS = [
  'END', 'VAIN', 'MOVE', 'SWITCH', 'POWER', 'SET', 'ADD', 'LOOP', 'GO', 'READ', 'AWAIT', 'COMPARE', 'LAP', 'LEAD', 'SEEK', 'COUNT',
] as const;
type Op = (typeof OPS)[number];
export const LAWS = ['even', 'at-once', 'minimum-jerk', 'ramps'] as const;
export const COMPARES = ['below', 'equal', 'above'] as const;

export interface StepsRoutine {
  readonly name: string;
  /** Its first record. */
  readonly place: number;
  /** What motors are told where it begins. */
  readonly first: readonly number[];
}
/** What the step player holds. */
export interface Steps extends Playing {
  readonly routines: readonly StepsRoutine[];
  readonly bytes: Uint8Array;
  /** Where homing begins; null: there is none, and why. */
  readonly homing: number | null;
  readonly noHoming: string;
  readonly loops: number;
  readonly counters: readonly string[];
  /** A low pass on the board: its loop (ms) and which part of 65536 it takes of what is left each loop; null: planned motion. */
  readonly lowPass: { readonly loopMs: number; readonly part: number } | null;
}
export interface StepsChoice extends Playing {
  readonly motion: MotionChoice;
}
/** Signals that routines ask and that are on no pin of this board, counters that are no whole numbers, or more of something than a byte tells apart. */
export interface NoSteps {
  readonly many?: 'loops' | 'counters';
  readonly elsewhere?: string;
  readonly fraction?: string;
}

/** What a byte tells apart. */
const MOST_NAMED = 255;
/** 256ths of a millisecond. */
const fine = (seconds: number): number => Math.round(seconds * 256_000);
const put3 = (bytes: number[], value: number): void => void bytes.push(value & 255, (value >> 8) & 255, value >> 16);

/** What a board walks through for some routines, the first of which it begins with. */
export function stepsOf(
  described: Described,
  routines: readonly { readonly name: string; readonly flow: Flow }[],
  { motion, ...choice }: StepsChoice,
): Steps | NoSteps {
  const writer = new Writer(described, motion.school !== 'planned');
  const maps = described.motors.map(({ map }) => map);
  const written = routines.map(({ name, flow }): StepsRoutine => ({
    name,
    place: writer.write(flow),
    first: piecesOf(maps, described.mechanism, hold(flow.start, 0)).from,
  }));
  const homes = homingOf(described);
  const homing = 'records' in homes ? writer.home(homes.records) : null;
  const loops = Math.max(0, ...routines.map(({ flow }) => flow.loops));
  if (loops > MOST_NAMED || writer.counters.length > MOST_NAMED)
    writer.refused ??= { many: loops > MOST_NAMED ? 'loops' : 'counters' };
  if (writer.refused) return writer.refused;
  const part = Math.round(shareOf(motion.timeConstantS, motion.loopMs / 1000) * 65_536);
  return {
    ...choice,
    homing,
    noHoming: 'why' in homes ? homes.why : '',
    routines: written,
    bytes: Uint8Array.from(writer.bytes),
    loops,
    counters: writer.counters,
    lowPass: motion.school === 'low-pass' ? { loopMs: motion.loopMs, part } : null,
  };
}

class Writer {
  readonly bytes: number[] = [];
  readonly counters: string[] = [];
  refused: NoSteps | null = null;

  constructor(
    private readonly described: Described,
    /** Motors are told the ends of moves at once. */
    private readonly onlyEnds: boolean,
  ) {}

  /** Writes a graph; the place where it begins. */
  write(flow: Flow): number {
    const begin = this.bytes.length;
    const places = new Map<number, number>();
    const open: { readonly at: number; readonly node: number }[] = [];
    const waiting = [0];
    const later = (node: number): void => {
      open.push({ at: this.bytes.length, node });
      put3(this.bytes, 0);
      waiting.push(node);
    };
    for (let first = waiting.pop(); first !== undefined; first = waiting.pop()) {
      if (places.has(first)) continue;
      // On from node to node until one stands already.
      for (let node: number | null = first; node !== null;) {
        if (places.has(node)) {
          this.op('GO');
          later(node);
          break;
        }
        places.set(node, this.bytes.length);
        const { acts, next }: Flow['nodes'][number] = flow.nodes[node];
        for (const act of acts) this.act(act);
        node = this.next(next, later);
      }
    }
    for (const { at, node } of open) {
      const place: number[] = [];
      put3(place, places.get(node)!);
      place.forEach((byte, k) => (this.bytes[at + k] = byte));
    }
    return begin;
  }

  /** Writes homing; the place where it begins. */
  home(records: readonly HomingRecord[]): number {
    const begin = this.bytes.length;
    for (const record of records) this.homes(record);
    this.op('END');
    return begin;
  }
  private homes(record: HomingRecord): void {
    const { bytes } = this;
    switch (record.kind) {
      case 'count':
        this.op('COUNT');
        bytes.push(record.motor);
        return putSigned(bytes, record.value);
      case 'lead':
        this.op('LEAD');
        putVar(bytes, fine(record.seconds));
        return record.values.forEach((value) => putSigned(bytes, value));
      case 'seek':
        this.op('SEEK');
        bytes.push(Number(record.until !== null));
        if (record.until) bytes.push(record.until.signal, Number(record.until.on));
        bytes.push(Number(record.ifOn));
        putVar(bytes, record.ms);
        bytes.push(record.speeds.length);
        for (const { motor, perS } of record.speeds) {
          bytes.push(motor);
          putSigned(bytes, perS);
        }
    }
  }

  /** Where to go on: the node that comes right after, if any; `later` says another one's place. */
  private next(next: FlowNext, later: (node: number) => void): number | null {
    const { bytes } = this;
    switch (next.kind) {
      case 'go':
        return next.to;
      case 'end':
        this.op(next.inVain ? 'VAIN' : 'END');
        return null;
      case 'read':
        this.op('READ');
        bytes.push(this.signal(next.signal));
        later(next.off);
        return next.on;
      case 'await':
        this.op('AWAIT');
        bytes.push(this.signal(next.signal), Number(next.is));
        putVar(bytes, next.atMostS === null ? 0 : Math.max(1, Math.round(next.atMostS * 1000)));
        later(next.inVain);
        return next.met;
      case 'compare':
        this.op('COMPARE');
        bytes.push(this.counter(next.counter), COMPARES.indexOf(next.is));
        putSigned(bytes, this.whole(next.value, next.counter));
        later(next.no);
        return next.yes;
      case 'lap':
        this.op('LAP');
        bytes.push(next.loop);
        later(next.again);
        return next.done;
    }
  }

  private op(op: Op): void {
    this.bytes.push(OPS.indexOf(op));
  }

  private act(act: FlowAct): void {
    switch (act.kind) {
      case 'output':
      case 'power':
        return this.switch(act);
      case 'counter': {
        const isSet = 'set' in act.change;
        this.op(isSet ? 'SET' : 'ADD');
        this.bytes.push(this.counter(act.counter));
        putSigned(this.bytes, this.whole('set' in act.change ? act.change.set : act.change.add, act.counter));
        return;
      }
      case 'loop':
        this.op('LOOP');
        this.bytes.push(act.loop);
        putVar(this.bytes, act.times);
        return;
      case 'block': {
        const { motors, mechanism } = this.described;
        const maps = motors.map(({ map }) => map);
        const whole = piecesOf(maps, mechanism, act.block);
        let rest = this.onlyEnds ? ends(whole, maps) : whole;
        let gone = 0;
        for (const { atS, ...switched } of act.during) {
          const [before, after] = split(rest, atS - gone);
          this.move(before);
          this.switch(switched);
          [rest, gone] = [after, atS];
        }
        this.move(rest);
      }
    }
  }

  private switch(act: FlowSwitch): void {
    const { signals, motors, mechanism } = this.described;
    if (act.kind === 'output') {
      const signal = signals.find(({ id }) => id === act.signal);
      // What hangs on another board is that one's.
      if (!signal) return;
      this.op('SWITCH');
      this.bytes.push(signal.pin, act.on ? 1 - signal.level : signal.level);
      return;
    }
    const slots = new Set(act.joints.map((id) => mechanism.slotOf.get(id)));
    this.op('POWER');
    this.bytes.push(Number(act.on));
    this.mask(motors.map(({ map }) => map.slots.some((slot) => slots.has(slot))));
  }
  private mask(motors: readonly boolean[]): void {
    for (let k = 0; k < motors.length; k += 8)
      this.bytes.push(motors.slice(k, k + 8).reduce((bits, on, bit) => bits | (Number(on) << bit), 0));
  }

  private move({ durationS, law, from, pieces }: Pieces): void {
    if (!(durationS > 0)) return;
    const { bytes } = this;
    const moves = from.map((value, k) => pieces.some(({ values }) => values[k] !== value));
    this.op('MOVE');
    putVar(bytes, fine(durationS));
    bytes.push(LAWS.indexOf(law.kind));
    if (law.kind === 'ramps')
      for (const { seconds, jerkS } of [law.up, law.down])
        for (const time of [seconds, jerkS]) putVar(bytes, fine(time));
    this.mask(moves);
    const moving = moves.some(Boolean);
    putVar(bytes, moving ? pieces.length : 0);
    if (!moving) return;
    let before: Piece = { to: 0, values: from };
    pieces.forEach((piece, n) => {
      if (n < pieces.length - 1) putVar(bytes, piece.to - before.to);
      moves.forEach((is, k) => is && putSigned(bytes, piece.values[k] - before.values[k]));
      before = piece;
    });
  }

  private signal(id: string): number {
    const place = this.described.signals.findIndex((signal) => signal.id === id);
    if (place < 0) this.refused ??= { elsewhere: id };
    return Math.max(0, place);
  }
  private counter(name: string): number {
    if (!this.counters.includes(name)) this.counters.push(name);
    return this.counters.indexOf(name);
  }
  private whole(value: number, counter: string): number {
    if (!Number.isInteger(value)) this.refused ??= { fraction: counter };
    return Math.round(value);
  }
}

/** Only where it ends, told at once; what is sent speeds keeps to its way. */
function ends(pieces: Pieces, maps: readonly CommandMap[]): Pieces {
  const { from, pieces: all } = pieces;
  const isPaced = maps.some((map, k) => isSpin(map) && all.some(({ values }) => values[k] !== from[k]));
  return isPaced
    ? pieces
    : { ...pieces, law: { kind: 'at-once' }, pieces: [{ to: SHARES, values: all.at(-1)!.values }] };
}

/** What is gone along evenly, cut in two after `atS`. */
function split({ durationS, law, from, pieces }: Pieces, atS: number): [Pieces, Pieces] {
  const cut = Math.min(SHARES, Math.max(0, Math.round((atS / durationS) * SHARES)));
  const k = pieces.findIndex(({ to }) => to >= cut);
  const before: Piece = pieces[k - 1] ?? { to: 0, values: from };
  const part = pieces[k].to > before.to ? (cut - before.to) / (pieces[k].to - before.to) : 1;
  const values = before.values.map((value, m) => Math.round(value + (pieces[k].values[m] - value) * part));
  const scaled = (list: readonly Piece[], low: number, high: number): Piece[] =>
    list.map((piece) => ({
      ...piece,
      to: high > low ? Math.round(((piece.to - low) / (high - low)) * SHARES) : SHARES,
    }));
  return [
    { durationS: atS, law, from, pieces: scaled([...pieces.slice(0, k), { to: cut, values }], 0, cut) },
    { durationS: durationS - atS, law, from: values, pieces: scaled(pieces.slice(k), cut, SHARES) },
  ];
}
