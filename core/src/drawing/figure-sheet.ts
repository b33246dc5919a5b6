/** A drawing test at its true size: a page in mm with the figure, its middle and a ruler to check the printer by. */
import { escapeXml } from './shapes';
import type { Sheet } from './pages';
import type { Figure } from '../reach';
import { MM_PER_M } from '../units/convert';
import { formatNumber } from '../units/quantity';

const MARGIN = 8;
/** Length (mm) of the ruler that shows whether the page was printed at its size. */
const RULER = 50;

/** As large as the figure needs it, however large the paper is: see {@link pagesOf}. */
export function figureSheet({ shape, size }: Figure, title: string): Sheet {
  const mm = size * MM_PER_M;
  const width = Math.max(mm, RULER + 20) + 2 * MARGIN;
  const drawn = shape === 'line' ? 12 : mm;
  const height = drawn + 2 * MARGIN + 22;
  const cx = width / 2;
  const cy = MARGIN + drawn / 2;
  const figure =
    shape === 'circle'
      ? `<circle cx="${cx}" cy="${cy}" r="${mm / 2}"/>`
      : shape === 'square'
        ? `<rect x="${cx - mm / 2}" y="${cy - mm / 2}" width="${mm}" height="${mm}"/>`
        : `<path d="M${cx - mm / 2} ${cy}h${mm}M${cx - mm / 2} ${cy - 3}v6M${cx + mm / 2} ${cy - 3}v6"/>`;
  const y = height - 10;
  const ticks = Array.from(
    { length: RULER + 1 },
    (_, i) => `M${MARGIN + i} ${y}v${i % 10 === 0 ? -3 : i % 5 === 0 ? -2 : -1.2}`,
  ).join('');
  const word = { circle: 'circle, diameter', square: 'square, edge', line: 'line, length' }[shape];
  const content =
    `<g fill="none" stroke="#1f2a2a" stroke-width="0.25">${figure}<path d="M${cx - 2} ${cy}h4M${cx} ${cy - 2}v4" stroke-width="0.15"/>` +
    `<path d="${ticks}M${MARGIN} ${y}h${RULER}" stroke-width="0.15"/></g>` +
    `<g fill="#1f2a2a" font-family="sans-serif" font-size="3">` +
    `<text x="${MARGIN}" y="${y - 5}">${escapeXml(title)}: ${word} ${formatNumber(mm, 1)} mm</text>` +
    `<text x="${MARGIN}" y="${y + 4}">The ruler is ${RULER} mm long when the page is printed at 100 %.</text></g>`;
  return { widthMm: width, heightMm: height, content };
}
