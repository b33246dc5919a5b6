import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { answers, heard, meant, tell, where, type Said } from './board.testkit';
import {
  channelOf,
  encodeBoard,
  encodeHost,
  FARTHEST,
  hereMessages,
  HostLine,
  hostReader,
  LEAST_BUFFER,
  MAX_LINE,
  pointLines,
  SimulatedBoard,
  wakeWishes,
  type BoardMessage,
  type BoardTraits,
  type HostMessage,
  type PointLine,
} from './index';
import { wholePoints } from './board.testkit';

const motor = { kind: 'stepper' as const, maxHz: 1e9 };
const wired = (channels: number, traits: BoardTraits = {}): SimulatedBoard =>
  new SimulatedBoard(
    channels,
    Array.from({ length: channels }, (_, channel) => ({ channel, motor, restsAt: 1500 })),
    traits,
  );
/** One that is awake, its channels between 1000 and 2000 and no faster than `perS`. */
const awake = (channels = 2, perS = 50_000): SimulatedBoard => {
  const board = wired(channels);
  for (let channel = 0; channel < channels; channel++)
    tell(board, { word: 'bounds', channel, low: 1000, high: 2000, perS });
  tell(board, { word: 'wake', values: Array.from({ length: channels }, (_, k) => [k, 1500] as const) });
  return board;
};
const point = (seq: number, values: [number, number][], ms = 20): Said => ({ word: 'point', seq, ms, values });
const far = fc.integer({ min: -FARTHEST, max: FARTHEST });
const channels = fc.uniqueArray(fc.integer({ min: 0, max: channelOf(12, 255) }), { maxLength: 140 });
const values = channels.chain((list) => fc.tuple(...list.map((channel) => fc.tuple(fc.constant(channel), far))));

describe('lines that are spread', () => {
  it('fit whatever room there is, and put together are the point', () => {
    fc.assert(
      fc.property(values, fc.nat(FARTHEST), fc.integer({ min: LEAST_BUFFER, max: MAX_LINE }), (list, seq, most) => {
        const lines = pointLines(seq, 100, list, most);
        for (const line of lines) expect(encodeHost(line).length).toBeLessThanOrEqual(most);
        expect(wholePoints(lines).map(({ values: got }) => got)).toEqual([list]);
        expect(lines.map((line) => line.goesOn)).toEqual(lines.map((_, k) => k < lines.length - 1));
        // As few as hold it: what begins a line had no room in the one before.
        for (const [k, line] of lines.slice(1).entries()) {
          const more = { ...lines[k], values: [...lines[k].values, line.values[0]], goesOn: true };
          expect(encodeHost(more).length).toBeGreaterThan(most);
        }
        const reader = hostReader();
        expect(lines.flatMap((line) => reader.push(encodeHost(line)))).toEqual(lines);
      }),
    );
  });
  it('of a wake together switch on all, and none of a report is too long', () => {
    fc.assert(
      fc.property(values, fc.integer({ min: LEAST_BUFFER, max: MAX_LINE }), (list, most) => {
        const wishes = wakeWishes(list, most);
        expect(wishes.flatMap((wish) => (wish.word === 'wake' ? wish.values : []))).toEqual(list);
        for (const wish of wishes)
          expect(encodeHost({ ...wish, number: 999_999_999 }).length).toBeLessThanOrEqual(most);
        const rows = list.map(([channel, v], k) => [channel, v, k % 3 ? -v : null] as const);
        const all = hereMessages(FARTHEST, 'awake', rows);
        for (const message of all) expect(encodeBoard(message).length).toBeLessThanOrEqual(MAX_LINE);
        const here = all.flatMap((message) => (message.word === 'here' ? [message] : []));
        expect(here.flatMap(({ commanded }) => commanded)).toEqual(list);
        expect(here.flatMap(({ measured }) => measured)).toEqual(
          rows.flatMap(([channel, , v]) => (v === null ? [] : [[channel, v]])),
        );
      }),
    );
  });
  it('are never longer than the least of buffers where they cannot be spread', () => {
    const longest: HostMessage = {
      ...{ word: 'bounds', number: 99_999, channel: channelOf(12, 255) },
      ...{ low: -FARTHEST, high: -FARTHEST, perS: FARTHEST, still: -FARTHEST },
    };
    expect(encodeHost(longest).length).toBeLessThanOrEqual(LEAST_BUFFER);
  });
  it('count when the last has come: not before, not without one of them, and not in another order', () => {
    const line = (word: 'point' | 'more', part: number, channel: number, goesOn: boolean, seq = 0): PointLine =>
      word === 'point'
        ? { word, seq, ms: 20, values: [[channel, 1600]], goesOn }
        : { word, seq, part, values: [[channel, 1600]], goesOn };
    const first = line('point', 0, 0, true);
    const second = line('more', 1, 1, true);
    const third = line('more', 2, 2, false);
    const board = awake(3);
    expect(answers(board, first, second)).toEqual([
      { word: 'more', seq: 0 },
      { word: 'more', seq: 0 },
    ]);
    board.advance(30_000);
    expect(board.commanded).toEqual([1500, 1500, 1500]);
    expect(answers(board, third)).toEqual([{ word: 'took', seq: 0, queuedMs: 20 }]);
    board.advance(20_000);
    expect(board.commanded).toEqual([1600, 1600, 1600]);

    const gap: BoardMessage = { word: 'refused', what: 'point', number: 0, why: 'gap' };
    for (const [lines, refusals] of [
      [[first, third], 1],
      [[second], 1],
      [[third], 1],
      [[first, second, second], 1],
      [[first, third, second], 2],
      [[first, line('more', 1, 1, true, 1)], 1],
      [[first, line('point', 0, 0, true, 1), second], 2],
    ] as const) {
      const other = awake(3);
      expect(answers(other, ...lines).filter(({ word }) => word === 'refused')).toEqual(
        Array.from({ length: refusals }, () => gap),
      );
      // It waits for the whole of it, from the first line on, and takes it then.
      other.advance(50_000);
      expect(other.commanded).toEqual([1500, 1500, 1500]);
      expect(answers(other, first, second, third).at(-1)).toEqual({ word: 'took', seq: 0, queuedMs: 20 });
    }
  });
  it('are forgotten on a halt', () => {
    const board = awake(3);
    answers(board, { word: 'point', seq: 0, ms: 20, values: [[0, 1600]], goesOn: true });
    tell(board, { word: 'halt' }, { word: 'wake', values: [[0, 1500]] });
    expect(answers(board, { word: 'more', seq: 0, part: 1, values: [[1, 1600]], goesOn: false })).toMatchObject([
      { word: 'refused', number: 0, why: 'gap' },
    ]);
  });
});

describe('points in their numbers', () => {
  it('are refused behind a gap, with the number that is wanted, and the board plays on', () => {
    const board = awake();
    tell(board, point(0, [[0, 1600]], 60));
    expect(answers(board, meant(point(2, [[0, 1700]])))).toEqual([
      { word: 'refused', what: 'point', number: 1, why: 'gap' },
    ]);
    board.write(Uint8Array.from('point 1 20 0:16', (c) => c.charCodeAt(0)));
    board.write(Uint8Array.of(10));
    expect(heard(board)).toEqual([{ word: 'refused', what: 'line', number: 1, why: 'garbled' }]);
    board.advance(60_000);
    expect(board.commanded).toEqual([1600, 1500]);
    expect(tell(board, point(1, [[0, 1650]]))).toEqual([{ word: 'took', seq: 1, queuedMs: 20 }]);
  });
  it('are answered and not done twice when they come again', () => {
    const board = awake();
    tell(board, point(0, [[0, 1600]]), point(1, [[0, 1650]]));
    expect(tell(board, point(0, [[0, 1900]]), point(1, [[1, 1100]]))).toEqual([
      { word: 'took', seq: 0, queuedMs: 40 },
      { word: 'took', seq: 1, queuedMs: 40 },
    ]);
    board.advance(100_000);
    expect(board.commanded).toEqual([1650, 1500]);
  });
  it('name only what changes: the other channels stay', () => {
    const board = awake();
    tell(board, point(0, [[0, 1600]]), point(1, []), point(2, [[1, 1400]]));
    board.advance(60_000);
    expect(board.commanded).toEqual([1600, 1400]);
  });
});

describe('what a board holds by itself', () => {
  it('no channel changes faster than it may: a point that asks more is refused whole, and ends the motion', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 60_000 }),
        fc.integer({ min: 1, max: 100 }),
        fc.nat(500),
        (perS, ms, way) => {
          const board = awake(2, perS);
          const [answer] = tell(
            board,
            point(
              0,
              [
                [0, 1500 + way],
                [1, 1501],
              ],
              ms,
            ),
          );
          // One more is what rounding makes of both ends.
          const may = way <= (perS * ms) / 1000 + 1;
          expect(answer).toEqual(
            may ? { word: 'took', seq: 0, queuedMs: ms } : { word: 'refused', what: 'point', why: 'speed' },
          );
          expect(where(board).state).toBe(may ? 'awake' : 'halted');
          board.advance(200_000);
          expect(board.commanded).toEqual(may ? [1500 + way, 1501] : [1500, 1500]);
        },
      ),
    );
  });
  it('looks at speed from what is queued, not from where it is', () => {
    const board = awake(1, 1000);
    expect(tell(board, point(0, [[0, 1520]]), point(1, [[0, 1541]]), point(2, [[0, 1519]]))).toEqual([
      { word: 'took', seq: 0, queuedMs: 20 },
      { word: 'took', seq: 1, queuedMs: 40 },
      { word: 'refused', what: 'point', why: 'speed' },
    ]);
  });
  it('a point of a millisecond across the range is refused, and a board is told no speed of nothing', () => {
    const board = awake(1, 50_000);
    expect(tell(board, point(0, [[0, 2000]], 1))).toEqual([{ word: 'refused', what: 'point', why: 'speed' }]);
    expect(tell(wired(1), { word: 'bounds', channel: 0, low: 1000, high: 2000, perS: 0 })).toEqual([
      { word: 'refused', what: 'bounds', why: 'bounds' },
    ]);
  });
  it('the same channel twice in a point or a wake is refused', () => {
    const twice: [number, number][] = [
      [0, 1510],
      [0, 1490],
    ];
    expect(tell(awake(), point(0, twice))).toEqual([{ word: 'refused', what: 'point', why: 'twice' }]);
    expect(tell(awake(), { word: 'wake', values: twice })).toEqual([{ word: 'refused', what: 'wake', why: 'twice' }]);
    // In two lines of one point as well.
    const board = awake();
    const last = answers(
      board,
      { word: 'point', seq: 0, ms: 20, values: [[0, 1510]], goesOn: true },
      { word: 'more', seq: 0, part: 1, values: [[0, 1490]], goesOn: false },
    ).at(-1);
    expect(last).toEqual({ word: 'refused', what: 'point', number: 0, why: 'twice' });
  });
  it('does an order once, none that is older than one before, and a halt always', () => {
    const board = awake();
    const order = (number: number): HostMessage => ({ word: 'report', number, everyMs: 0 });
    const begun: HostMessage = { word: 'hello', number: 40 };
    expect(answers(board, begun, order(41), order(41), order(40), order(39), order(50))).toMatchObject([
      { word: 'board' },
      { word: 'done', number: 41 },
      { word: 'refused', number: 41, why: 'stale' },
      { word: 'refused', number: 40, why: 'stale' },
      { word: 'refused', number: 39, why: 'stale' },
      { word: 'done', number: 50 },
    ]);
    expect(answers(board, { word: 'halt', number: 3 })).toEqual([{ word: 'done', what: 'halt', number: 3 }]);
    expect(where(board).state).toBe('halted');
    // A late copy of what switched it on does not do so again.
    const wake: HostMessage = { word: 'wake', number: 45, values: [[0, 1500]] };
    expect(answers(board, wake)).toEqual([{ word: 'refused', what: 'wake', number: 45, why: 'stale' }]);
    expect(where(board).state).toBe('halted');
  });
  it('loses what comes while its buffer is full, and nothing while it is not', () => {
    const board = wired(1, { buffer: 64, loopMs: 5 });
    const hello = encodeHost({ word: 'hello', number: 1 });
    const fit = Math.floor(64 / hello.length);
    for (let k = 0; k < fit; k++) board.write(hello);
    expect(board.overrun).toBe(0);
    board.write(hello);
    expect(board.overrun).toBe(hello.length * (fit + 1) - 64);
    expect(heard(board)).toEqual([]);
    board.advance(5000);
    expect(heard(board).filter(({ word }) => word === 'board')).toHaveLength(fit);
  });
});

describe('the computer’s end of a line', () => {
  /** It and a board, `delay` ms apart; what is lost on the way there by `loses`. */
  function apart(board: SimulatedBoard, delay: number, loses: (bytes: Uint8Array) => boolean = () => false) {
    const [there, back]: { at: number; bytes: Uint8Array }[][] = [[], []];
    let now = 0;
    const heardOf: BoardMessage[] = [];
    const sent: HostMessage[] = [];
    const reader = hostReader();
    const line = new HostLine((bytes) => {
      for (const message of reader.push(bytes)) if (message) sent.push(message);
      if (!loses(bytes)) there.push({ at: now + delay, bytes });
    }, 0);
    const to = (ms: number, each: () => void = () => undefined): void => {
      for (const end = now + ms; now < end;) {
        now++;
        board.advance(1000);
        while (there.length && there[0].at <= now) board.write(there.shift()!.bytes);
        for (const bytes of board.read()) back.push({ at: now + delay, bytes });
        while (back.length && back[0].at <= now) heardOf.push(...line.hear(back.shift()!.bytes, now));
        each();
        line.pump(now);
      }
    };
    return { line, to, heardOf, sent, now: () => now };
  }
  const greet = (d: ReturnType<typeof apart>, count: number): void => {
    d.line.ask({ word: 'hello' });
    for (let channel = 0; channel < count; channel++)
      d.line.ask({ word: 'bounds', channel, low: 1000, high: 2000, perS: 50_000 });
    d.line.ask({ word: 'wake', values: Array.from({ length: count }, (_, k) => [k, 1500] as const) });
    d.to(20_000);
  };

  it('never has more under way than the board has room for, down to 64 bytes read every few ms', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: LEAST_BUFFER, max: 300 }),
        fc.integer({ min: 0, max: 8 }),
        fc.integer({ min: 0, max: 6 }),
        fc.integer({ min: 1, max: 14 }),
        (buffer, loopMs, delay, count) => {
          const board = wired(count, { buffer, loopMs });
          const d = apart(board, delay);
          greet(d, count);
          expect(d.line.isSettled).toBe(true);
          for (let seq = 0; seq < 20; seq++) {
            d.line.point(
              20,
              Array.from({ length: count }, (_, k) => [k, 1500 + seq * (k + 1)] as const),
            );
            d.to(40);
          }
          d.to(3000);
          expect(board.overrun).toBe(0);
          expect(board.commanded).toEqual(Array.from({ length: count }, (_, k) => 1500 + 19 * (k + 1)));
          for (const message of d.sent)
            expect(encodeHost(message).length).toBeLessThanOrEqual(Math.min(MAX_LINE, buffer));
        },
      ),
      { numRuns: 25 },
    );
  });
  it('sends again from the gap within the time of the queue, and the motion does not stop for it', () => {
    let count = 0;
    // Every fifth line is lost.
    const d = apart(wired(1), 2, () => ++count % 5 === 0);
    greet(d, 1);
    let dry = 0;
    let seq = 0;
    const board = d.heardOf.length;
    for (let k = 0; k < 3; k++) d.line.point(20, [[0, 1500 + ++seq]]);
    for (let k = 0; k < 200; k++) {
      d.line.point(20, [[0, 1500 + (++seq % 100)]]);
      d.to(20);
    }
    for (const message of d.heardOf.slice(board)) if (message.word === 'took' && message.queuedMs <= 20) dry++;
    expect(d.line.again).toBeGreaterThan(20);
    // The first comes into an empty queue.
    expect(dry).toBeLessThanOrEqual(1);
    expect(d.line.stuckMs(d.now())).toBeLessThan(100);
  });
  it('halts at once, before all that waits, until the board has said so, and switches nothing on after it', () => {
    let lost = 0;
    const board = wired(2);
    const d = apart(board, 3, (bytes) => String.fromCharCode(...bytes).startsWith('halt') && ++lost <= 4);
    greet(d, 2);
    for (let k = 0; k < 5; k++) d.line.point(20, [[0, 1500 + 10 * k]]);
    d.line.ask({ word: 'wake', values: [[1, 1500]] });
    d.line.ask({ word: 'report', everyMs: 0 });
    const from = d.sent.length;
    d.line.halt(d.now());
    expect(d.sent[from]).toMatchObject({ word: 'halt' });
    d.to(400);
    expect(d.sent.slice(from).map(({ word }) => word)).toEqual(expect.arrayContaining(['halt', 'report']));
    expect(d.sent.slice(from).filter(({ word }) => word === 'wake' || word === 'point')).toEqual([]);
    expect(d.sent.filter(({ word }) => word === 'halt')).toHaveLength(5);
    expect(d.line.isSettled).toBe(true);
    expect(where(board).state).toBe('halted');
  });
  it('leaves a board with its motors off, whatever it still waits for', () => {
    const board = wired(1);
    const d = apart(board, 1);
    greet(d, 1);
    d.line.point(20, [[0, 1510]]);
    d.line.ask({ word: 'report', everyMs: 20 });
    d.line.leave(d.now());
    expect(d.sent.slice(-2).map(({ word }) => word)).toEqual(['halt', 'sleep']);
    d.to(50);
    expect(where(board).state).toBe('asleep');
  });
  it('knows that a board takes nothing more, and says of a wrong point once that it was refused', () => {
    let deaf = false;
    const d = apart(wired(1), 1, () => deaf);
    greet(d, 1);
    deaf = true;
    d.line.point(20, [[0, 1510]]);
    d.to(700);
    expect(d.line.stuckMs(d.now())).toBeGreaterThan(600);
    for (let k = 0; k < 9; k++) d.line.point(20, []);
    expect(d.line.isClogged).toBe(true);
    deaf = false;
    d.to(500);
    expect([d.line.isClogged, d.line.stuckMs(d.now())]).toEqual([false, 0]);
    const before = d.heardOf.length;
    d.line.point(20, [[0, 2001]]);
    d.line.point(20, [[0, 1500]]);
    d.to(500);
    const said = d.heardOf.slice(before).filter(({ word }) => word !== 'here');
    expect(said).toMatchObject([{ word: 'refused', what: 'point', why: 'bounds' }]);
  });
});
