/** Points as text: typed, pasted from a spreadsheet or read from CSV. */
import { vec3, type Vec3 } from '../../linear';
import type { TablePoint } from '../../reach';
import { MM_PER_M } from '../../units/convert';
import { cellMeant } from '../../units/csv';
import { numberOf, tableOf } from '../cells';
import { say } from '../findings';

export interface PointsText {
  readonly points: readonly TablePoint[];
  /** One sentence each, with the row counted as the person sees it. Rows with a problem are left out of `points`. */
  readonly problems: readonly string[];
}

/** Most points that a table may have. */
export const MAX_POINTS = 20_000;
const needs = 'x, y and z in mm';
/** What no name may hold. */
const UNPRINTABLE = /[\p{Cc}\p{Cs}\p{Zl}\p{Zp}\uFFFE\uFFFF]/gu;
/** Most problems that are told; the rest are counted. */
const MOST_TOLD = 8;

type Column = 'name' | 'x' | 'y' | 'z' | 'dx' | 'dy' | 'dz';
const titles: readonly (readonly [RegExp, Column])[] = [
  [/^(x|forward)(?![a-z])/, 'x'],
  [/^(y|left)(?![a-z])/, 'y'],
  [/^(z|up)(?![a-z])/, 'z'],
  [/^(dx|d_x|nx)(?![a-z])/, 'dx'],
  [/^(dy|d_y|ny)(?![a-z])/, 'dy'],
  [/^(dz|d_z|nz)(?![a-z])/, 'dz'],
  [/^(name|point|spot|#)(?![a-z])/, 'name'],
];
const columnOf = (title: string): Column | null =>
  titles.find(([pattern]) => pattern.test(title.trim().toLowerCase()))?.[1] ?? null;

/**
 * Reads rows of x, y, z in mm (forward, left, up), with an optional direction dx, dy, dz and an optional name, in this order or as a
 * head line names them. `direction` is taken where a row has none of its own.
 */
export function parsePoints(text: string, direction: Vec3 | null = null): PointsText {
  const { data, delimiter } = tableOf(text.trim());
  if (!data.length) return { points: [], problems: [say('table-empty', { needs })] };
  const head = data[0].map(columnOf);
  const titled = head.includes('x') && data[0].every((cell) => numberOf(cell, delimiter) === null);
  const columns: readonly (Column | null)[] = titled ? head : ['x', 'y', 'z', 'dx', 'dy', 'dz', 'name'];
  const missing = (['x', 'y', 'z'] as const).find((column) => !columns.includes(column));
  if (missing) return { points: [], problems: [say('head-lacks', { column: missing })] };
  const lines = data.slice(titled ? 1 : 0);
  if (lines.length > MAX_POINTS)
    return { points: [], problems: [say('rows-too-many', { got: lines.length, max: MAX_POINTS })] };
  const problems: string[] = [];
  const points = lines.flatMap((cells, i): TablePoint[] => {
    const line = i + (titled ? 2 : 1);
    const before = problems.length;
    const raw = (column: Column): string => cellMeant(cells[columns.indexOf(column)]?.trim() ?? '');
    const read = (column: Column): number => {
      const value = numberOf(raw(column), delimiter);
      if (value === null)
        problems.push(
          raw(column) === ''
            ? say('cell-missing', { row: line, column, needs })
            : say('cell-no-number', { row: line, got: raw(column).slice(0, 24), column }),
        );
      return value ?? 0;
    };
    if (cells.slice(columns.length).some((cell) => cell.trim() !== ''))
      problems.push(say('cells-too-many', { row: line, got: cells.length, max: columns.length }));
    const xyz: Vec3 = [read('x'), read('y'), read('z')];
    let own = direction;
    // A name may stand where a direction would: a fourth cell that is no number.
    const fourth = raw('dx');
    const named = !titled && fourth !== '' && numberOf(fourth, delimiter) === null && raw('dy') === '';
    if (!named && ['dx', 'dy', 'dz'].some((column) => raw(column as Column) !== '')) {
      const given: Vec3 = [read('dx'), read('dy'), read('dz')];
      own = vec3.unit(given);
      if (!own && problems.length === before) problems.push(say('direction-zero', { row: line }));
    }
    if (problems.length > before) return [];
    const name = (named ? fourth : raw('name')).replace(UNPRINTABLE, ' ').slice(0, 80) || `point ${i + 1}`;
    return [{ name, position: vec3.scale(xyz, 1 / MM_PER_M), direction: own }];
  });
  return { points, problems: told(problems) };
}

function told(problems: readonly string[]): string[] {
  if (problems.length <= MOST_TOLD) return [...problems];
  return [...problems.slice(0, MOST_TOLD), say('rows-more', { count: problems.length - MOST_TOLD })];
}
