import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  boardReader,
  boardStates,
  channelOf,
  encodeBoard,
  encodeHost,
  hostReader,
  refusals,
  SimulatedBoard,
  SimulatedSpin,
  simulatedMotor,
  type BoardMessage,
  type HostMessage,
  type SimulatedMotor,
} from './index';
import { tell, where, type Heard } from './board.testkit';

const whole = fc.integer({ min: -99999, max: 99999 });
const natural = fc.nat(99999);
const channel = fc.nat(channelOf(99, 255));
const values = fc.array(fc.tuple(channel, whole), { maxLength: 4 });
/** A line holds so many twice, however long. */
const fewer = fc.array(fc.tuple(channel, whole), { maxLength: 3 });
const hostMessage: fc.Arbitrary<HostMessage> = fc.oneof(
  fc.record({ word: fc.constantFrom('hello' as const, 'sleep' as const, 'halt' as const), number: natural }),
  fc.record({
    word: fc.constant('bounds' as const),
    number: natural,
    channel,
    low: whole,
    high: whole,
    perS: natural,
  }),
  fc.record({
    ...{ word: fc.constant('bounds' as const), number: natural, channel, low: whole, high: whole },
    ...{ perS: natural, still: whole },
  }),
  fc.record({ word: fc.constant('wake' as const), number: natural, values }),
  fc.record({ word: fc.constant('point' as const), seq: natural, ms: natural, values, goesOn: fc.boolean() }),
  fc.record({ word: fc.constant('more' as const), seq: natural, part: natural, values, goesOn: fc.boolean() }),
  fc.record({ word: fc.constant('report' as const), number: natural, everyMs: natural }),
  fc.record({
    ...{ word: fc.constant('sensor' as const), number: natural, id: natural, channel },
    ...{ address: fc.option(fc.nat(127)), port: fc.option(fc.nat(15)) },
  }),
  fc.record({ word: fc.constant('watch' as const), number: natural, ms: natural, offMs: fc.option(natural) }),
);
const boardMessage: fc.Arbitrary<BoardMessage> = fc.oneof(
  fc.record({
    ...{ word: fc.constant('board' as const), version: natural, kind: fc.constant('servo') },
    ...{ channels: natural, buffer: natural },
    made: fc.option(fc.record({ revision: natural, fingerprint: fc.stringMatching(/^[0-9a-f]{8}$/) })),
  }),
  fc.record({ word: fc.constant('done' as const), what: fc.constantFrom('wake' as const), number: natural }),
  fc.record({ word: fc.constant('took' as const), seq: natural, queuedMs: natural }),
  fc.record({ word: fc.constant('more' as const), seq: natural }),
  fc.record({ word: fc.constant('sensed' as const), ms: natural, values }),
  fc.record({
    ...{ word: fc.constant('refused' as const), what: fc.constant('point'), number: natural },
    why: fc.constantFrom(...refusals),
  }),
  fc.record({
    word: fc.constant('here' as const),
    ms: natural,
    state: fc.constantFrom(...boardStates),
    commanded: fewer,
    measured: fewer,
  }),
);

describe('the line protocol', () => {
  it('reads back every message it writes, however the bytes are cut', () => {
    fc.assert(
      fc.property(
        fc.array(hostMessage, { minLength: 1, maxLength: 6 }),
        fc.integer({ min: 1, max: 9 }),
        (messages, cut) => {
          const bytes = messages.flatMap((m) => [...encodeHost(m)]);
          const reader = hostReader();
          const read: unknown[] = [];
          for (let i = 0; i < bytes.length; i += cut)
            read.push(...reader.push(Uint8Array.from(bytes.slice(i, i + cut))));
          expect(read).toEqual(messages);
        },
      ),
    );
    fc.assert(
      fc.property(boardMessage, (message) => {
        expect(boardReader().push(encodeBoard(message))).toEqual([message]);
      }),
    );
  });
  it('never takes a line with one changed byte for another message, and reads on after it', () => {
    fc.assert(
      fc.property(hostMessage, fc.nat(), fc.integer({ min: 1, max: 255 }), (message, at, change) => {
        const bytes = encodeHost(message);
        const i = at % (bytes.length - 1);
        bytes[i] ^= change;
        const reader = hostReader();
        for (const read of reader.push(bytes)) if (read) expect(read).toEqual(message);
        const hello: HostMessage = { word: 'hello', number: 7 };
        expect(reader.push(encodeHost(hello)).at(-1)).toEqual(hello);
      }),
    );
  });
  it('survives any bytes', () => {
    fc.assert(fc.property(fc.uint8Array({ maxLength: 2000 }), (bytes) => void boardReader().push(bytes)));
  });
});

const servo = { kind: 'servo' as const, speedPerS: 2400, deadBand: 4, min: 500, max: 2500 };
const newBoard = (): SimulatedBoard =>
  new SimulatedBoard(16, [
    { channel: 0, motor: servo, restsAt: 1400 },
    { channel: 3, motor: servo, restsAt: 1500 },
  ]);
const ready = (): SimulatedBoard => {
  const board = newBoard();
  tell(
    board,
    { word: 'bounds', channel: 0, low: 1000, high: 2000 },
    { word: 'bounds', channel: 3, low: 1000, high: 2000 },
  );
  tell(board, {
    word: 'wake',
    values: [
      [0, 1400],
      [3, 1500],
    ],
  });
  return board;
};
describe('a channel that is sent speeds', () => {
  const spinning = (): SimulatedBoard => {
    const board = new SimulatedBoard(4, [
      { channel: 2, motor: { kind: 'spin', stopUs: 1500, degPerSPerUs: 0.9 }, restsAt: 1500 },
      { channel: 3, motor: servo, restsAt: 1500 },
    ]);
    tell(
      board,
      { word: 'bounds', channel: 2, low: 1300, high: 1700, still: 1500 },
      { word: 'bounds', channel: 3, low: 1000, high: 2000 },
    );
    tell(board, {
      word: 'wake',
      values: [
        [2, 1500],
        [3, 1500],
      ],
    });
    return board;
  };
  const turn = (board: SimulatedBoard, seq: number): Heard[] =>
    tell(board, {
      word: 'point',
      seq,
      ms: 40,
      values: [
        [2, 1600],
        [3, 1600],
      ],
    });
  const told = (board: SimulatedBoard): Record<number, number> => Object.fromEntries(where(board).commanded);

  it('stands as soon as its queue has run dry, while a place is held', () => {
    const board = spinning();
    turn(board, 0);
    board.advance(39_000);
    expect(told(board)[2]).toBeGreaterThan(1590);
    board.advance(3_000);
    expect(told(board)).toEqual({ 2: 1500, 3: 1600 });
    // And goes on with the next point.
    turn(board, 1);
    board.advance(38_000);
    expect(told(board)[2]).toBeGreaterThan(1590);
  });
  it('stands on a halt and after a refused point', () => {
    const halted = spinning();
    turn(halted, 0);
    halted.advance(30_000);
    tell(halted, { word: 'halt' });
    expect(told(halted)[2]).toBe(1500);
    expect(told(halted)[3]).toBeGreaterThan(1550);
    const refused = spinning();
    turn(refused, 0);
    refused.advance(30_000);
    expect(tell(refused, { word: 'point', seq: 1, ms: 20, values: [[2, 1800]] })).toEqual([
      { word: 'refused', what: 'point', why: 'bounds' },
    ]);
    expect(told(refused)[2]).toBe(1500);
  });
  it('reads nothing back, and takes no stop outside its bounds', () => {
    const board = spinning();
    expect(where(board).measured.map(([channel]) => channel)).toEqual([3]);
    expect(tell(board, { word: 'bounds', channel: 2, low: 1300, high: 1700, still: 1750 })).toEqual([
      { word: 'refused', what: 'bounds', why: 'bounds' },
    ]);
  });
  it('turns by what its pulse asks, and not at all once it is off', () => {
    const motor = new SimulatedSpin({ stopUs: 1500, degPerSPerUs: 0.9 });
    motor.command(1600);
    for (let k = 0; k < 1000; k++) motor.advance(0.001);
    expect(motor.turnedDeg).toBeGreaterThan(85);
    expect(motor.turnedDeg).toBeLessThan(90);
    motor.command(null);
    for (let k = 0; k < 200; k++) motor.advance(0.001);
    const stood = motor.turnedDeg;
    motor.advance(0.1);
    expect(motor.turnedDeg).toBeCloseTo(stood, 6);
  });
});

describe('the simulated board', () => {
  it('moves nothing before it is woken and never past its bounds', () => {
    const board = newBoard();
    expect(tell(board, { word: 'point', seq: 0, ms: 20, values: [[0, 1500]] })).toEqual([
      { word: 'refused', what: 'point', why: 'asleep' },
    ]);
    expect(tell(board, { word: 'wake', values: [[0, 1500]] })).toEqual([
      { word: 'refused', what: 'wake', why: 'no-bounds' },
    ]);
    const awake = ready();
    expect(tell(awake, { word: 'point', seq: 0, ms: 20, values: [[0, 2001]] })).toEqual([
      { word: 'refused', what: 'point', why: 'bounds' },
    ]);
    awake.advance(500_000);
    expect(where(awake).state).toBe('halted');
    expect(where(awake).measured).toEqual([
      [0, 1400],
      [3, 1500],
    ]);
  });
  it('interpolates straight between set points and reaches the last one', () => {
    const board = ready();
    tell(board, { word: 'point', seq: 0, ms: 40, values: [[0, 1440]] });
    board.advance(20_000);
    const half = where(board);
    expect(half.commanded[0][1]).toBeGreaterThan(1418);
    expect(half.commanded[0][1]).toBeLessThan(1424);
    board.advance(600_000);
    expect(where(board).commanded[0]).toEqual([0, 1440]);
    expect(Math.abs(where(board).measured[0][1] - 1440)).toBeLessThanOrEqual(servo.deadBand / 2 + 1);
  });
  it('halts at once and forgets the queue', () => {
    const board = ready();
    tell(
      board,
      { word: 'point', seq: 0, ms: 50, values: [[0, 1500]] },
      { word: 'point', seq: 1, ms: 50, values: [[0, 1600]] },
    );
    board.advance(30_000);
    const before = where(board).commanded[0][1];
    tell(board, { word: 'halt' });
    board.advance(200_000);
    expect(where(board).commanded[0][1]).toBeLessThanOrEqual(before + 2);
    expect(tell(board, { word: 'point', seq: 2, ms: 20, values: [[0, 1500]] })[0]).toMatchObject({ word: 'refused' });
  });
  it('wakes channels one after the other; those that are on go on, those that are not take no points', () => {
    const board = newBoard();
    for (const channel of [0, 3]) tell(board, { word: 'bounds', channel, low: 1000, high: 2000 });
    tell(board, { word: 'wake', values: [[0, 1400]] });
    tell(board, { word: 'point', seq: 0, ms: 100, values: [[0, 1500]] });
    board.advance(50_000);
    const half = where(board).commanded[0][1];
    expect(
      tell(board, {
        word: 'wake',
        values: [
          [0, 1000],
          [3, 1500],
        ],
      }),
    ).toEqual([{ word: 'done', what: 'wake' }]);
    expect(Math.abs(where(board).commanded[0][1] - half)).toBeLessThanOrEqual(3);
    board.advance(100_000);
    expect(where(board).commanded).toEqual([
      [0, 1500],
      [3, 1500],
    ]);
    expect(tell(board, { word: 'point', seq: 1, ms: 20, values: [[3, 1510]] })[0]).toMatchObject({ word: 'took' });
    const other = newBoard();
    for (const channel of [0, 3]) tell(other, { word: 'bounds', channel, low: 1000, high: 2000 });
    tell(other, { word: 'wake', values: [[0, 1400]] });
    expect(tell(other, { word: 'point', seq: 0, ms: 20, values: [[3, 1500]] })[0]).toEqual({
      word: 'refused',
      what: 'point',
      why: 'asleep',
    });
  });
  it('counts the steps it sends, and the motor falls out of step above its rate', () => {
    const board = new SimulatedBoard(4, [{ channel: 1, motor: { kind: 'stepper', maxHz: 5000 }, restsAt: 0 }]);
    tell(board, { word: 'bounds', channel: 1, low: -9000, high: 9000 }, { word: 'wake', values: [[1, 0]] });
    tell(board, { word: 'point', seq: 0, ms: 100, values: [[1, 400]] });
    board.advance(100_000);
    expect(where(board).measured).toEqual([[1, 400]]);
    const motor = simulatedMotor({ kind: 'stepper', maxHz: 5000 }, 0) as SimulatedMotor & { lost: number };
    for (let k = 1; k <= 100; k++) (motor.command(4 * k), motor.advance(0.001));
    expect(motor.lost).toBe(0);
    for (let k = 1; k <= 100; k++) (motor.command(400 + 9 * k), motor.advance(0.001));
    // Locked in again, once it is slow.
    motor.advance(0.001);
    expect(motor.lost).toBe(900);
  });
  it('gives the same answers however time is cut into steps', () => {
    const script = (cut: number): BoardMessage[] => {
      const board = ready();
      tell(board, { word: 'report', everyMs: 7 });
      tell(board, {
        word: 'point',
        seq: 0,
        ms: 90,
        values: [
          [0, 1900],
          [3, 1100],
        ],
      });
      const heard: BoardMessage[] = [];
      const reader = boardReader();
      for (let t = 0; t < 840_000; t += cut) {
        board.advance(cut);
        heard.push(...(board.read().flatMap((b) => reader.push(b)) as BoardMessage[]));
      }
      return heard;
    };
    expect(script(700)).toEqual(script(12_000));
  });
  it('turns no faster than its motor', () => {
    const board = ready();
    tell(board, { word: 'report', everyMs: 10 }, { word: 'point', seq: 0, ms: 10, values: [[0, 2000]] });
    board.advance(400_000);
    const track = tell(board, { word: 'report', everyMs: 0 })
      .filter((m) => m.word === 'here')
      .map((m) => (m as unknown as { measured: number[][] }).measured[0][1]);
    const fastest = Math.max(...track.slice(1).map((v, i) => v - track[i]));
    expect(fastest).toBeGreaterThan(15);
    expect(fastest).toBeLessThanOrEqual((servo.speedPerS * 10) / 1000 + 1);
  });
});
