/** Sheets in millimetres, and the pages of paper they are printed on at their true size. */
import { escapeXml } from './shapes';

/** A drawing in mm; `content` is SVG without its outermost element. */
export interface Sheet {
  readonly widthMm: number;
  readonly heightMm: number;
  readonly content: string;
}

export const papers = {
  a4: { name: 'A4', widthMm: 210, heightMm: 297 },
  letter: { name: 'Letter', widthMm: 215.9, heightMm: 279.4 },
  a3: { name: 'A3', widthMm: 297, heightMm: 420 },
} as const;
export type PaperId = keyof typeof papers;

/** What printers leave white at each edge (mm), with room for the marks to cut along. */
export const EDGE = 10;
const INK = '#1f2a2a';

/** A file of its own, as large as it says. */
export const sheetToSvg = ({ widthMm, heightMm, content }: Sheet): string =>
  `<svg xmlns="http://www.w3.org/2000/svg" width="${widthMm}mm" height="${heightMm}mm" viewBox="0 0 ${widthMm} ${heightMm}">${content}</svg>`;

export interface Tiling {
  readonly isUpright: boolean;
  /** Size of the page as it is held (mm). */
  readonly widthMm: number;
  readonly heightMm: number;
  readonly columns: number;
  readonly rows: number;
}

/** How a sheet goes on pages of a paper at its true size: on one where it fits either way, else on as few as may be. */
export function tilingOf({ widthMm, heightMm }: Pick<Sheet, 'widthMm' | 'heightMm'>, paper: PaperId): Tiling {
  const { widthMm: short, heightMm: long } = papers[paper];
  const held = (isUpright: boolean): Tiling => {
    const [w, h] = isUpright ? [short, long] : [long, short];
    // A hair of slack: what is as wide as the page fits on it.
    const count = (size: number, room: number): number => Math.max(1, Math.ceil(size / (room - 2 * EDGE) - 1e-6));
    return { isUpright, widthMm: w, heightMm: h, columns: count(widthMm, w), rows: count(heightMm, h) };
  };
  const [upright, across] = [held(true), held(false)];
  return across.columns * across.rows < upright.columns * upright.rows ? across : upright;
}

/** Length (mm) of the marks at the corners of a tile. */
const MARK = 6;

/** The pages, each an SVG as large as the paper: the sheet at 1 : 1, cut where it does not fit, with marks to join it by. */
export function pagesOf(sheet: Sheet, paper: PaperId, title: string): string[] {
  const tiling = tilingOf(sheet, paper);
  const [room, height] = [tiling.widthMm - 2 * EDGE, tiling.heightMm - 2 * EDGE];
  const isAlone = tiling.columns * tiling.rows === 1;
  return Array.from({ length: tiling.rows * tiling.columns }, (_, k) => {
    const [row, column] = [Math.floor(k / tiling.columns), k % tiling.columns];
    const [x, y] = [column * room, row * height];
    const w = Math.min(room, sheet.widthMm - x);
    const h = Math.min(height, sheet.heightMm - y);
    const part = `<svg x="${EDGE}" y="${EDGE}" width="${w}" height="${h}" viewBox="${x} ${y} ${w} ${h}" overflow="hidden">${sheet.content}</svg>`;
    const corners = [
      [EDGE, EDGE, -1, -1],
      [EDGE + w, EDGE, 1, -1],
      [EDGE, EDGE + h, -1, 1],
      [EDGE + w, EDGE + h, 1, 1],
    ].map(([cx, cy, sx, sy]) => `M${cx} ${cy}h${sx * MARK}M${cx} ${cy}v${sy * MARK}`);
    const words = `${title}, page ${k + 1} of ${tiling.rows * tiling.columns}: row ${row + 1}, column ${column + 1}. Print at 100 %, cut along the corner marks, lay edge to edge.`;
    const marks = isAlone
      ? ''
      : `<path d="${corners.join('')}" stroke="${INK}" stroke-width="0.2" fill="none"/>` +
        `<text x="${EDGE + MARK + 2}" y="${EDGE - 3}" font-family="sans-serif" font-size="2.6" fill="${INK}">${escapeXml(words)}</text>`;
    return sheetToSvg({ widthMm: tiling.widthMm, heightMm: tiling.heightMm, content: part + marks });
  });
}

/** How wide (mm) a letter is on the whole, as a share of the size of its font. */
const LETTER = 0.54;

/** Words on as many lines as they need in a width (mm) at a font size (mm); a word that is too long by itself is broken. */
export function wrapText(text: string, widthMm: number, sizeMm: number): string[] {
  const most = Math.max(1, Math.floor(widthMm / (LETTER * sizeMm)));
  const lines: string[] = [];
  let line = '';
  for (const word of text.split(/\s+/).filter(Boolean)) {
    for (let rest = word; rest;) {
      const joined = line ? `${line} ${rest}` : rest;
      if ([...joined].length <= most) {
        line = joined;
        break;
      }
      if (line) lines.push(line);
      line = '';
      const letters = [...rest];
      if (letters.length <= most) continue;
      lines.push(letters.slice(0, most).join(''));
      rest = letters.slice(most).join('');
    }
  }
  if (line) lines.push(line);
  return lines.length ? lines : [''];
}
