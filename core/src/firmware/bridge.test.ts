import { readFileSync } from 'node:fs';
import { describe as group, expect, it } from 'vitest';
import { checksum, encodeHost, MAX_LINE, pointLines } from '../board';
import { compile, live } from './compiled.testkit';
import { sources } from './index';
import { exchangeBoard } from './boards.testkit';

interface Case {
  readonly name: string;
  readonly lines: readonly string[];
}
const { cases } = JSON.parse(readFileSync(new URL('../board/exchanges.json', import.meta.url), 'utf8')) as {
  cases: readonly Case[];
};
const sealed = (text: string): string => `${text}*${checksum(text).toString(16).padStart(4, '0')}`;
function opened(line: string): string {
  const [text, seal] = line.split('*');
  expect(parseInt(seal, 16)).toBe(checksum(text));
  return text;
}
const order = (line: string): string => {
  const [what, rest] = [line.split(' ')[0], line.slice(line.indexOf(' ') + 1)];
  return what === '>' ? `> ${sealed(rest)}` : what === '.' ? `. ${1000 * Number(rest)}` : line;
};
/** Words in brackets are said only by boards that read the motor back; these servos do not. */
const agrees = (line: string, expected: string): boolean => {
  const wanted = expected.split(' ').filter((word) => !word.startsWith('['));
  const got = line.split(' ');
  return (
    got.length === wanted.length &&
    wanted.every((word, k) => {
      const [name, value] = word.split(':');
      return word === '?' || word === got[k] || (value === '?' && got[k].startsWith(`${name}:`));
    })
  );
};

group('the compiled bridge', () => {
  const program = compile(sources(exchangeBoard(), 'bridge', { kind: 'bridge' }));
  it('says who it is as power comes', () => {
    expect(live(program, [])[0].lines.map(opened)).toEqual(['board 2 servo 24 160 - -']);
  });
  it('takes 16 servos at 50 points a second with reports, as fast as 115,200 baud bring them, and loses nothing', () => {
    const [motor] = exchangeBoard().motors;
    const motors = Array.from({ length: 16 }, (_, k) => ({ ...motor, channel: k, pin: k }));
    const board = { ...exchangeBoard(), motors, freePins: [], sensorCount: 0, order: motors.map((_, k) => k) };
    const wide = compile(sources(board, 'bridge', { kind: 'bridge' }));
    const bounds = motors.map((_, k) => `bounds ${k + 1} ${k} 900 2100 99999`);
    const half = (from: number): string =>
      motors
        .slice(from, from + 8)
        .map((_, k) => `${from + k}:1400`)
        .join(' ');
    const wakes = [`wake 20 ${half(0)}`, `wake 21 ${half(8)}`];
    const begin = [...bounds, ...wakes, 'report 29 100'];
    const SECONDS = 4;
    const points = Array.from({ length: 50 * SECONDS }, (_, seq) =>
      pointLines(
        seq,
        20,
        motors.map((_, k) => [k, 1400 + ((seq * 3 + k) % 100)]),
        MAX_LINE,
      ).map(
        (line) =>
          // As they leave, without the line feed that is added.
          `> ${String.fromCharCode(...encodeHost(line)).trimEnd()}`,
      ),
    );
    const parts = live(wide, [
      ...begin.map((line) => `> ${sealed(line)}`),
      ...['baud 115200', ...points.flatMap((lines) => [...lines, '. 20000']), '. 100000'],
    ]);
    const said = parts.flatMap(({ lines }) => lines).map(opened);
    expect(parts.flatMap(({ happened }) => happened.filter(({ what }) => what === 'lost'))).toEqual([]);
    expect(said.filter((line) => line.startsWith('refused'))).toEqual([]);
    expect(said.filter((line) => line.startsWith('took'))).toHaveLength(points.length);
    // Each report has two lines for so many motors.
    expect(said.filter((line) => line.startsWith('here')).length).toBeGreaterThanOrEqual(2 * (10 * SECONDS - 1));
  });
  it.each(cases)('passes the exchange: $name', ({ lines }) => {
    const orders = lines.filter((line) => !line.startsWith('< '));
    const [, ...parts] = live(program, orders.map(order));
    let part = -1;
    let come: string[] = [];
    for (const [k, line] of lines.entries()) {
      if (line.startsWith('< ')) {
        const next = come.shift() ?? '(nothing)';
        expect(agrees(next, line.slice(2)), `line ${k + 1}: “${next}” instead of “${line.slice(2)}”`).toBe(true);
        continue;
      }
      expect(come, `before line ${k + 1}`).toEqual([]);
      come = parts[++part].lines.map(opened);
    }
    expect(come).toEqual([]);
  });
});
