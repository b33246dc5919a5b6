/** Points as text: typed, pasted from a spreadsheet or read from CSV; and the results of a points table as CSV. */
import Papa from 'papaparse';
import { vec3, type Vec3 } from '../linear';
import { inUnit, type Mechanism } from '../mechanism';
import type { PointResult, TablePoint } from '../reach';
import { MM_PER_M } from '../units/convert';
import { formatNumber } from '../units/quantity';
import { numberOf, tableOf } from './cells';

export interface PointsText {
  readonly points: readonly TablePoint[];
  /** One sentence each, with the row counted as the person sees it. Rows with a problem are left out of `points`. */
  readonly problems: readonly string[];
}

/** Most points that a table may have. */
export const MAX_POINTS = 20_000;
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
  if (!data.length) return { points: [], problems: ['The table is empty; every row needs x, y and z in mm.'] };
  const head = data[0].map(columnOf);
  const titled = head.includes('x') && data[0].every((cell) => numberOf(cell, delimiter) === null);
  const columns: readonly (Column | null)[] = titled ? head : ['x', 'y', 'z', 'dx', 'dy', 'dz', 'name'];
  const missing = (['x', 'y', 'z'] as const).find((column) => !columns.includes(column));
  if (missing) return { points: [], problems: [`The head line has no column for ${missing}.`] };
  const lines = data.slice(titled ? 1 : 0);
  if (lines.length > MAX_POINTS)
    return { points: [], problems: [`The table has ${lines.length} rows; at most ${MAX_POINTS} are taken.`] };
  const problems: string[] = [];
  const points = lines.flatMap((cells, i): TablePoint[] => {
    const line = i + (titled ? 2 : 1);
    const before = problems.length;
    const raw = (column: Column): string => cells[columns.indexOf(column)]?.trim() ?? '';
    const read = (column: Column): number => {
      const value = numberOf(raw(column), delimiter);
      if (value === null)
        problems.push(
          raw(column) === ''
            ? `Row ${line} has no ${column}; every row needs x, y and z in mm.`
            : `Row ${line}: “${raw(column).slice(0, 24)}” for ${column} is not a number.`,
        );
      return value ?? 0;
    };
    if (cells.slice(columns.length).some((cell) => cell.trim() !== ''))
      problems.push(
        `Row ${line} has ${cells.length} cells; ${titled ? 'the head line names' : 'a row has at most'} ${columns.length}.`,
      );
    const xyz: Vec3 = [read('x'), read('y'), read('z')];
    let own = direction;
    // A name may stand where a direction would: a fourth cell that is no number.
    const fourth = raw('dx');
    const named = !titled && fourth !== '' && numberOf(fourth, delimiter) === null && raw('dy') === '';
    if (!named && ['dx', 'dy', 'dz'].some((column) => raw(column as Column) !== '')) {
      const given: Vec3 = [read('dx'), read('dy'), read('dz')];
      own = vec3.unit(given);
      if (!own && problems.length === before)
        problems.push(`Row ${line}: the direction has no length; one of dx, dy, dz must differ from 0.`);
    }
    if (problems.length > before) return [];
    const name = (named ? fourth : raw('name')).slice(0, 80) || `point ${i + 1}`;
    return [{ name, position: vec3.scale(xyz, 1 / MM_PER_M), direction: own }];
  });
  return { points, problems: told(problems) };
}

function told(problems: readonly string[]): string[] {
  if (problems.length <= MOST_TOLD) return [...problems];
  return [...problems.slice(0, MOST_TOLD), `… and ${problems.length - MOST_TOLD} more rows like these.`];
}

/** RFC 4180 text: a row a point with its verdict, posture, joints (by code name) and what limits it. {@link parsePoints} reads the same points from it. */
export function pointResultsToCsv(mechanism: Mechanism, results: readonly PointResult[]): string {
  const mm = (v: number): string => formatFixed(v * MM_PER_M, 3);
  const fields = [
    'name',
    'x_mm',
    'y_mm',
    'z_mm',
    'dx',
    'dy',
    'dz',
    'reached',
    'posture',
    'all_postures',
    ...mechanism.slotIds.map((_, s) => {
      const j = mechanism.jointOfSlot[s];
      return `${mechanism.codes[j]}_${mechanism.units[j] === 'mm' ? 'mm' : 'deg'}`;
    }),
    'limit_margin_percent',
    'speed_share_percent',
    'why_not',
  ];
  const data = results.map(({ point, solution, postures, reason, touch, speedShare }) => [
    point.name,
    ...point.position.map(mm),
    ...(point.direction ? point.direction.map((v) => formatFixed(v, 6)) : ['', '', '']),
    !solution ? 'no' : touch ? 'touches' : 'yes',
    solution?.posture ?? '',
    postures.join('; '),
    ...mechanism.slotIds.map((_, s) => (solution ? formatFixed(inUnit(mechanism, s, solution.q[s]), 3) : '')),
    solution ? formatFixed(100 * solution.limitMargin, 1) : '',
    solution && Number.isFinite(speedShare) ? formatFixed(100 * speedShare, 0) : '',
    reason?.message ?? '',
  ]);
  return Papa.unparse({ fields, data }, { newline: '\r\n' }) + '\r\n';
}

const formatFixed = (v: number, digits: number): string => formatNumber(v, digits).replace('−', '-');
