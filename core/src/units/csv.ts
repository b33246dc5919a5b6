/** Tables as text that spreadsheets open: nothing in them is ever taken for a formula, whichever separator the reader takes. */
import Papa from 'papaparse';

export type Delimiter = ',' | ';' | '\t';

/** Where a cell begins, for one reader or another, apostrophes that stand there, and what a spreadsheet would work out. */
const FORMULA = /(^|[;,\t\r])(\s*)('*)(?=[=+@]|-)/g;
const isNumber = (cell: string): boolean => /^-?\d*[.,]?\d+(?:[eE][+-]?\d+)?$/.test(cell);

/** RFC 4180 text, with a header where there is one. What would be a formula gets an apostrophe before it; {@link cellMeant} takes it off again. */
export function csvOf(
  fields: readonly string[] | null,
  data: readonly (readonly string[])[],
  delimiter: Delimiter = ',',
): string {
  const safe = (cell: string): string => (isNumber(cell) ? cell : cell.replace(FORMULA, "$1$2'$3"));
  const rows = [...(fields ? [fields] : []), ...data].map((row) => row.map(safe));
  return `${Papa.unparse(rows, { delimiter, newline: '\r\n' })}\r\n`;
}

/** A cell as it was before {@link csvOf}. */
export const cellMeant = (cell: string): string =>
  cell.replace(FORMULA, (_, begin: string, space: string, quotes: string) => begin + space + quotes.slice(1));
