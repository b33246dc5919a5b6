/** Tables as people type and paste them: cells by tabs, semicolons, commas or spaces, numbers with either decimal sign. */
import Papa from 'papaparse';

export interface TableText {
  readonly data: readonly (readonly string[])[];
  readonly delimiter: string;
}

/** Rows of cells; blank lines are left out. */
export function tableOf(source: string): TableText {
  // The first line decides, and what stands between quotation marks separates nothing.
  const bare = source
    .replace(/"(?:[^"]|"")*"/g, '')
    .trimStart()
    .split('\n', 1)[0];
  const delimiter = ['\t', ';', ','].find((sign) => bare.includes(sign)) ?? ' ';
  const { data } = Papa.parse<string[]>(delimiter === ' ' ? source.replace(/[^\S\n]+/g, ' ') : source, {
    delimiter,
    skipEmptyLines: 'greedy',
  });
  return { data, delimiter };
}

/** A plain number, π fractions such as "pi/2" or "-π/2" included; null for anything else, infinities and NaN too. */
export function numberOf(cell: string, delimiter: string): number | null {
  let text = cell.trim().replace(/−/g, '-').replace(/°$/, '');
  if (delimiter !== ',') text = text.replace(',', '.');
  const fraction = /^([+-]?)(\d*\.?\d*)\s*\*?\s*(?:pi|π)(?:\s*\/\s*(\d+\.?\d*))?$/i.exec(text);
  if (fraction)
    return (fraction[1] === '-' ? -1 : 1) * Number(fraction[2] || 1) * (Math.PI / Number(fraction[3] ?? 1));
  if (!/^[+-]?(\d+\.?\d*|\.\d+)(e[+-]?\d+)?$/i.test(text)) return null;
  const value = Number(text);
  return Math.abs(value) <= 1e9 ? value : null;
}
