import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { BoardLine } from '@cork-elbow/core/contract';
import type { Link } from './link';
import { LineLog } from './line-log';

/** A link that keeps what it is written, and brings what it is given. */
function pipe() {
  const written: number[] = [];
  let coming: Uint8Array[] = [];
  const link: Link = {
    name: 'pipe',
    failure: null,
    patienceMs: 1000,
    write: (bytes) => void written.push(...bytes),
    read: () => {
      const come = coming;
      coming = [];
      return come;
    },
    advanceTo: () => undefined,
    close: () => undefined,
  };
  return { link, written, bring: (bytes: Uint8Array) => void coming.push(bytes) };
}
/** The bytes that a line was made of. */
const bytesOf = (text: string): number[] =>
  [...text.matchAll(/\\x([0-9a-f]{2})|([\s\S])/g)].map(([, hex, letter]) =>
    hex ? parseInt(hex, 16) : letter.charCodeAt(0),
  );
const textsOf = (lines: readonly BoardLine[], way: BoardLine['way']): string[] =>
  lines.filter((line) => line.way === way).map(({ text }) => text);

describe('the log of a line', () => {
  it('holds every whole line of either way as it was, however it came in pieces, and changes no byte', () => {
    // No backslash: it would be read as the beginning of a written byte.
    const byte = fc.nat(255).filter((b) => b !== 92);
    const piece = fc.record({
      out: fc.boolean(),
      bytes: fc.array(fc.oneof(byte, fc.constant(10)), { maxLength: 40 }),
    });
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 30 }), (pieces) => {
        const { link, written, bring } = pipe();
        let now = 0;
        const log = new LineLog();
        const heard = log.listen(link, 'one', () => (now += 250));
        const sent: Record<BoardLine['way'], number[]> = { out: [], in: [] };
        const read: number[] = [];
        for (const { out, bytes } of pieces) {
          sent[out ? 'out' : 'in'].push(...bytes);
          if (out) heard.write(Uint8Array.from(bytes));
          else bring(Uint8Array.from(bytes));
          for (const come of heard.read()) read.push(...come);
        }
        expect(written).toEqual(sent.out);
        expect(read).toEqual(sent.in);
        const lines = log.take();
        for (const way of ['out', 'in'] as const) {
          // What has no end yet is no line yet.
          const whole = sent[way].slice(0, sent[way].lastIndexOf(10) + 1);
          const told = textsOf(lines, way);
          for (const text of told) expect(text).toMatch(/^[\x20-\x7e]*$/);
          // A line that is too long is broken, and goes on in the next: read in one they are the same bytes.
          const joined = told.flatMap(bytesOf);
          const plain = sent[way].filter((b) => b !== 10);
          expect(joined).toEqual(plain.slice(0, joined.length));
          expect(joined.length).toBeGreaterThanOrEqual(whole.filter((b) => b !== 10).length);
        }
        expect(lines.map(({ no }) => no)).toEqual(lines.map((_, k) => k + 1));
        for (const [k, { atS }] of lines.entries()) expect(atS).toBeGreaterThan(k ? lines[k - 1].atS : 0);
      }),
    );
  });
  it('gives each line once, all that is kept to who asks for all, and keeps no more than the last', () => {
    const { link } = pipe();
    const log = new LineLog();
    const heard = log.listen(link, 'one', () => 0);
    const say = (k: number): void => heard.write(new TextEncoder().encode(`line ${k}\n`));
    for (let k = 1; k <= 5; k++) say(k);
    expect(log.take().map(({ text }) => text)).toEqual(['line 1', 'line 2', 'line 3', 'line 4', 'line 5']);
    expect(log.take()).toEqual([]);
    expect(log.take(true)).toHaveLength(5);
    for (let k = 6; k <= 5000; k++) say(k);
    const kept = log.take();
    expect(kept.at(-1)).toMatchObject({ no: 5000, text: 'line 5000' });
    expect(kept.length).toBeLessThan(1000);
    // How it began is kept as well; which ones are missing is told by their numbers.
    const all = log.take(true);
    expect(all[0]).toMatchObject({ no: 1, text: 'line 1' });
    expect(all.length).toBeLessThan(1000);
    log.begin();
    say(5001);
    expect(log.take(true).map(({ no }) => no)).toEqual([5001]);
  });
  it('breaks what never ends, as a wrong speed of the line gives it', () => {
    const { link, bring } = pipe();
    const log = new LineLog();
    const heard = log.listen(link, 'one', () => 0);
    bring(new Uint8Array(10_000).fill(0xf8));
    heard.read();
    const lines = log.take();
    expect(lines.length).toBeGreaterThan(10);
    for (const { text } of lines) expect(text.length).toBeLessThan(220);
  });
});
