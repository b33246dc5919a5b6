/** The outer surface of a map in space as triangles: naive surface nets (Gibson 1998), smoothed. */
import { cellsOf } from './grid';
import type { ReachMap } from './map';

export interface ShellMesh {
  /** x y z after one another (m, world). */
  readonly positions: Float32Array;
  readonly triangles: Uint32Array;
}

/** Rounds of moving each vertex to the middle of its neighbours. */
const SMOOTHING = 3;

/**
 * The surface between reached and unreached cells. Cells whose six neighbours are mostly reached count as reached too: with
 * sampling a few inside may have been missed.
 */
export function shellMesh({ grid, postures }: ReachMap): ShellMesh {
  const [nx, ny, nz] = grid.size;
  const raw = (i: number, j: number, k: number): number =>
    i < 0 || j < 0 || k < 0 || i >= nx || j >= ny || k >= nz ? 0 : Number(postures[(k * ny + j) * nx + i] > 0);
  const filled = new Uint8Array(cellsOf(grid));
  for (let k = 0; k < nz; k++)
    for (let j = 0; j < ny; j++)
      for (let i = 0; i < nx; i++) {
        const around =
          raw(i - 1, j, k) +
          raw(i + 1, j, k) +
          raw(i, j - 1, k) +
          raw(i, j + 1, k) +
          raw(i, j, k - 1) +
          raw(i, j, k + 1);
        filled[(k * ny + j) * nx + i] = raw(i, j, k) || around >= 5 ? 1 : 0;
      }
  const inside = (i: number, j: number, k: number): number =>
    i < 0 || j < 0 || k < 0 || i >= nx || j >= ny || k >= nz ? 0 : filled[(k * ny + j) * nx + i];
  // One vertex in every cube of eight cell middles that the surface passes; cube (i, j, k) begins at cell i − 1, j − 1, k − 1.
  const vertex = new Map<number, number>();
  const points: number[] = [];
  const cube = (i: number, j: number, k: number): number => (k * (ny + 1) + j) * (nx + 1) + i;
  const vertexOf = (i: number, j: number, k: number): number => {
    const key = cube(i, j, k);
    let index = vertex.get(key);
    if (index === undefined) {
      vertex.set(key, (index = points.length / 3));
      points.push((grid.first[0] + i) * grid.cell, (grid.first[1] + j) * grid.cell, (grid.first[2] + k) * grid.cell);
    }
    return index;
  };
  const triangles: number[] = [];
  const quad = (a: number, b: number, c: number, d: number, flip: boolean): void => {
    triangles.push(...(flip ? [a, c, b, a, d, c] : [a, b, c, a, c, d]));
  };
  for (let k = 0; k <= nz; k++)
    for (let j = 0; j <= ny; j++)
      for (let i = 0; i <= nx; i++) {
        const here = inside(i, j, k);
        // Faces between this cell and the one before it along each axis.
        const x = inside(i - 1, j, k);
        if (here !== x)
          quad(vertexOf(i, j, k), vertexOf(i, j + 1, k), vertexOf(i, j + 1, k + 1), vertexOf(i, j, k + 1), here > x);
        const y = inside(i, j - 1, k);
        if (here !== y)
          quad(vertexOf(i, j, k), vertexOf(i, j, k + 1), vertexOf(i + 1, j, k + 1), vertexOf(i + 1, j, k), here > y);
        const z = inside(i, j, k - 1);
        if (here !== z)
          quad(vertexOf(i, j, k), vertexOf(i + 1, j, k), vertexOf(i + 1, j + 1, k), vertexOf(i, j + 1, k), here > z);
      }
  const positions = Float32Array.from(points);
  const mesh = { positions, triangles: Uint32Array.from(triangles) };
  for (let round = 0; round < SMOOTHING; round++) smooth(mesh);
  return mesh;
}

function smooth({ positions, triangles }: ShellMesh): void {
  const sum = new Float32Array(positions.length);
  const count = new Uint16Array(positions.length / 3);
  const link = (a: number, b: number): void => {
    for (let c = 0; c < 3; c++) sum[3 * a + c] += positions[3 * b + c];
    count[a]++;
  };
  for (let t = 0; t < triangles.length; t += 3)
    for (let e = 0; e < 3; e++) {
      const [a, b] = [triangles[t + e], triangles[t + ((e + 1) % 3)]];
      link(a, b);
      link(b, a);
    }
  for (let v = 0; v < count.length; v++)
    if (count[v])
      for (let c = 0; c < 3; c++) positions[3 * v + c] = (positions[3 * v + c] + sum[3 * v + c] / count[v]) / 2;
}
