/** The compiled bridge and the simulated board are one board in two languages: whatever comes in, both say the same. */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { checksum, SimulatedBoard } from '../board';
import { exchangeBoard } from './boards.testkit';
import { compile, live } from './compiled.testkit';
import { sources } from './index';

const servo = { kind: 'servo' as const, speedPerS: 24_000, deadBand: 0, min: 900, max: 2100 };
const simulated = (): SimulatedBoard =>
  new SimulatedBoard(
    24,
    [
      { channel: 0, motor: servo, restsAt: 1400 },
      { channel: 3, motor: servo, restsAt: 1500 },
      { channel: 5, motor: { kind: 'stepper', maxHz: 1e9 }, restsAt: 0 },
      { channel: 7, motor: { kind: 'spin', stopUs: 1500, degPerSPerUs: 1 }, restsAt: 1500 },
    ],
    { pins: [20, 21, 22], buffer: 160 },
  );
const sealed = (text: string): string => `${text}*${checksum(text).toString(16).padStart(4, '0')}`;
/** Without the seal and what motors read back: servos on pins say nothing, and the others lag by what they are. */
const bare = (line: string): string => {
  const [text, seal] = line.split('*');
  expect(parseInt(seal, 16)).toBe(checksum(text));
  // Of a point with a channel that there is not, twice, each may say either.
  if (!text.startsWith('here')) return text.replace(/^(refused point \d+) (?:twice|channel)$/, '$1 channel');
  // In which order channels are told is each board's own.
  const [told, read] = text.split(' |').map((half) => half.split(' ').filter(Boolean));
  const inputs = read.filter((word) => !/^(?:0|3|5):/.test(word));
  return [...told.slice(0, 3), ...told.slice(3).sort(), '|', ...inputs.sort()].join(' ');
};

const channel = fc.constantFrom('0', '3', '5', '7', '5', '0', '9', '1.4');
const level = fc.integer({ min: 0, max: 1 });
const pin = fc.constantFrom(20, 21, 22, 20, 9);
const near = (at: string): fc.Arbitrary<number> =>
  at === '5' ? fc.integer({ min: -300, max: 300 }) : fc.integer({ min: 1380, max: 1520 });
const pair = channel.chain((at) => near(at).map((value) => `${at}:${value}`));
const pairs = fc.array(
  fc.oneof(
    { weight: 8, arbitrary: pair },
    { weight: 1, arbitrary: fc.tuple(pin, level).map(([p, l]) => `${p}:${l}`) },
  ),
  {
    maxLength: 4,
  },
);
const ms = fc.constantFrom(1, 5, 20, 20, 40, 60, 100, 100, 101, 0);
/** `#` becomes the next number of an order, `@` that of the next point, now and then another. */
const body: fc.Arbitrary<string> = fc.oneof(
  {
    weight: 2,
    arbitrary: fc.constantFrom(
      'bounds # 0 1000 2000 9000',
      'bounds # 3 900 2100 99999',
      'bounds # 5 -500 500 5000',
      'bounds # 7 1000 2000 50000 1500',
    ),
  },
  {
    weight: 3,
    arbitrary: fc.constantFrom(
      'wake # 0:1400 3:1500 5:0 7:1500',
      'wake # 5:0',
      'wake # 0:1400',
      'wake # 7:1500 3:1490',
    ),
  },
  { weight: 14, arbitrary: fc.tuple(ms, pairs).map(([t, list]) => ['point @', t, ...list].join(' ')) },
  { weight: 2, arbitrary: fc.tuple(ms, pairs).map(([t, list]) => [`point @ ${t}`, ...list, '+'].join(' ')) },
  {
    weight: 2,
    arbitrary: fc.tuple(fc.integer({ min: 1, max: 2 }), pairs).map(([k, list]) => ['more @', k, ...list].join(' ')),
  },
  { weight: 1, arbitrary: fc.constantFrom('hello 0', 'halt #', 'sleep #', 'halt 0') },
  {
    weight: 2,
    arbitrary: fc.constantFrom(
      'report # 7',
      'report # 0',
      'report # 1',
      'watch # 60 40',
      'watch # 0 -',
      'watch # 90 -',
    ),
  },
  { weight: 2, arbitrary: fc.tuple(pin, level).map(([p, l]) => `output # ${p} ${l}`) },
  {
    weight: 2,
    arbitrary: fc.tuple(pin, fc.constantFrom('up', 'up', 'left')).map(([p, l]) => `input # ${p} ${l}`),
  },
  { weight: 2, arbitrary: fc.array(channel, { maxLength: 3 }).map((list) => ['letgo #', ...list].join(' ')) },
  { weight: 2, arbitrary: pairs.map((list) => ['zero #', ...list].join(' ')) },
  {
    weight: 4,
    arbitrary: fc
      .tuple(
        fc.integer({ min: 1, max: 9 }),
        fc.constantFrom('-', '20:0', '20:1', '21:1'),
        fc.constantFrom(1, 10, 33, 0, 900),
        fc.constantFrom('5:1000', '5:-777', '3:250', '0:33 5:1', '7:5', '5:9999'),
      )
      .map(([id, until, t, list]) => `seek # ${id} ${until} ${t} ${list}`),
  },
  {
    weight: 1,
    arbitrary: fc.constantFrom(
      'dance 3',
      'point',
      'wake # 0:x',
      'point @ 20 0:1400 ',
      'halt',
      'bounds # 0 1 2',
      'seek # 1 20:2 5 5:1',
      'point -1 20',
    ),
  },
);
type Act = { readonly line: string } | { readonly ms: number } | { readonly pin: number; readonly to: number };
const act: fc.Arbitrary<Act> = fc.oneof(
  { weight: 12, arbitrary: body.map((line) => ({ line })) },
  { weight: 5, arbitrary: fc.constantFrom(1, 3, 10, 20, 35, 80).map((t) => ({ ms: t })) },
  { weight: 1, arbitrary: fc.record({ pin: fc.constantFrom(20, 21), to: level }) },
);

describe('the compiled bridge beside the simulated board', () => {
  it('says the same to whatever comes', () => {
    const program = compile(sources(exchangeBoard(), 'bridge', { kind: 'bridge' }));
    const heard = new Set<string>();
    const begin = [
      'bounds # 0 1000 2000 9000',
      'bounds # 3 900 2100 9000',
      'bounds # 5 -500 500 5000',
      'bounds # 7 1000 2000 50000 1500',
      'input # 20 up',
      'input # 21 up',
      'wake # 0:1400 3:1500 5:0 7:1500',
    ];
    fc.assert(
      fc.property(
        fc.array(act, { minLength: 10, maxLength: 60 }),
        fc.array(fc.integer({ min: 0, max: 99 }), { minLength: 80, maxLength: 80 }),
        (acts, dice) => {
          const board = simulated();
          const orders: string[] = [];
          const expected: string[][] = [];
          let [number, point, k] = [0, 0, 0];
          for (const one of [...begin.map((line): Act => ({ line })), ...acts]) {
            if ('line' in one) {
              // Now and then a number that is not the next one.
              const slip = ++k > begin.length && dice[k % 80] < 4 ? -1 : 0;
              const line = one.line
                .replace('#', () => `${Math.max(0, ++number + slip)}`)
                .replace('@', () => `${Math.max(0, point + slip)}`);
              orders.push(`> ${sealed(line)}`);
              board.write(Uint8Array.from(`${sealed(line)}\n`, (c) => c.charCodeAt(0)));
            } else if ('ms' in one) {
              orders.push(`. ${one.ms * 1000}`);
              board.advance(one.ms * 1000);
            } else {
              orders.push(`pin ${one.pin} ${one.to}`);
              board.hold(one.pin, one.to);
            }
            const lines = board
              .read()
              .flatMap((bytes) =>
                String.fromCharCode(...bytes)
                  .split('\n')
                  .filter(Boolean),
              )
              .map(bare);
            for (const line of lines) {
              const took = /^took (\d+)/.exec(line);
              if (took) point = Math.max(point, Number(took[1]) + 1);
              if (/^done wake/.test(line) && board.playing === -1) point = 0;
              const wanted = /^refused point (\d+) gap/.exec(line);
              if (wanted) point = Number(wanted[1]);
              heard.add(line.replace(/-?\d[\d.:-]*/g, '#'));
            }
            expected.push(lines);
          }
          const [, ...parts] = live(program, orders);
          expect(parts.map(({ lines }) => lines.map(bare))).toEqual(expected);
        },
      ),
      { numRuns: 150 },
    );
    // What the generator brings about.
    for (const line of [
      'took # #',
      'found # hit #',
      'found # end #',
      'done letgo #',
      'done zero #',
      'refused point # queue-full',
      'refused point # speed',
      'refused point # moving',
      'refused seek # bounds',
    ])
      expect(
        [...heard].some((said) => said.startsWith(line)),
        line,
      ).toBe(true);
  });
});
