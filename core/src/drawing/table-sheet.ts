/** A table as sheets to print: groups of rows under their headings, as many columns of figures as there are versions. */
import { escapeXml } from './shapes';
import { wrapText, type Sheet } from './pages';

export interface SheetRow {
  readonly group: string;
  readonly name: string;
  readonly values: readonly string[];
  /** Printed in bold: what is too much. */
  readonly isLoud?: boolean;
}
const WIDTH = 190;
const MARGIN = 8;
const ROW = 5.2;
const COLUMN = 34;
const SIZE = 3.4;
const LEADING = 1.25;
const INK = '#1f2a2a';
const SOFT = '#5f6763';

const text = (x: number, y: number, words: string, extra = ''): string =>
  `<text x="${x}" y="${y}" font-size="${SIZE}"${extra}>${escapeXml(words)}</text>`;

/** Sheets at most so high (mm), as wide as an A4 page without its margins; no heading is left alone at the end of one. */
export function tableSheets(
  title: string,
  note: string,
  columns: readonly string[],
  rows: readonly SheetRow[],
  mostMm = Infinity,
): Sheet[] {
  const wide = WIDTH - 2 * MARGIN - COLUMN * columns.length;
  const right = (k: number): number => WIDTH - MARGIN - COLUMN * (columns.length - 1 - k);
  const heading = wrapText(note, WIDTH - 2 * MARGIN, SIZE);
  const heads = columns.map((column) => wrapText(column, COLUMN - 3, SIZE));
  const headLines = Math.max(1, ...heads.map((lines) => lines.length));
  const sheets: { y: number; parts: string[] }[] = [];
  const begin = (): { y: number; parts: string[] } => {
    const parts = [
      `<text x="${MARGIN}" y="${MARGIN + 6}" font-size="6" font-weight="700" fill="${INK}">${escapeXml(title)}</text>`,
      ...heading.map((line, k) => text(MARGIN, MARGIN + 12 + k * SIZE * LEADING, line, ` fill="${SOFT}"`)),
    ];
    const y = MARGIN + 15 + heading.length * SIZE * LEADING;
    heads.forEach((lines, k) =>
      lines.forEach((line, n) =>
        parts.push(text(right(k), y + n * SIZE * LEADING, line, ' text-anchor="end" font-weight="700"')),
      ),
    );
    const sheet = { y: y + headLines * SIZE * LEADING, parts };
    sheets.push(sheet);
    return sheet;
  };
  let sheet = begin();
  let group: string | null = null;
  for (const row of rows) {
    const name = wrapText(row.name, wide - 4, SIZE);
    const height = ROW + (name.length - 1) * SIZE * LEADING;
    const isNew = row.group !== group;
    if (sheet.y + height + (isNew ? 2 * ROW : 0) + MARGIN > mostMm && sheet.y > 4 * ROW) {
      sheet = begin();
      group = null;
    }
    if (row.group !== group) {
      sheet.y += ROW * 0.7;
      sheet.parts.push(text(MARGIN, sheet.y + SIZE, row.group, ' font-weight="700"'));
      sheet.y += ROW;
      group = row.group;
    }
    name.forEach((line, k) => sheet.parts.push(text(MARGIN + 3, sheet.y + SIZE + k * SIZE * LEADING, line)));
    row.values.forEach((value, k) =>
      sheet.parts.push(
        text(right(k), sheet.y + SIZE, value, ` text-anchor="end"${row.isLoud ? ' font-weight="700"' : ''}`),
      ),
    );
    sheet.y += height;
    sheet.parts.push(
      `<path d="M${MARGIN} ${sheet.y - 0.6}H${WIDTH - MARGIN}" stroke="${SOFT}" stroke-width="0.15"/>`,
    );
  }
  return sheets.map(({ y, parts }) => ({
    widthMm: WIDTH,
    heightMm: y + MARGIN,
    content: `<rect width="${WIDTH}" height="${y + MARGIN}" fill="#ffffff"/><g font-family="sans-serif" fill="${INK}">${parts.join('')}</g>`,
  }));
}
