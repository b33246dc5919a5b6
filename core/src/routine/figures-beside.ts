/** Two lists of figures laid side by side: what is the same thing in both, and which of them is better. */
import { csvOf } from '../units/csv';
import type { Figure } from './load-figures';

export interface FigureRow {
  readonly group: string;
  readonly name: string;
  readonly own: Figure | null;
  readonly other: Figure | null;
}
const key = ({ group, name }: Figure): string => JSON.stringify([group, name]);

/** In the order of the first list, group by group; what only the other one has stands at the end of its group. */
export function laidBeside(own: readonly Figure[], other: readonly Figure[] = []): FigureRow[] {
  const second = new Map(other.map((figure) => [key(figure), figure]));
  const known = new Set(own.map(key));
  const rows = [
    ...own.map((figure): FigureRow => ({
      ...{ group: figure.group, name: figure.name },
      ...{ own: figure, other: second.get(key(figure)) ?? null },
    })),
    ...other
      .filter((figure) => !known.has(key(figure)))
      .map((figure): FigureRow => ({ group: figure.group, name: figure.name, own: null, other: figure })),
  ];
  const groups = [...new Set(rows.map(({ group }) => group))];
  return groups.flatMap((group) => rows.filter((row) => row.group === group));
}

export interface FigureChange {
  readonly by: number;
  readonly is: 'better' | 'worse' | 'same';
}
/** From the other version to this one; null where one of them is not known or has no bound. Less than half a last digit is no change. */
export function changeOf({ own, other }: FigureRow): FigureChange | null {
  const [now, before] = [own?.value ?? NaN, other?.value ?? NaN];
  if (!own || !Number.isFinite(now) || !Number.isFinite(before)) return null;
  const by = now - before;
  if (Math.abs(by) < 0.5 * 10 ** -own.digits) return { by: 0, is: 'same' };
  return { by, is: own.better === null ? 'same' : by > 0 === (own.better === 'more') ? 'better' : 'worse' };
}

/** One row a figure, one column a version. */
export function figuresCsv(rows: readonly FigureRow[], versions: readonly [string, ...string[]]): string {
  const number = (figure: Figure | null): string => {
    const value = figure?.value ?? NaN;
    return Number.isFinite(value) ? `${Number(value.toFixed(figure!.digits + 1))}` : '';
  };
  return csvOf(
    ['group', 'figure', 'unit', ...versions],
    rows.map((row) => [
      ...[row.group, row.name, (row.own ?? row.other)!.unit],
      ...[row.own, row.other].slice(0, versions.length).map(number),
    ]),
  );
}
