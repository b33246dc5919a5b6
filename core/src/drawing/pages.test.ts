import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { kilnLoader, tileDipper } from '../../../demo';
import type { Rig } from '../rig';
import { EDGE, figureSheet, pagesOf, papers, sheetToSvg, tilingOf, wrapText, type PaperId } from './index';
import { wiringSheets } from '../exports';
import { between } from '../units/between.testkit';

const size = between(5, 1500);
const paper = fc.constantFrom(...(Object.keys(papers) as PaperId[]));
const figures = (text: string): number[] => text.split(' ').map(Number);
/** The windows that pages show of their sheet, and the pages' own sizes (mm). */
const windowsOf = (pages: readonly string[]) =>
  pages.map((page) => {
    const [, outer, inner] = /^<svg [^>]*width="([\d.]+mm" height="[\d.]+)mm"[^>]*><svg ([^>]*)>/.exec(page)!;
    const of = (name: string): string => new RegExp(`${name}="([^"]*)"`).exec(inner)![1];
    const [x, y, w, h] = figures(of('viewBox'));
    const [pageW, pageH] = outer.split('mm" height="').map(Number);
    return { x, y, w, h, width: Number(of('width')), height: Number(of('height')), pageW, pageH };
  });

describe('pages of a sheet', () => {
  it('show all of it once, at its true size, inside what the printer prints', () => {
    fc.assert(
      fc.property(size, size, paper, (widthMm, heightMm, id) => {
        const windows = windowsOf(pagesOf({ widthMm, heightMm, content: '<g/>' }, id, 'T'));
        let area = 0;
        for (const { x, y, w, h, width, height, pageW, pageH } of windows) {
          // One millimetre of the sheet is one millimetre of paper.
          expect(width).toBe(w);
          expect(height).toBe(h);
          expect(w).toBeLessThanOrEqual(pageW - 2 * EDGE + 1e-6);
          expect(h).toBeLessThanOrEqual(pageH - 2 * EDGE + 1e-6);
          expect(x + w).toBeLessThanOrEqual(widthMm + 1e-9);
          expect(y + h).toBeLessThanOrEqual(heightMm + 1e-9);
          area += w * h;
        }
        expect(Math.abs(area / (widthMm * heightMm) - 1)).toBeLessThan(1e-4);
        expect([papers[id].widthMm, papers[id].heightMm].sort()).toEqual([windows[0].pageW, windows[0].pageH].sort());
      }),
    );
  });
  it('are one where the sheet fits either way round, and as few as either way needs', () => {
    fc.assert(
      fc.property(size, size, paper, (widthMm, heightMm, id) => {
        const { columns, rows } = tilingOf({ widthMm, heightMm }, id);
        const [w, h] = [papers[id].widthMm - 2 * EDGE, papers[id].heightMm - 2 * EDGE];
        const fits = (widthMm <= w && heightMm <= h) || (widthMm <= h && heightMm <= w);
        if (fits) expect([columns, rows]).toEqual([1, 1]);
        const count = (a: number, b: number): number =>
          Math.ceil(widthMm / a - 1e-6) * Math.ceil(heightMm / b - 1e-6);
        expect(columns * rows).toBe(Math.min(count(w, h), count(h, w)));
      }),
    );
  });
  it('of a drawing test of 250 mm are two of A4, each saying which it is', () => {
    const sheet = figureSheet({ shape: 'square', plane: 'level', centre: [0, 0, 0], size: 0.25 }, 'Square');
    const pages = pagesOf(sheet, 'a4', 'Square <1>');
    expect(pages).toHaveLength(2);
    expect(pages[1]).toContain('Square &lt;1&gt;, page 2 of 2');
    expect(sheetToSvg(sheet)).toContain(`width="${sheet.widthMm}mm"`);
    expect(pagesOf({ widthMm: 100, heightMm: 80, content: '' }, 'a4', 'T')[0]).not.toContain('page 1');
  });
});

describe('words on lines', () => {
  it('are all there, in their order, none wider than asked', () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 120 }), fc.integer({ min: 5, max: 120 }), (text, width) => {
        const lines = wrapText(text, width, 3);
        const most = Math.max(1, Math.floor(width / (0.54 * 3)));
        for (const line of lines) expect([...line].length).toBeLessThanOrEqual(most);
        expect(lines.join('').replace(/\s/g, '')).toBe(text.replace(/\s/g, ''));
      }),
    );
  });
});

describe('the wiring on pages', () => {
  const long = 'A name as long as names may be, with every word somebody could want to say of it';
  const rigs: Rig[] = [tileDipper(), kilnLoader()].flatMap((rig) => {
    const named = structuredClone(rig) as Rig;
    for (const list of [named.drives, named.boards, named.rails, named.signals, named.sensors])
      for (const item of list) item.name = `${item.name} ${long}`.slice(0, 80);
    named.name = long;
    for (const wire of named.wiring) wire.colour = 'violet with a white stripe and a knot';
    return [rig, named];
  });
  /** Frames of devices, and how far text reaches, on a sheet. */
  const boxes = (content: string) =>
    [...content.matchAll(/<rect x="92" y="([\d.]+)" width="[\d.]+" height="([\d.]+)"/g)].map((m) => [
      Number(m[1]),
      Number(m[1]) + Number(m[2]),
    ]);
  it('breaks no device, loses none, and keeps to the page', () => {
    for (const rig of rigs)
      for (const room of [140, 257, 277]) {
        const sheets = wiringSheets(rig, room);
        const whole = wiringSheets(rig);
        expect(whole).toHaveLength(1);
        const count = sheets.reduce((sum, { content }) => sum + boxes(content).length, 0);
        expect(count).toBe(boxes(whole[0].content).length);
        expect(count).toBeGreaterThan(4);
        for (const { content, heightMm, widthMm } of sheets) {
          expect(heightMm).toBeLessThanOrEqual(room);
          expect(widthMm).toBeLessThanOrEqual(190);
          for (const [, bottom] of boxes(content)) expect(bottom).toBeLessThanOrEqual(heightMm);
        }
        // A page begins with something to read, and a board's name is not its last word.
        for (const { content } of sheets) expect(content).toMatch(/<text/);
      }
  });
  it('holds long names inside their frames', () => {
    for (const rig of rigs) {
      const [{ content, heightMm }] = wiringSheets(rig);
      for (const [, x, size, anchor, words] of content.matchAll(
        /<text x="([\d.]+)" y="[\d.]+" font-size="([\d.]+)"([^>]*)>([^<]*)</g,
      )) {
        const width = [...words.replace(/&[a-z]+;/g, '.')].length * 0.54 * Number(size);
        const [left, right] = anchor.includes('text-anchor="end"')
          ? [Number(x) - width, Number(x)]
          : [Number(x), Number(x) + width];
        expect(left, words).toBeGreaterThanOrEqual(4);
        expect(right, words).toBeLessThanOrEqual(Number(x) < 60 && Number(size) < 3 ? 92 : 186);
      }
      for (const [a, b] of boxes(content)
        .slice(0, -1)
        .map((box, k) => [box, boxes(content)[k + 1]]))
        expect(b[0]).toBeGreaterThanOrEqual(a[1]);
      expect(heightMm).toBeGreaterThan(50);
    }
  });
});
