/**
 * A path through joint space over σ from 0 to 1: straight lines, splines, and the quintics that round the corners between them.
 * Position and its first two derivatives are continuous.
 */
import { splineInto, type Spline } from './spline';

/** A stretch between two corners, over a share from 0 to 1. */
export type Segment =
  | { readonly kind: 'line'; readonly start: Float64Array; readonly delta: Float64Array }
  | { readonly kind: 'spline'; readonly spline: Spline };

type Piece = { readonly from: number; readonly to: number } & (
  | { readonly segment: Segment; readonly low: number; readonly high: number }
  /** Per slot the six coefficients of a polynomial in (σ − from)/(to − from). */
  | { readonly quintic: Float64Array }
);

export interface JointPath {
  readonly m: number;
  readonly pieces: readonly Piece[];
  /** σ at which each segment ends: in the middle of its corner where that is rounded. */
  readonly ends: readonly number[];
}

export const lineSegment = (from: Float64Array, to: Float64Array): Segment => ({
  kind: 'line',
  start: from,
  delta: to.map((v, s) => v - from[s]),
});

/** Writes value and three derivatives by the segment's own share to out[0 … 3]. */
export function segmentInto(out: Float64Array, segment: Segment, slot: number, share: number): void {
  if (segment.kind === 'spline') return splineInto(out, segment.spline, slot, share);
  const { start, delta } = segment;
  out[0] = start[slot] + share * delta[slot];
  out[1] = delta[slot];
  out[2] = out[3] = 0;
}

/** How a corner is rounded: where the segment before is left and the one after joined (shares of each). */
export interface Corner {
  readonly leave: number;
  readonly join: number;
}

/**
 * Segments end to end. `weights`: their lengths along σ; any positive measure, the time they need at full speed say.
 * `corners[k]` stands between segment k and k + 1.
 */
export function joinSegments(
  segments: readonly Segment[],
  weights: readonly number[],
  corners: readonly Corner[],
): JointPath {
  const [first] = segments;
  const m = first.kind === 'line' ? first.start.length : first.spline.m;
  const pieces: { from: number; to: number; segment?: Segment; low: number; high: number; quintic?: Float64Array }[] =
    [];
  const ends: number[] = [];
  let at = 0;
  segments.forEach((segment, k) => {
    const low = k > 0 ? corners[k - 1].join : 0;
    const high = k < corners.length ? corners[k].leave : 1;
    const own = Math.max(0, high - low) * weights[k];
    if (own > 0) pieces.push({ from: at, to: at + own, segment, low, high });
    at += own;
    if (k < corners.length) {
      const length = (1 - high) * weights[k] + corners[k].join * weights[k + 1];
      const quintic = rounded(m, [segment, segments[k + 1]], [weights[k], weights[k + 1]], corners[k], length);
      pieces.push({ from: at, to: at + length, low: 0, high: 1, quintic });
      ends.push(at + (1 - high) * weights[k]);
      at += length;
    } else ends.push(at);
  });
  return {
    m,
    pieces: pieces.map(({ from, to, segment, low, high, quintic }, k) => {
      const span = { from: from / at, to: k === pieces.length - 1 ? 1 : to / at };
      return quintic ? { ...span, quintic } : { ...span, segment: segment!, low, high };
    }),
    ends: ends.map((e, k) => (k === ends.length - 1 ? 1 : e / at)),
  };
}

/** The quintic that meets position and two derivatives (by σ) at both of its ends. */
function rounded(
  m: number,
  [a, b]: readonly [Segment, Segment],
  [weightA, weightB]: readonly [number, number],
  { leave, join }: Corner,
  length: number,
): Float64Array {
  const c = new Float64Array(6 * m);
  const [p, q] = [new Float64Array(4), new Float64Array(4)];
  for (let s = 0; s < m; s++) {
    segmentInto(p, a, s, leave);
    segmentInto(q, b, s, join);
    const [ra, rb] = [length / weightA, length / weightB];
    const [v0, a0, v1, a1] = [p[1] * ra, p[2] * ra * ra, q[1] * rb, q[2] * rb * rb];
    const d = q[0] - p[0];
    c.set(
      [
        p[0],
        v0,
        a0 / 2,
        10 * d - 6 * v0 - 4 * v1 - 1.5 * a0 + 0.5 * a1,
        -15 * d + 8 * v0 + 7 * v1 + 1.5 * a0 - a1,
        6 * d - 3 * v0 - 3 * v1 - 0.5 * a0 + 0.5 * a1,
      ],
      6 * s,
    );
  }
  return c;
}

/** Index of the piece that holds σ. */
export function pieceAt({ pieces }: JointPath, sigma: number): number {
  let low = 0;
  let high = pieces.length - 1;
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (pieces[middle].from <= sigma) low = middle;
    else high = middle - 1;
  }
  return low;
}

/**
 * Writes q, q′, q″, q‴ (per unit of σ) of every slot to out, four values a slot; `piece`: the one that holds σ. The inner loop of
 * planning: no calls, nothing allocated.
 */
export function pathInto(out: Float64Array, path: JointPath, sigma: number, piece = pieceAt(path, sigma)): void {
  const found = path.pieces[piece];
  const { m } = path;
  const width = found.to - found.from;
  const u = Math.min(1, Math.max(0, (sigma - found.from) / width));
  if ('quintic' in found) {
    const c = found.quintic;
    const [r1, r2, r3] = [1 / width, 1 / (width * width), 1 / (width * width * width)];
    for (let s = 0, k = 0, o = 0; s < m; s++, k += 6, o += 4) {
      out[o] = c[k] + u * (c[k + 1] + u * (c[k + 2] + u * (c[k + 3] + u * (c[k + 4] + u * c[k + 5]))));
      out[o + 1] = r1 * (c[k + 1] + u * (2 * c[k + 2] + u * (3 * c[k + 3] + u * (4 * c[k + 4] + u * 5 * c[k + 5]))));
      out[o + 2] = r2 * (2 * c[k + 2] + u * (6 * c[k + 3] + u * (12 * c[k + 4] + u * 20 * c[k + 5])));
      out[o + 3] = r3 * (6 * c[k + 3] + u * (24 * c[k + 4] + u * 60 * c[k + 5]));
    }
    return;
  }
  const rate = (found.high - found.low) / width;
  const share = found.low + u * (found.high - found.low);
  const { segment } = found;
  if (segment.kind === 'line') {
    for (let s = 0, o = 0; s < m; s++, o += 4) {
      out[o] = segment.start[s] + share * segment.delta[s];
      out[o + 1] = rate * segment.delta[s];
      out[o + 2] = out[o + 3] = 0;
    }
    return;
  }
  const { n, value, slope } = segment.spline;
  const k = Math.min(n - 1, Math.max(0, Math.floor(share * n)));
  const w = share * n - k;
  const h = 1 / n;
  const [r1, r2, r3] = [rate * n, (rate * n) ** 2, (rate * n) ** 3];
  for (let s = 0, i = k * m, j = (k + 1) * m, o = 0; s < m; s++, i++, j++, o += 4) {
    const [p, q] = [h * slope[i], h * slope[j]];
    const d = value[j] - value[i];
    const c2 = 3 * d - 2 * p - q;
    const c3 = p + q - 2 * d;
    out[o] = value[i] + w * (p + w * (c2 + w * c3));
    out[o + 1] = r1 * (p + w * (2 * c2 + w * 3 * c3));
    out[o + 2] = r2 * (2 * c2 + w * 6 * c3);
    out[o + 3] = r3 * 6 * c3;
  }
}

/** Nodes along σ for limits to be held at: all ends of pieces and of the splines' segments, and places between. */
export function pathNodes({ pieces }: JointPath, least: number): Float64Array {
  const nodes: number[] = [0];
  for (const piece of pieces) {
    const width = piece.to - piece.from;
    const wanted = Math.max(2, Math.ceil(width * least));
    if ('quintic' in piece || piece.segment.kind === 'line') {
      const n = 'quintic' in piece ? Math.max(12, wanted) : wanted;
      for (let k = 1; k <= n; k++) nodes.push(piece.from + (width * k) / n);
      continue;
    }
    const { n } = piece.segment.spline;
    const parts = Math.max(1, Math.ceil(wanted / n));
    const places: number[] = [];
    for (let k = 0; k < n * parts; k++) {
      const share = (k + 1) / (n * parts);
      if (share > piece.low + 1e-9 && share < piece.high - 1e-9) places.push(share);
    }
    places.push(piece.high);
    for (const share of places) nodes.push(piece.from + (width * (share - piece.low)) / (piece.high - piece.low));
  }
  nodes[nodes.length - 1] = 1;
  return Float64Array.from(nodes);
}
