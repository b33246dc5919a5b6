import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { checksum, orderWords, refusals, SimulatedBoard } from './index';

interface Case {
  readonly name: string;
  readonly lines: readonly string[];
}
const { cases } = JSON.parse(readFileSync(new URL('./exchanges.json', import.meta.url), 'utf8')) as {
  cases: readonly Case[];
};

const servo = { kind: 'servo' as const, speedPerS: 24_000, deadBand: 0, min: 900, max: 2100 };
const made = (): SimulatedBoard =>
  new SimulatedBoard(
    24,
    [
      { channel: 0, motor: servo, restsAt: 1400 },
      { channel: 3, motor: servo, restsAt: 1500 },
      { channel: 5, motor: { kind: 'stepper', maxHz: 50_000 }, restsAt: 0 },
      { channel: 7, motor: { kind: 'spin', stopUs: 1500, degPerSPerUs: 1 }, restsAt: 1500 },
    ],
    { pins: [20, 21, 22], sense: (id) => 100 * id },
  );
const sealed = (text: string): Uint8Array =>
  Uint8Array.from(`${text}*${checksum(text).toString(16).padStart(4, '0')}\n`, (c) => c.charCodeAt(0));
/** Lines without their seals, each with the right one. */
function opened(bytes: readonly Uint8Array[]): string[] {
  const lines = bytes.flatMap((line) => String.fromCharCode(...line).split('\n')).filter((line) => line !== '');
  return lines.map((line) => {
    const [text, seal] = line.split('*');
    expect(parseInt(seal, 16)).toBe(checksum(text));
    return text;
  });
}
const agrees = (line: string, expected: string): boolean => {
  // Simulated motors are all read back.
  const [got, wanted] = [line.split(' '), expected.replace(/[[\]]/g, '').split(' ')];
  return (
    got.length === wanted.length &&
    wanted.every((word, k) => {
      const [name, value] = word.split(':');
      return word === '?' || word === got[k] || (value === '?' && got[k].startsWith(`${name}:`));
    })
  );
};

describe('the exchanges that every board passes', () => {
  it.each(cases)('$name', ({ lines }) => {
    const board = made();
    let come: string[] = [];
    for (const [k, line] of lines.entries()) {
      const [what, rest] = [line.split(' ')[0], line.slice(line.indexOf(' ') + 1)];
      if (what === '<') {
        const next = come.shift() ?? '(nothing)';
        expect(agrees(next, rest), `line ${k + 1}: “${next}” instead of “${rest}”`).toBe(true);
        continue;
      }
      expect(come, `before line ${k + 1}`).toEqual([]);
      if (what === '>') board.write(sealed(rest));
      else if (what === '.') board.advance(1000 * Number(rest));
      else {
        const [pin, level] = rest.split(' ');
        board.hold(Number(pin), level === '-' ? null : Number(level));
      }
      come = opened(board.read());
    }
    expect(come).toEqual([]);
  });
  it('name every word of the protocol and every reason to refuse', () => {
    const all = cases.flatMap(({ lines }) => lines).join('\n');
    for (const word of [...orderWords, 'point', 'more']) expect(all).toContain(`> ${word} `);
    for (const word of ['board', 'done', 'took', 'more', 'refused', 'found', 'here', 'sensed'])
      expect(all).toContain(`< ${word} `);
    for (const why of refusals) expect(all, why).toMatch(new RegExp(`< refused .* ${why}(\\n|$)`));
  });
});
