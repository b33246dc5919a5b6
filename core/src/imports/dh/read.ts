/** Denavit–Hartenberg tables as text, pasted from a spreadsheet or typed. */
import type { DhConvention, DhRow } from '../../mechanism';
import type { Frame } from '../../rig';
import { numberOf, tableOf } from '../cells';
import { say } from '../findings';

export interface DhTextOptions {
  readonly angle: 'deg' | 'rad';
  readonly length: 'mm' | 'cm' | 'm' | 'in';
}
export interface DhText {
  readonly rows: readonly DhRow[];
  /** What the text says beside its rows: which convention it follows, and the frames before the first and after the last row. */
  readonly convention: DhConvention | null;
  readonly base: Frame | null;
  readonly tool: Frame | null;
  /** One sentence each, with the row counted as the person sees it (the head line is row 1 where there is one). */
  readonly problems: readonly string[];
}

const MM: Record<DhTextOptions['length'], number> = { mm: 1, cm: 10, m: 1000, in: 25.4 };
const needs = 'θ, d, a and α';
/** Most rows a table may have: as many as a rig may have joints. */
const MAX_ROWS = 128;

type Column = 'name' | 'type' | 'theta' | 'd' | 'a' | 'alpha' | 'min' | 'max';
const titles: readonly (readonly [RegExp, Column])[] = [
  [/^(θ|theta|th)/, 'theta'],
  [/^(α|alpha|al)/, 'alpha'],
  [/^d\b|^d[\d_ᵢi[(]|^offset/, 'd'],
  [/^(a|r)\b|^[ar][\d_ᵢi[(]|^length/, 'a'],
  [/^(type|kind)/, 'type'],
  [/^(name|joint|link|#|i$)/, 'name'],
  [/^(min|low|from)/, 'min'],
  [/^(max|high|to\b|upper)/, 'max'],
];
const columnOf = (title: string): Column | null =>
  titles.find(([pattern]) => pattern.test(title.trim().toLowerCase()))?.[1] ?? null;

/** The joint's own value in a cell: q1, θ2, d3*, with a plus sign before or after it. */
const VARIABLE = /\+?\s*[qθd]_?\d*\*?\s*\+?/i;
const words: Record<'theta' | 'd' | 'a' | 'alpha', string> = { theta: 'θ', d: 'd', a: 'a', alpha: 'α' };

/**
 * Reads rows of θ, d, a, α, in this order or as a head line names them; separated by tabs, semicolons, commas or spaces;
 * a decimal comma is understood where commas do not separate. Optional columns: name, type, min, max. A cell such as
 * "q1" or "90 + q2" marks the joint's own variable. Units that the head line names count instead of the chosen ones. Lines
 * "convention, standard" and "base, frame, x, y, z, roll, pitch, yaw" (and "tool, frame, …") are what a table is written with (core/src/exports/dh).
 */
export function parseDhText(text: string, chosen: DhTextOptions): DhText {
  const problems: string[] = [];
  const source = text.trim();
  const nothing = { rows: [], convention: null, base: null, tool: null };
  if (!source) return { ...nothing, problems: [say('table-empty', { needs })] };
  const { data, delimiter } = tableOf(source);
  const all = data.map((cells, i) => ({ cells: cells.map((c) => c.trim()), line: i + 1 }));
  const isFrame = ({ cells }: (typeof all)[number]): boolean =>
    /^(base|tool)$/i.test(cells[0]) && /^frame$/i.test(cells[1] ?? '');
  const isConvention = ({ cells }: (typeof all)[number]): boolean => /^convention$/i.test(cells[0]);
  const table = all.filter((row) => !isFrame(row) && !isConvention(row));
  if (!table.length) return { ...nothing, problems: [say('table-empty', { needs })] };
  const said = all.find(isConvention)?.cells[1]?.toLowerCase();
  const convention = said === 'standard' || said === 'modified' ? said : null;
  if (said !== undefined && !convention) problems.push(say('convention-unknown', { got: said.slice(0, 24) }));
  const head = table[0].cells.map(columnOf);
  const titled =
    table[0].cells.every((cell) => cell === '' || numberOf(cell, delimiter) === null) && head.includes('a');
  const columns: readonly (Column | null)[] = titled ? head : ['theta', 'd', 'a', 'alpha', 'min', 'max'];
  for (const need of ['theta', 'd', 'a', 'alpha'] as const)
    if (!columns.includes(need)) problems.push(say('head-lacks', { column: words[need] }));
  if (problems.length) return { ...nothing, problems };
  const { angle, length } = titled ? unitsOf(table[0].cells, head, chosen) : chosen;
  const lines = table.slice(titled ? 1 : 0);
  if (lines.length > MAX_ROWS)
    return { ...nothing, problems: [say('rows-too-many', { got: lines.length, max: MAX_ROWS })] };
  const toDeg = angle === 'rad' ? 180 / Math.PI : 1;
  const frameNamed = (name: 'base' | 'tool'): Frame | null => {
    const row = all.find((r) => isFrame(r) && r.cells[0].toLowerCase() === name);
    if (!row) return null;
    const figures = row.cells.slice(2, 8).map((cell) => numberOf(cell, delimiter));
    if (figures.length < 6 || figures.includes(null)) {
      problems.push(say('frame-numbers', { row: row.line, name }));
      return null;
    }
    const [x, y, z, roll, pitch, yaw] = figures as number[];
    return {
      xyzMm: [x * MM[length], y * MM[length], z * MM[length]],
      rpyDeg: [roll * toDeg, pitch * toDeg, yaw * toDeg],
    };
  };
  const [base, tool] = [frameNamed('base'), frameNamed('tool')];
  const rows = lines.flatMap(({ cells, line }): DhRow[] => {
    const cell = (column: Column): string => cells[columns.indexOf(column)] ?? '';
    let sliding = /^(p|slid|lin)/i.test(cell('type'));
    const before = problems.length;
    const read = (column: keyof typeof words): number => {
      const raw = cell(column);
      const variable = VARIABLE.test(raw);
      if (variable && column === 'd') sliding = true;
      const bare = raw.replace(VARIABLE, '').replace(/[+*\s]+$/, '');
      if (variable && bare.trim() === '') return 0;
      const value = numberOf(bare, delimiter);
      if (value !== null) return value;
      problems.push(
        raw === ''
          ? say('cell-missing', { row: line, column: words[column], needs })
          : say('cell-no-number', { row: line, got: raw.slice(0, 24), column: words[column] }),
      );
      return 0;
    };
    const limit = (column: 'min' | 'max'): number | undefined => {
      const raw = cell(column);
      if (raw === '') return undefined;
      const value = numberOf(raw, delimiter);
      if (value === null) problems.push(say('cell-no-number', { row: line, got: raw.slice(0, 24), column }));
      return value === null ? undefined : value * (sliding ? MM[length] : toDeg);
    };
    const theta = read('theta');
    const d = read('d');
    const a = read('a');
    const alpha = read('alpha');
    const min = limit('min');
    const max = limit('max');
    if (min !== undefined && max !== undefined && !(min < max))
      problems.push(say('row-limits', { row: line, min, max }));
    if (problems.length > before) return [];
    return [
      {
        type: sliding ? 'prismatic' : /^(cont|endless)/i.test(cell('type')) ? 'continuous' : 'revolute',
        thetaDeg: theta * toDeg,
        dMm: d * MM[length],
        aMm: a * MM[length],
        alphaDeg: alpha * toDeg,
        ...(cell('name') ? { name: cell('name').slice(0, 80) } : {}),
        ...(min === undefined ? {} : { min }),
        ...(max === undefined ? {} : { max }),
      },
    ];
  });
  return { rows, convention, base, tool, problems };
}

/** Units as the titles of the table name them; what they leave open is as chosen. */
function unitsOf(cells: readonly string[], head: readonly (Column | null)[], chosen: DhTextOptions): DhTextOptions {
  const title = (column: Column): string => cells[head.indexOf(column)] ?? '';
  const angle = /°|deg/i.test(title('theta')) ? 'deg' : /rad/i.test(title('theta')) ? 'rad' : chosen.angle;
  const unit = /(?:^|[\s([])(mm|cm|m|in)(?:$|[\s)\]])/i.exec(title('d'))?.[1].toLowerCase();
  return { angle, length: (unit as DhTextOptions['length'] | undefined) ?? chosen.length };
}
