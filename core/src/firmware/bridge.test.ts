import { readFileSync } from 'node:fs';
import { describe as group, expect, it } from 'vitest';
import { checksum } from '../board';
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
    expect(live(program, [])[0].lines.map(opened)).toEqual(['board 2 servo 24 64 - -']);
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
