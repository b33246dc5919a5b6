/** What maps say of themselves and of each other: how far they go, and what was gained and lost between two. */
import { cellAt, middleOf, type Grid } from './grid';
import type { ReachMap } from './map';

/** Neighbours that must have changed as well for a changed cell to count: lone cells on the rim are chance of sampling. */
const COMPANY = { slice: 2, space: 4 };

/** Those of `cells` (of one grid) that enough of their neighbours are among, too. */
function inCompany({ size }: Grid, cells: readonly number[], least: number): number[] {
  const all = new Set(cells);
  const [nx, ny, nz] = size;
  return cells.filter((at) => {
    const [i, j, k] = [at % nx, Math.floor(at / nx) % ny, Math.floor(at / (nx * ny))];
    let count = -1;
    for (let c = Math.max(0, k - 1); c <= Math.min(nz - 1, k + 1); c++)
      for (let b = Math.max(0, j - 1); b <= Math.min(ny - 1, j + 1); b++)
        for (let a = Math.max(0, i - 1); a <= Math.min(nx - 1, i + 1); a++)
          if (all.has((c * ny + b) * nx + a)) count++;
    return count >= least;
  });
}

/** Cells of two maps of the same kind and cell size, told apart: reached now only, and before only. */
export function compareMaps(
  before: ReachMap,
  now: ReachMap,
): { gained: readonly number[]; lost: readonly number[]; gainedExtent: number; lostExtent: number } | null {
  if (before.request.plane !== now.request.plane || Math.abs(before.grid.cell - now.grid.cell) > 1e-12) return null;
  const reachedIn = ({ grid, postures }: ReachMap, point: readonly number[]): boolean => {
    const at = cellAt(grid, point[0], point[1], point[2]);
    return at >= 0 && postures[at] > 0;
  };
  const only = (own: ReachMap, other: ReachMap): number[] => {
    const cells: number[] = [];
    own.postures.forEach((v, at) => {
      if (v > 0 && !reachedIn(other, middleOf(own.grid, at))) cells.push(at);
    });
    return inCompany(own.grid, cells, own.request.plane === 'shell' ? COMPANY.space : COMPANY.slice);
  };
  const gained = only(now, before);
  const lost = only(before, now);
  const each = now.grid.cell ** (now.request.plane === 'shell' ? 3 : 2);
  return { gained, lost, gainedExtent: gained.length * each, lostExtent: lost.length * each };
}

/** How far a slice's reach goes (m): out and in from its middle, up and down on a side slice; null where nothing is reached. */
export interface MapBounds {
  readonly out: number;
  readonly in: number;
  readonly high: number;
  readonly low: number;
  /** On a side slice the stretch in front of the arm that is reached at ground height; null for none. */
  readonly ground: readonly [number, number] | null;
}

export function mapBounds({ request, grid, postures, origin }: ReachMap): MapBounds | null {
  let [out, inner, high, low] = [0, Infinity, -Infinity, Infinity];
  let [from, to] = [Infinity, -Infinity];
  postures.forEach((count, at) => {
    if (!count) return;
    const [x, y] = middleOf(grid, at);
    const isSide = request.plane === 'side';
    const r = isSide ? Math.abs(x) : Math.hypot(x - origin[0], y - origin[1]);
    out = Math.max(out, r);
    inner = Math.min(inner, r);
    if (!isSide) return;
    high = Math.max(high, y);
    low = Math.min(low, y);
    if (x > 0 && y >= 0 && y < grid.cell) {
      from = Math.min(from, x);
      to = Math.max(to, x);
    }
  });
  return out > 0 ? { out, in: inner, high, low, ground: to >= from ? [from, to] : null } : null;
}
