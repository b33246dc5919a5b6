import { describe, expect, it } from 'vitest';
import {
  boardReader,
  channelOf,
  channelText,
  checksum,
  hostReader,
  MAX_LINE,
  MAX_QUEUED_MS,
  SimulatedBoard,
  simulatedMotor,
  SimulatedSpin,
  type BoardMessage,
} from './index';
import { heard, tell, where, type Heard, type Said } from './board.testkit';

const bytes = (line: string): Uint8Array => Uint8Array.from(line, (c) => c.charCodeAt(0));
/** A line as it is sent, with the checksum that belongs to it. */
const sealed = (text: string, end = '\n'): Uint8Array =>
  bytes(`${text}*${checksum(text).toString(16).padStart(4, '0')}${end}`);
const host = (text: string): unknown => hostReader().push(sealed(text))[0];
const board = (text: string): unknown => boardReader().push(sealed(text))[0];

describe('lines as they are written', () => {
  it('have the checksum CRC-16 with polynomial 1021 and start FFFF: 29B1 for the nine digits', () => {
    expect(checksum('123456789')).toBe(0x29b1);
    expect(checksum('')).toBe(0xffff);
    expect(checksum('a')).not.toBe(checksum('b'));
  });
  it('name pins of the first board by themselves, of the others by their board', () => {
    expect([channelOf(0, 0), channelOf(0, 255), channelOf(1, 4), channelOf(12, 255)].map(channelText)).toEqual([
      '0',
      '255',
      '1.4',
      '12.255',
    ]);
    expect(host('wake 7 3:1500 1.4:-20 12.255:7')).toEqual({
      word: 'wake',
      number: 7,
      values: [
        [3, 1500],
        [channelOf(1, 4), -20],
        [channelOf(12, 255), 7],
      ],
    });
  });
  const badHost = [
    ['a pin that no board has', 'wake 7 256:1500'],
    ['a pin of three hundred on another board', 'wake 7 1.300:1500'],
    ['the first board by its number', 'wake 7 0.4:1500'],
    ['a board of three digits', 'wake 7 100.4:1500'],
    ['something before the pin', 'wake 7 x3:1500'],
    ['something after the pin', 'wake 7 3x:1500'],
    ['two values for a channel', 'wake 7 3:1500:1600'],
    ['no value', 'wake 7 3:'],
    ['a channel alone', 'wake 7 3'],
    ['a broken value', 'wake 7 3:15.5'],
    ['a value of nine digits', 'wake 7 3:123456789'],
    ['a number of ten digits', 'sleep 1234567890'],
    ['a word alone with more behind it', 'hello 7 there'],
    ['sleep with more', 'sleep 7 now'],
    ['halt with more', 'halt 7 now'],
    ['an unknown word', 'jump 7 3'],
    ['nothing', ''],
    ['bounds without a channel', 'bounds 7'],
    ['bounds without numbers', 'bounds 7 3'],
    ['bounds with two numbers', 'bounds 7 3 980 2050'],
    ['bounds with too many numbers', 'bounds 7 3 980 2050 2400 1500 1600'],
    ['bounds with a word', 'bounds 7 3 low 2050 2400'],
    ['bounds with a word at the end', 'bounds 7 3 980 2050 fast'],
    ['bounds with a broken stop', 'bounds 7 3 980 2050 2400 x'],
    ['bounds of no pin', 'bounds 7 x 980 2050 2400'],
    ['a point without numbers', 'point'],
    ['a point without a time', 'point 3'],
    ['a point with a broken number', 'point x 20 0:1500'],
    ['a point with a broken time', 'point 3 -20 0:1500'],
    ['a point with a broken value', 'point 3 20 0-1500'],
    ['a report without a time', 'report 7'],
    ['an order without a number', 'report'],
    ['an order of a broken number', 'sleep -1'],
    ['an order of a word for a number', 'sleep now'],
    ['a part without a number', 'more 7'],
    ['a part of a word', 'more 7 x 0:1500'],
    ['a part of a broken value', 'more 7 1 0-1500'],
    ['a point that goes on twice', 'point 3 20 0:1500 + +'],
    ['a point that goes on in its middle', 'point 3 20 0:1500 + 1:1500'],
    ['a seek without a channel for its input', 'seek 7 1 20 100 5:10'],
    ['a seek to a level of two', 'seek 7 1 20:2 100 5:10'],
    ['a seek without a number of its own', 'seek 7 - 100 5:10'],
    ['a seek of a broken time', 'seek 7 1 - soon 5:10'],
    ['a seek of a broken speed', 'seek 7 1 - 100 5:fast'],
    ['zero of a broken value', 'zero 7 5:x'],
    ['a report of a word', 'report 7 often'],
    ['a report of two times', 'report 7 20 40'],
  ] as const;
  it.each(badHost)('from the computer are nothing with %s: “%s”', (_, text) => {
    expect(host(text)).toBeNull();
  });
  const badBoard = [
    ['a banner that is short', 'board 1 servo 16'],
    ['a banner that is long', 'board 1 servo 16 64 more'],
    ['a version of letters', 'board one servo 16 64'],
    ['a count of letters', 'board 1 servo many 64'],
    ['done of nothing', 'done'],
    ['done without a number', 'done wake'],
    ['refused without a number', 'refused point bounds'],
    ['a buffer of letters', 'board 1 servo 16 some'],
    ['more of nothing', 'more'],
    ['found of nothing', 'found'],
    ['found without a word for how', 'found 7 5:10'],
    ['found in another way', 'found 7 maybe 5:10'],
    ['found at a broken value', 'found 7 hit 5:x'],
    ['more of two points', 'more 1 2'],
    ['done of an unknown word', 'done jump 7'],
    ['done of two words', 'done wake sleep 7'],
    ['took of one number', 'took 17'],
    ['took of three numbers', 'took 17 60 5'],
    ['took of words', 'took it 60'],
    ['took with a word at the end', 'took 17 some'],
    ['refused without a reason', 'refused point 7'],
    ['refused for no known reason', 'refused point 7 mood'],
    ['refused with more', 'refused point 7 bounds 3'],
    ['here without a bar', 'here 5120 awake 0:1512'],
    ['here without a time', 'here awake | 0:1512'],
    ['here at no time', 'here soon awake 0:1512 | 0:1509'],
    ['here in an unknown state', 'here 5120 dreaming 0:1512 | 0:1509'],
    ['here with a broken value', 'here 5120 awake 0:x | 0:1509'],
    ['here with a broken reading', 'here 5120 awake 0:1512 | 0:x'],
    ['an unknown word', 'hum 3'],
  ] as const;
  it.each(badBoard)('from the board are nothing with %s: “%s”', (_, text) => {
    expect(board(text)).toBeNull();
  });
  it('are read where they have all they need, and no more', () => {
    expect(host('bounds 7 1.2 1300 1700 2400')).toEqual({
      ...{ word: 'bounds', number: 7, channel: channelOf(1, 2), low: 1300, high: 1700, perS: 2400 },
    });
    expect(host('bounds 8 3 -5 -1 2400 -3')).toEqual({
      ...{ word: 'bounds', number: 8, channel: 3, low: -5, high: -1, perS: 2400, still: -3 },
    });
    expect(host('point 7 20')).toEqual({ word: 'point', seq: 7, ms: 20, values: [], goesOn: false });
    expect(host('point 7 20 +')).toEqual({ word: 'point', seq: 7, ms: 20, values: [], goesOn: true });
    expect(host('more 7 2 4:5 +')).toEqual({ word: 'more', seq: 7, part: 2, values: [[4, 5]], goesOn: true });
    expect(host('seek 9 4 1.20:1 2500 5:-10 1.6:20')).toEqual({
      ...{ word: 'seek', number: 9, id: 4, until: { channel: channelOf(1, 20), level: 1 }, ms: 2500 },
      speeds: [
        [5, -10],
        [channelOf(1, 6), 20],
      ],
    });
    expect(host('seek 9 4 - 2500 5:-10')).toMatchObject({ until: null });
    expect(board('found 4 end 5:-10')).toEqual({ word: 'found', id: 4, hit: false, values: [[5, -10]] });
    expect(board('found 4 hit 5:-10')).toMatchObject({ hit: true });
    expect(host('report 9 0')).toEqual({ word: 'report', number: 9, everyMs: 0 });
    expect(board('board 2 servo 16 64')).toEqual({
      word: 'board',
      version: 2,
      kind: 'servo',
      channels: 16,
      buffer: 64,
      made: null,
    });
    expect(board('board 2 servo 16 64 - -')).toMatchObject({ made: null });
    expect(board('board 2 servo 16 64 12 00ab34ff')).toMatchObject({
      made: { revision: 12, fingerprint: '00ab34ff' },
    });
    for (const made of ['12 -', '- 00ab34ff', '12 0ab34ff', '12 00ab34fg', '-1 00ab34ff'])
      expect(board(`board 2 servo 16 64 ${made}`), made).toBeNull();
    expect(board('more 17')).toEqual({ word: 'more', seq: 17 });
    expect(board('here 5 asleep |')).toEqual({ word: 'here', ms: 5, state: 'asleep', commanded: [], measured: [] });
    expect(board('here 5 halted 1:2 | 1:3')).toMatchObject({
      state: 'halted',
      commanded: [[1, 2]],
      measured: [[1, 3]],
    });
    expect(board('done halt 7')).toEqual({ word: 'done', what: 'halt', number: 7 });
    expect(board('refused line 17 garbled')).toEqual({ word: 'refused', what: 'line', number: 17, why: 'garbled' });
  });
  it('may end with a carriage return, and are nothing without or with a wrong checksum', () => {
    const hello = { word: 'hello', number: 7 };
    expect(hostReader().push(sealed('hello 7', '\r\n'))).toEqual([hello]);
    for (const seal of ['', '*', '*0', '*zzzz', '*0000', '*000'])
      expect(hostReader().push(bytes(`hello 7${seal}\n`)), seal).toEqual([null]);
    for (const line of ['*00\n', '*\n', '*ffff\n'])
      expect(hostReader().push(bytes(line)), JSON.stringify(line)).toEqual([null]);
    const right = checksum('hello 7').toString(16).padStart(4, '0');
    expect(hostReader().push(bytes(`hello 7*${right}0\n`))).toEqual([null]);
    expect(hostReader().push(bytes(`hello 7*0${right}\n`))).toEqual([null]);
    expect(hostReader().push(bytes(`hello 7*${right.slice(1)}\n`))).toEqual([null]);
    expect(hostReader().push(bytes(`hello 7*${right.toUpperCase()}\n`))).toEqual([hello]);
    // An empty line is none.
    expect(hostReader().push(bytes(`\nhello 7*${right}\n\r\n\n`))).toEqual([hello]);
  });
  it('that are too long are nothing, however long, and the next one is read', () => {
    const reader = hostReader();
    for (const length of [MAX_LINE - 1, MAX_LINE, 5 * MAX_LINE]) {
      expect(reader.push(bytes('a'.repeat(length)))).toEqual([]);
      expect(reader.push(bytes('\n'))).toEqual([null]);
      expect(reader.push(sealed('hello 7'))).toEqual([{ word: 'hello', number: 7 }]);
    }
    // One that is just as long as is allowed is read, and one letter more is too much, whatever its checksum says.
    const filled = (length: number): string => {
      let text = 'wake 7';
      while (length - text.length > 11) text += ' 1:10000';
      return `${text} 2:${'1'.repeat(length - text.length - 3)}`;
    };
    for (const [length, isRead] of [
      [MAX_LINE, true],
      [MAX_LINE + 1, false],
      [MAX_LINE + 20, false],
    ] as const) {
      const line = sealed(filled(length - 6));
      expect(line.length).toBe(length);
      expect(hostReader().push(line)[0] !== null).toBe(isRead);
    }
  });
});

const servo = { kind: 'servo' as const, speedPerS: 2400, deadBand: 4, min: 900, max: 2100 };
class Session {
  readonly board = new SimulatedBoard(20, [
    { channel: 0, motor: servo, restsAt: 1400 },
    { channel: 3, motor: servo, restsAt: 1500 },
  ]);
  say(...said: Said[]): Heard[] {
    return tell(this.board, ...said);
  }
  bounds(): this {
    this.say(
      { word: 'bounds', channel: 0, low: 1000, high: 2000 },
      { word: 'bounds', channel: 3, low: 1000, high: 2000 },
    );
    return this;
  }
  wake(): this {
    this.bounds();
    this.say({
      word: 'wake',
      values: [
        [0, 1400],
        [3, 1500],
      ],
    });
    return this;
  }
  point(seq: number, ms: number, at0: number, at3?: number): Heard[] {
    return this.say({
      word: 'point',
      seq,
      ms,
      values: [[0, at0], ...(at3 === undefined ? [] : [[3, at3] as const])],
    });
  }
  get here(): Extract<BoardMessage, { word: 'here' }> {
    return where(this.board);
  }
}
const refused = (what: string, why: string): object[] => [{ word: 'refused', what, why }];

describe('the simulated board in an exchange', () => {
  it('says who it is, does each word and says so', () => {
    const s = new Session();
    expect(s.say({ word: 'hello' })).toEqual([
      { word: 'board', version: 2, kind: 'servo', channels: 20, buffer: 256, made: null },
    ]);
    expect(s.say({ word: 'bounds', channel: 0, low: 1000, high: 2000 })).toEqual([{ word: 'done', what: 'bounds' }]);
    expect(s.say({ word: 'report', everyMs: 0 })).toEqual([{ word: 'done', what: 'report' }]);
    expect(s.here.state).toBe('asleep');
    expect(s.say({ word: 'halt' })).toEqual([{ word: 'done', what: 'halt' }]);
    // Halted is only what was awake.
    expect(s.here.state).toBe('asleep');
    s.wake();
    expect(s.here.state).toBe('awake');
    expect(s.say({ word: 'halt' })).toEqual([{ word: 'done', what: 'halt' }]);
    expect(s.here.state).toBe('halted');
    expect(s.say({ word: 'sleep' })).toEqual([{ word: 'done', what: 'sleep' }]);
    expect(s.here.state).toBe('asleep');
  });
  it('says so of a line that makes no sense, and goes on', () => {
    const s = new Session();
    s.board.write(bytes('nonsense\n'));
    expect(heard(s.board)).toEqual([{ word: 'refused', what: 'line', number: 0, why: 'garbled' }]);
    expect(s.say({ word: 'hello' })).toHaveLength(1);
  });
  it('takes bounds that hold at least one value, and a stop between them, ends included', () => {
    const s = new Session();
    const set = (low: number, high: number, still?: number): Heard[] =>
      s.say({ word: 'bounds', channel: 0, low, high, ...(still === undefined ? {} : { still }) });
    expect(set(1500, 1500)).toEqual([{ word: 'done', what: 'bounds' }]);
    expect(set(1501, 1500)).toEqual(refused('bounds', 'bounds'));
    for (const still of [1000, 1500, 2000])
      expect(set(1000, 2000, still)).toEqual([{ word: 'done', what: 'bounds' }]);
    for (const still of [999, 2001]) expect(set(1000, 2000, still)).toEqual(refused('bounds', 'bounds'));
    expect(s.say({ word: 'bounds', channel: 7, low: 1, high: 2 })).toEqual(refused('bounds', 'channel'));
  });
  it('wakes nothing without bounds, outside of them, or where nothing is', () => {
    const s = new Session();
    expect(s.say({ word: 'wake', values: [[0, 1400]] })).toEqual(refused('wake', 'no-bounds'));
    s.bounds();
    expect(s.say({ word: 'wake', values: [[9, 1400]] })).toEqual(refused('wake', 'channel'));
    for (const value of [999, 2001])
      expect(s.say({ word: 'wake', values: [[0, value]] })).toEqual(refused('wake', 'bounds'));
    expect(s.here.state).toBe('asleep');
    for (const value of [1000, 2000])
      expect(s.say({ word: 'wake', values: [[0, value]] })).toEqual([{ word: 'done', what: 'wake' }]);
  });
  it('takes points of 1 to 100 ms while its queue holds no more than 100, and counts what is left of the one under way', () => {
    for (const ms of [0, MAX_QUEUED_MS + 1])
      expect(new Session().wake().point(0, ms, 1500)).toEqual(refused('point', 'duration'));
    const s = new Session().wake();
    expect(s.point(0, 1, 1401)).toEqual([{ word: 'took', seq: 0, queuedMs: 1 }]);
    expect(s.point(1, MAX_QUEUED_MS - 1, 1500)).toEqual([{ word: 'took', seq: 1, queuedMs: MAX_QUEUED_MS }]);
    s.board.advance(31_000);
    expect(s.point(2, 31, 1500)).toEqual([{ word: 'took', seq: 2, queuedMs: MAX_QUEUED_MS }]);
    // Too early is not wrong: it goes on, and takes the same point later.
    expect(s.point(3, 1, 1500)).toEqual(refused('point', 'queue-full'));
    expect(s.here.state).toBe('awake');
    expect(s.point(3, 1, 1500)).toEqual([{ word: 'took', seq: 3, queuedMs: MAX_QUEUED_MS }]);
  });
  it('refuses a point for a motor that is not on, even beside one that is, and after one that is wrong all others', () => {
    const s = new Session().bounds();
    s.say({ word: 'wake', values: [[0, 1400]] });
    expect(s.point(0, 20, 1410, 1500)).toEqual(refused('point', 'asleep'));
    const t = new Session().wake();
    t.point(0, 20, 1410);
    t.point(1, 0, 1410);
    // It wants to be woken again, and numbers begin anew.
    expect(t.point(1, 20, 1410)).toEqual(refused('point', 'asleep'));
    t.wake();
    expect(t.point(0, 20, 1410)).toEqual([{ word: 'took', seq: 0, queuedMs: 20 }]);
  });
  it('lets motors join while others move, and leaves those where they are going', () => {
    const s = new Session().bounds();
    s.say({ word: 'wake', values: [[0, 1400]] });
    s.point(0, 100, 1600);
    s.board.advance(50_000);
    expect(
      s.say({
        word: 'wake',
        values: [
          [0, 1000],
          [3, 1500],
        ],
      }),
    ).toEqual([{ word: 'done', what: 'wake' }]);
    const told = Object.fromEntries(s.here.commanded);
    expect(told[0]).toBeGreaterThan(1495);
    expect(told[3]).toBe(1500);
    s.board.advance(60_000);
    expect(Object.fromEntries(s.here.commanded)[0]).toBe(1600);
    expect(s.point(1, 20, 1610, 1510)).toEqual([{ word: 'took', seq: 1, queuedMs: 20 }]);
  });
  it('woken again after a halt it forgets what was queued and begins at the values given', () => {
    const s = new Session().wake();
    s.point(0, 100, 1900);
    s.board.advance(20_000);
    s.say({ word: 'halt' });
    s.board.advance(200_000);
    const stood = Object.fromEntries(s.here.commanded)[0];
    expect(stood).toBeLessThan(1510);
    s.say({
      word: 'wake',
      values: [
        [0, 1450],
        [3, 1500],
      ],
    });
    expect(Object.fromEntries(s.here.commanded)).toEqual({ 0: 1450, 3: 1500 });
  });
  it('asleep its motors are limp: they stay where they are whatever was asked', () => {
    const s = new Session().wake();
    s.point(0, 100, 2000);
    s.board.advance(60_000);
    s.say({ word: 'sleep' });
    s.board.advance(100_000);
    const stood = Object.fromEntries(s.here.measured)[0];
    expect(stood).toBeGreaterThan(1410);
    expect(stood).toBeLessThan(1900);
    s.board.advance(500_000);
    expect(Object.fromEntries(s.here.measured)[0]).toBe(stood);
  });
});

describe('motors that are not there', () => {
  const live = (motor: ReturnType<typeof simulatedMotor>, seconds: number): void => {
    for (let t = 0; t < seconds; t += 0.001) motor.advance(0.001);
  };
  it('a servo leaves alone what is inside its dead band, goes where it is not, and never past its stops', () => {
    for (const [wish, stirs] of [
      [1502, false],
      [1498, false],
      [1503, true],
      [1497, true],
    ] as const) {
      const motor = simulatedMotor({ ...servo, deadBand: 4 }, 1500);
      motor.command(wish);
      live(motor, 1);
      expect(motor.measured !== 1500, `${wish}`).toBe(stirs);
    }
    const motor = simulatedMotor(servo, 1500);
    motor.command(5000);
    live(motor, 3);
    expect(motor.measured).toBeLessThanOrEqual(2102);
    expect(motor.measured).toBeGreaterThan(2095);
    motor.command(0);
    live(motor, 3);
    expect(motor.measured).toBeGreaterThanOrEqual(898);
  });
  it('a servo is no faster than its speed, and coasts to a stand where its pulse goes off', () => {
    const motor = simulatedMotor(servo, 1000);
    motor.command(2000);
    let before = 1000;
    for (let t = 0; t < 400; t++) {
      motor.advance(0.001);
      expect(motor.measured! - before).toBeLessThanOrEqual(4);
      before = motor.measured!;
    }
    expect(before).toBeGreaterThan(1700);
    const off = simulatedMotor(servo, 1000);
    off.command(2000);
    live(off, 0.2);
    off.command(null);
    live(off, 0.3);
    const stood = off.measured;
    live(off, 1);
    expect(off.measured).toBe(stood);
    expect(stood).toBeLessThan(1600);
  });
  it('a stepper counts what it was sent, and loses what comes faster than it follows', () => {
    const motor = simulatedMotor({ kind: 'stepper', maxHz: 2000 }, 0) as ReturnType<typeof simulatedMotor> & {
      lost: number;
    };
    for (let k = 1; k <= 100; k++) {
      motor.command(2 * k);
      motor.advance(0.001);
    }
    expect(motor.measured).toBe(200);
    expect(motor.lost).toBe(0);
    // One step more than the rate is rounding; two are too fast.
    motor.command(203);
    motor.advance(0.001);
    expect(motor.lost).toBe(0);
    motor.command(207);
    motor.advance(0.001);
    motor.advance(0.001);
    expect(motor.lost).toBe(4);
    motor.command(null);
    motor.advance(0.001);
    expect(motor.measured).toBe(207);
  });
  it('a motor that is sent speeds stands at its stop and without a pulse, and turns both ways', () => {
    const motor = new SimulatedSpin({ stopUs: 1500, degPerSPerUs: -2 });
    for (const [wish, way] of [
      [1500, 0],
      [1600, -1],
      [1400, 1],
    ] as const) {
      motor.command(wish);
      live(motor, 0.2);
      const from = motor.turnedDeg;
      live(motor, 0.5);
      expect(Math.sign(Math.round(motor.turnedDeg - from))).toBe(way);
      if (way) expect(Math.abs(motor.turnedDeg - from)).toBeCloseTo(100, 0);
    }
  });
});
