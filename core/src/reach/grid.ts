/** Grids that maps are made on: cells of a round size, aligned to the world, so that two maps of one size can be compared. */

export interface Grid {
  /** Edge of a cell (m). */
  readonly cell: number;
  /** Index of the first cell along each axis: cell i covers [i, i + 1]·cell. */
  readonly first: readonly [number, number, number];
  /** Cells along each axis; 1 for what a slice does not have. */
  readonly size: readonly [number, number, number];
}

export const cellsOf = ({ size }: Grid): number => size[0] * size[1] * size[2];

/** Index of the cell that holds a point (m along the grid's axes); −1 outside. */
export function cellAt({ cell, first, size }: Grid, x: number, y: number, z = 0): number {
  const i = Math.floor(x / cell) - first[0];
  const j = Math.floor(y / cell) - first[1];
  const k = size[2] === 1 ? 0 : Math.floor(z / cell) - first[2];
  if (i < 0 || j < 0 || k < 0 || i >= size[0] || j >= size[1] || k >= size[2]) return -1;
  return (k * size[1] + j) * size[0] + i;
}

/** Middle (m along the grid's axes) of a cell. */
export function middleOf({ cell, first, size }: Grid, index: number): [number, number, number] {
  const i = index % size[0];
  const j = Math.floor(index / size[0]) % size[1];
  const k = Math.floor(index / (size[0] * size[1]));
  return [(first[0] + i + 0.5) * cell, (first[1] + j + 0.5) * cell, (first[2] + k + 0.5) * cell];
}

const ROUND = [1, 1.5, 2, 2.5, 3, 4, 5, 6, 8];

/** The smallest round length (m: 1, 1.5, 2, 2.5, 3, 4, 5, 6 or 8 times a power of ten) that is no less than `least`. */
export function roundLength(least: number): number {
  const power = 10 ** Math.floor(Math.log10(least));
  return (ROUND.find((f) => f * power >= least * (1 - 1e-9)) ?? 10) * power;
}

/** The grid of cells `cell` over boxes [low, high] (m) along each axis; an axis without extent has one cell. */
export function gridOver(cell: number, low: readonly number[], high: readonly number[]): Grid {
  const first = low.map((v) => Math.floor(v / cell)) as [number, number, number];
  const size = high.map((v, k) => Math.max(1, Math.ceil(v / cell) - first[k])) as [number, number, number];
  return { cell, first, size };
}
