/**
 * The outline of many quadrilaterals that overlap: they are laid on a fine grid, and the line where the cover of the grid's points falls
 * below a half is followed (marching squares, W. E. Lorensen and H. E. Cline 1987, in two dimensions) and straightened where that moves
 * it by less than half a cell (D. H. Douglas and T. K. Peucker 1973).
 */

/** Cells along the longer side. */
const CELLS = 560;
/** Cells of free room around. */
const RIM = 3;

/** Corners x, y in turn, four a quadrilateral, in any unit; closed loops of x, y, outer ones and holes alike (even–odd rule). */
export function outlineOf(quads: ArrayLike<number>): Float64Array[] {
  let [x0, x1, y0, y1] = [Infinity, -Infinity, Infinity, -Infinity];
  for (let i = 0; i < quads.length; i += 2) {
    x0 = Math.min(x0, quads[i]);
    x1 = Math.max(x1, quads[i]);
    y0 = Math.min(y0, quads[i + 1]);
    y1 = Math.max(y1, quads[i + 1]);
  }
  const cell = Math.max(x1 - x0, y1 - y0) / CELLS;
  if (!(cell > 0)) return [];
  const nx = Math.ceil((x1 - x0) / cell) + 1 + 2 * RIM;
  const ny = Math.ceil((y1 - y0) / cell) + 1 + 2 * RIM;
  const covered = new Uint8Array(nx * ny);
  const [px, py] = [new Float64Array(4), new Float64Array(4)];
  for (let i = 0; i < quads.length; i += 8) {
    for (let k = 0; k < 4; k++) {
      px[k] = (quads[i + 2 * k] - x0) / cell + RIM;
      py[k] = (quads[i + 2 * k + 1] - y0) / cell + RIM;
    }
    const low = Math.ceil(Math.min(py[0], py[1], py[2], py[3]));
    const high = Math.floor(Math.max(py[0], py[1], py[2], py[3]));
    for (let y = low; y <= high; y++) {
      let [from, to] = [Infinity, -Infinity];
      for (let k = 0; k < 4; k++) {
        const n = (k + 1) % 4;
        if (py[k] > y === py[n] > y && py[k] !== y) continue;
        const x = py[n] === py[k] ? px[k] : px[k] + ((y - py[k]) / (py[n] - py[k])) * (px[n] - px[k]);
        from = Math.min(from, x);
        to = Math.max(to, x);
      }
      if (from <= to) covered.fill(1, y * nx + Math.ceil(from - 0.5), y * nx + Math.floor(to + 0.5) + 1);
    }
  }
  // The mean over neighbours tells how near the edge is, and makes of stairs a slope.
  const cover = new Float64Array(nx * ny);
  for (let y = 1; y < ny - 1; y++)
    for (let x = 1; x < nx - 1; x++) {
      let sum = 0;
      for (let dy = -1; dy <= 1; dy++) for (let dx = -1; dx <= 1; dx++) sum += covered[(y + dy) * nx + x + dx];
      cover[y * nx + x] = sum / 9 - 0.5;
    }
  return loopsOf(cover, nx, ny)
    .map((loop) => straightened(loop, 0.5))
    .filter((loop) => loop.length >= 6)
    .map((loop) => loop.map((v, k) => (v - RIM) * cell + (k % 2 ? y0 : x0)));
}

/** Lines of the height nought of a grid of heights, closed, the higher side always on the same hand; in cells. */
function loopsOf(height: Float64Array, nx: number, ny: number): Float64Array[] {
  // An edge is known by its lower left point: 2·point to the right of it, 2·point + 1 above it.
  const next = new Map<number, number>();
  const follow = (from: number, to: number): void => void next.set(from, to);
  for (let y = 0; y < ny - 1; y++)
    for (let x = 0; x < nx - 1; x++) {
      const p = y * nx + x;
      const [a, b, c, d] = [height[p] > 0, height[p + 1] > 0, height[p + nx + 1] > 0, height[p + nx] > 0];
      if (a === b && b === c && c === d) continue;
      const [bottom, right, top, left] = [2 * p, 2 * (p + 1) + 1, 2 * (p + nx), 2 * p + 1];
      // Round the cell, the covered side on the left.
      const inn: number[] = [];
      const out: number[] = [];
      const cross = (before: boolean, after: boolean, edge: number): void => {
        if (before === after) return;
        (before ? out : inn).push(edge);
      };
      cross(a, b, bottom);
      cross(b, c, right);
      cross(c, d, top);
      cross(d, a, left);
      // Of two covered corners across from each other each keeps its own line.
      if (inn.length === 1) follow(out[0], inn[0]);
      else {
        follow(out[0], a ? inn[1] : inn[0]);
        follow(out[1], a ? inn[0] : inn[1]);
      }
    }
  const place = (edge: number): readonly [number, number] => {
    const p = edge >> 1;
    const other = edge % 2 ? p + nx : p + 1;
    const share = height[p] / (height[p] - height[other]);
    const [x, y] = [p % nx, Math.floor(p / nx)];
    return edge % 2 ? [x, y + share] : [x + share, y];
  };
  const loops: Float64Array[] = [];
  for (const first of [...next.keys()]) {
    if (!next.has(first)) continue;
    const loop: number[] = [];
    for (let edge: number | undefined = first; edge !== undefined;) {
      loop.push(...place(edge));
      const on: number | undefined = next.get(edge);
      next.delete(edge);
      edge = on !== undefined && next.has(on) ? on : undefined;
    }
    loops.push(Float64Array.from(loop));
  }
  return loops;
}

/** A closed line with the points left out that are within `off` of the line without them. */
function straightened(loop: Float64Array, off: number): Float64Array {
  const n = loop.length / 2;
  if (n < 8) return loop;
  const keep = new Uint8Array(n);
  // Two ends to begin with: the first point and the one farthest from it.
  let far = 0;
  for (let k = 1, most = 0; k < n; k++) {
    const d = Math.hypot(loop[2 * k] - loop[0], loop[2 * k + 1] - loop[1]);
    if (d > most) [most, far] = [d, k];
  }
  keep[0] = keep[far] = 1;
  const open: [number, number][] = [
    [0, far],
    [far, n],
  ];
  for (let span = open.pop(); span; span = open.pop()) {
    const [a, b] = span;
    const [ax, ay] = [loop[2 * a], loop[2 * a + 1]];
    const [bx, by] = [loop[2 * (b % n)] - ax, loop[2 * (b % n) + 1] - ay];
    const long = Math.hypot(bx, by);
    let [most, at] = [off, -1];
    for (let k = a + 1; k < b; k++) {
      const [x, y] = [loop[2 * k] - ax, loop[2 * k + 1] - ay];
      const d = long > 0 ? Math.abs(x * by - y * bx) / long : Math.hypot(x, y);
      if (d > most) [most, at] = [d, k];
    }
    if (at < 0) continue;
    keep[at] = 1;
    open.push([a, at], [at, b]);
  }
  return Float64Array.from([...keep.keys()].filter((k) => keep[k]).flatMap((k) => [loop[2 * k], loop[2 * k + 1]]));
}
