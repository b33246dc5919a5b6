/** Motors with an encoder, by compiled firmware: they go where they are told, and what does not follow is let go. */
import fc from 'fast-check';
import { describe as group, expect, it } from 'vitest';
import { checksum } from '../board';
import type { Drive } from '../rig';
import { described, dipperWithEncoders, encoderPins } from './boards.testkit';
import { compile, live, type Heard } from './compiled.testkit';
import { handControlOf, registersOf, sources, type Described, type Work } from './index';

const sealed = (text: string): string => `> ${text}*${checksum(text).toString(16).padStart(4, '0')}`;
const { duty: DUTY, direction: DIRECTION, enable: ENABLE, first: FIRST, second: SECOND } = encoderPins[0];
const board = described(dipperWithEncoders(1), 'big');
const elbow = board.motors.find(({ kind }) => kind === 'counted')!;
const figures = elbow.map.drive as Extract<Drive, { kind: 'dc-encoder' }>;
/** Counts a second at full duty. */
const most = (figures.countsPerTurn * figures.speedDegPerS) / 360;
const bridge = (of: Described = board): string => compile(sources(of, 'bridge', { kind: 'bridge' }));
/** Where its shaft was each time that was asked, from where it stood as it was woken. */
function shafts(heard: readonly Heard[]): number[] {
  const [from, ...asked] = heard.flatMap(({ happened }) =>
    happened.flatMap(({ what, values }) => (what === 'shaft' ? values : [])),
  );
  return asked.map((place) => place - from);
}
const duties = (heard: readonly Heard[]): number[] =>
  heard.flatMap(({ happened }) => happened.flatMap(({ what, values }) => (what === 'duty' ? values : [])));
interface Motor {
  readonly most: number;
  readonly tau: number;
  readonly load: number;
  /** Its tracks are the wrong way round. */
  readonly isCrossed?: boolean;
}
const turning = ({ most: full, tau, load, isCrossed }: Motor): string =>
  `turning ${DUTY} ${DIRECTION} ${isCrossed ? `${SECOND} ${FIRST}` : `${FIRST} ${SECOND}`} ${full} ${tau} ${load}`;
const good: Motor = { most, tau: 30, load: 0 };

/** Awake at 0, and on to a place by points of 20 ms at a pace (counts a point). */
const begin = (motor: Motor): string[] => [
  turning(motor),
  sealed('hello 0'),
  sealed(`bounds 1 ${DUTY} -20000 20000 ${Math.ceil(most * 1.05)}`),
  // Its tracks are as they are before it is woken.
  '. 1000',
  `shaft ${DUTY}`,
  sealed(`wake 2 ${DUTY}:0`),
  sealed('report 3 100'),
];
function points(to: number, each: number): string[] {
  const count = Math.ceil(Math.abs(to) / each);
  return Array.from({ length: count }, (_, k) => [
    sealed(`point ${k} 20 ${DUTY}:${Math.round((to * (k + 1)) / count)}`),
    '. 20000',
  ]).flat();
}
/** What `here` said last: its state, and what the motor was told and read back. */
function lastHere(heard: readonly Heard[]): { state: string; told: number; read: number } {
  const [text] = heard
    .flatMap(({ lines }) => lines)
    .findLast((line) => line.startsWith('here') && / \d.*\|/.test(line))!
    .split('*');
  const [, state, told, read] = new RegExp(`^here \\d+ (\\w+).* ${DUTY}:(-?\\d+).*\\|.* ${DUTY}:(-?\\d+)`).exec(
    text,
  )!;
  return { state, told: Number(told), read: Number(read) };
}

group('a motor with an encoder', () => {
  it('goes where it is told, whatever it is like, and comes to rest there', () => {
    const program = bridge();
    fc.assert(
      fc.property(
        fc.integer({ min: 80, max: 130 }),
        fc.integer({ min: 5, max: 60 }),
        fc.integer({ min: -25, max: 25 }),
        fc.integer({ min: -9000, max: 9000 }),
        fc.integer({ min: 5, max: 60 }),
        (strength, tau, load, to, pace) => {
          const motor = { most: (most * strength) / 100, tau, load: (most * load) / 100 };
          const each = Math.max(1, Math.round((most * 0.02 * pace) / 100));
          const way = points(to, each);
          const half = way.slice(0, 2 * Math.ceil(way.length / 4));
          const heard = live(program, [
            ...begin(motor),
            ...half,
            `shaft ${DUTY}`,
            ...way.slice(half.length),
            '. 1500000',
            // Told every millisecond, so that it is known where it was just now.
            sealed('report 4 1'),
            '. 3000',
            `shaft ${DUTY}`,
          ]);
          const places = shafts(heard);
          // Underway it is behind by what it does in a quarter of a second, at most.
          const middle = half.length ? Math.round((to * half.length) / way.length) : 0;
          expect(Math.abs(places[0] - middle)).toBeLessThan(Math.max(6, most * 0.25));
          expect(Math.abs(places[1] - to)).toBeLessThanOrEqual(2);
          // What it reads back is where it is.
          const { state, told, read } = lastHere(heard);
          expect([state, told]).toEqual(['awake', to]);
          expect(Math.abs(read - places[1])).toBeLessThanOrEqual(1);
        },
      ),
      { numRuns: 25 },
    );
  });
  it('keeps all of its pins: none may be told to switch or be read', () => {
    expect(board.freePins.filter((pin) => [DUTY, DIRECTION, ENABLE, FIRST, SECOND].includes(pin))).toEqual([]);
  });
  it('turns round from no duty only', () => {
    const heard = live(bridge(), [
      ...begin({ ...good, tau: 8 }),
      ...points(1500, 50),
      turning({ ...good, tau: 8, load: most / 3 }),
      '. 200000',
      turning({ ...good, tau: 8, load: -most / 3 }),
      '. 500000',
    ]);
    let [duty, turns] = [0, 0];
    for (const { what, at, values } of heard.flatMap(({ happened }) => happened)) {
      if (what === 'duty') duty = values[0];
      if (what !== 'level' || at !== DIRECTION) continue;
      expect(duty).toBe(0);
      turns++;
    }
    expect(turns).toBeGreaterThan(3);
  });
  it('has neither duty nor power before it is woken, nor after it is let go or put to sleep', () => {
    const program = bridge();
    const heard = live(program, [
      ...begin(good).slice(0, 3),
      '. 500000',
      ...begin(good).slice(3),
      ...points(900, 30),
      '. 1000000',
      sealed(`letgo 4 ${DUTY}`),
      '. 200000',
      sealed(`wake 5 ${DUTY}:900`),
      '. 100000',
      sealed('sleep 6'),
      '. 500000',
    ]);
    const levels = heard.flatMap(({ happened }) =>
      happened.filter(({ what, at }) => what === 'level' && at === ENABLE).map(({ values }) => values[0]),
    );
    expect(levels).toEqual([1, 0, 1, 0]);
    const before = heard.slice(0, 7);
    expect(duties(before)).toEqual([]);
    expect(duties(heard).at(-1) ?? 0).toBe(0);
    expect(Math.max(...duties(heard))).toBeGreaterThan(0);
  });
  it('whose tracks are the wrong way round is let go at once, and all else stands', () => {
    fc.assert(
      fc.property(fc.integer({ min: 5, max: 60 }), fc.constantFrom(1, -1), (tau, way) => {
        const heard = live(bridge(), [
          ...begin({ ...good, tau, isCrossed: true }),
          ...points(way * 6000, Math.round(most * 0.012)),
          '. 1000000',
          `shaft ${DUTY}`,
        ]);
        expect(duties(heard).at(-1)).toBe(0);
        expect(lastHere(heard).state).toBe('halted');
        // Till its error asks for full duty, 50 ms backwards at that, and what it runs on for.
        expect(Math.abs(shafts(heard)[0])).toBeLessThan(most * (0.06 * 2 + 0.05 + tau / 1000 + 0.05));
        // It is off: points for it are refused until it is woken again.
        const lines = heard.flatMap(({ lines }) => lines);
        expect(lines.some((line) => /^refused point \d+ asleep/.test(line))).toBe(true);
      }),
      { numRuns: 8 },
    );
  });
  it('that is stuck is let go after half a second, and one that only is too weak for its pace is not', () => {
    const stuck = live(bridge(), [...begin({ ...good, most: 0 }), ...points(3000, 30), '. 1000000']);
    expect([lastHere(stuck).state, duties(stuck).at(-1)]).toEqual(['halted', 0]);
    const full = stuck.flatMap(({ happened }) => happened.filter(({ what }) => what === 'duty'));
    const from = full.find(({ values }) => values[0] === 255)!.micros;
    const off = full.at(-1)!.micros;
    expect((off - from) / 1000).toBeGreaterThanOrEqual(499);
    expect((off - from) / 1000).toBeLessThan(503);
    // One that is pulled away while nothing is asked of it, too: the board halts by itself.
    const pulled = live(bridge(), [
      ...begin(good),
      ...points(600, 30),
      '. 1000000',
      turning({ ...good, most: 0, load: most / 3 }),
      '. 2000000',
    ]);
    expect([lastHere(pulled).state, duties(pulled).at(-1)]).toEqual(['halted', 0]);
    // Woken again, it is another motor.
    const freed = live(bridge(), [
      ...begin({ ...good, most: 0 }),
      ...points(3000, 30),
      '. 1000000',
      turning(good),
      sealed(`wake 4 ${DUTY}:0`),
      ...points(600, 30),
      '. 1500000',
      `shaft ${DUTY}`,
    ]);
    expect(lastHere(freed)).toMatchObject({ state: 'awake', told: 600 });
    expect(Math.abs(shafts(freed)[0] - 600)).toBeLessThanOrEqual(2);
    const weak = live(bridge(), [
      ...begin({ ...good, most: most / 2 }),
      ...points(6000, Math.round(most * 0.019)),
      '. 5000000',
      `shaft ${DUTY}`,
    ]);
    expect(lastHere(weak).state).toBe('awake');
    expect(Math.abs(shafts(weak)[0] - 6000)).toBeLessThanOrEqual(2);
  });
  it('is counted anew where it stands, without moving', () => {
    const heard = live(bridge(), [
      ...begin({ ...good, load: most / 10 }),
      ...points(1200, 40),
      '. 1500000',
      `shaft ${DUTY}`,
      sealed(`zero 4 ${DUTY}:-350`),
      '. 500000',
      `shaft ${DUTY}`,
    ]);
    const [before, after] = shafts(heard);
    expect(Math.abs(after - before)).toBeLessThanOrEqual(1);
    const { told, read } = lastHere(heard);
    expect(told).toBe(-350);
    expect(Math.abs(read + 350)).toBeLessThanOrEqual(2);
    // A load that has just come pulls it off: it comes back all the same.
    const pulled = live(bridge(), [
      ...begin(good),
      ...points(1200, 40),
      '. 1500000',
      `shaft ${DUTY}`,
      turning({ ...good, load: most / 3 }),
      '. 60000',
      `shaft ${DUTY}`,
      sealed(`zero 4 ${DUTY}:-350`),
      '. 3000000',
      `shaft ${DUTY}`,
    ]);
    const [stood, off, back] = shafts(pulled);
    expect(Math.abs(off - stood)).toBeGreaterThan(10);
    expect(Math.abs(back - stood)).toBeLessThanOrEqual(2);
  });
});

group('programs for motors with an encoder', () => {
  const knob = dipperWithEncoders(1);
  knob.sensors = [
    {
      ...{ id: 'a', name: 'Knob', kind: 'potentiometer', joint: null, side: 'joint', countsPerTurn: 1228 },
      ...{ wraps: false, board: 'big', channel: 54, address: null, port: null, note: '' },
    },
  ];
  knob.leaders = [{ id: 'l', name: 'Bend', sensor: 'a', joint: 'elbow', scale: 0.3, offset: -20, low: 0, high: 300 }];
  const led = described(knob, 'big');
  const works: [string, Described, Work][] = [
    ['bridge', board, { kind: 'bridge' }],
    ['registers', board, { kind: 'registers', registers: registersOf(board, 1, 9600) }],
    [
      'hand control',
      led,
      { kind: 'hand', control: { ...handControlOf(led), startMs: 0, following: 'place' } as never },
    ],
  ];
  it.each(works)(
    '%s: are compiled without a warning, with a display too, and begin with nothing on',
    (name, of, work) => {
      for (const display of [null, { address: 39, columns: 16, rows: 2 } as const]) {
        const files = sources(of, name.replace(' ', '-'), { ...work, display });
        const [boot] = live(compile(files), []);
        expect(boot.happened.filter(({ what }) => what === 'pulse' || what === 'duty')).toEqual([]);
        const of7 = boot.happened.filter(({ at, what }) => at === ENABLE && what !== 'pulse');
        expect(of7.map(({ what, values }) => [what, ...values])).toEqual([['mode', 1]]);
        const [main] = files;
        expect(main.text).toContain('swap its two tracks');
        expect(main.text).toContain(`duty pin ${DUTY}, direction pin ${DIRECTION}`);
      }
    },
  );
});
