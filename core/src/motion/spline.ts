/**
 * Cubic splines through evenly spaced knots on 0 … 1, one a slot, with position and first two derivatives continuous. Slopes at
 * both ends by one-sided differences of the third order; the inner ones from the tridiagonal system of equal second derivatives
 * (de Boor, *A Practical Guide to Splines*, ch. IV).
 */

export interface Spline {
  /** Segments; there is one knot more. */
  readonly n: number;
  readonly m: number;
  /** Per knot m values each: position and slope per unit of s. */
  readonly value: Float64Array;
  readonly slope: Float64Array;
}

/** Through knots[k] (k = 0 … n, n at least 3: the slopes at the ends look at four), each m long. */
export function splineThrough(knots: readonly Float64Array[]): Spline {
  const n = knots.length - 1;
  const { length: m } = knots[0];
  const h = 1 / n;
  const value = new Float64Array((n + 1) * m);
  const slope = new Float64Array((n + 1) * m);
  knots.forEach((knot, k) => value.set(knot, k * m));
  const [upper, right] = [new Float64Array(n + 1), new Float64Array(n + 1)];
  for (let s = 0; s < m; s++) {
    const f = (k: number): number => knots[k][s];
    const first = (-11 * f(0) + 18 * f(1) - 9 * f(2) + 2 * f(3)) / (6 * h);
    const last = (11 * f(n) - 18 * f(n - 1) + 9 * f(n - 2) - 2 * f(n - 3)) / (6 * h);
    // Thomas's algorithm on d[k−1] + 4 d[k] + d[k+1] = 3 (f[k+1] − f[k−1]) / h.
    [upper[0], right[0]] = [0, first];
    for (let k = 1; k < n; k++) {
      const pivot = 4 - upper[k - 1];
      upper[k] = 1 / pivot;
      right[k] = ((3 * (f(k + 1) - f(k - 1))) / h - right[k - 1]) / pivot;
    }
    slope[n * m + s] = last;
    for (let k = n - 1; k > 0; k--) slope[k * m + s] = right[k] - upper[k] * slope[(k + 1) * m + s];
    slope[s] = first;
  }
  return { n, m, value, slope };
}

/** Writes q, q′, q″, q‴ (per unit of s) of slot `slot` at s (0 … 1) to out[0 … 3]. */
export function splineInto(out: Float64Array, { n, m, value, slope }: Spline, slot: number, s: number): void {
  const h = 1 / n;
  const k = Math.min(n - 1, Math.max(0, Math.floor(s * n)));
  const u = s * n - k;
  const [a, b] = [value[k * m + slot], value[(k + 1) * m + slot]];
  const [p, q] = [h * slope[k * m + slot], h * slope[(k + 1) * m + slot]];
  const c2 = 3 * (b - a) - 2 * p - q;
  const c3 = 2 * (a - b) + p + q;
  out[0] = a + u * (p + u * (c2 + u * c3));
  out[1] = (p + u * (2 * c2 + u * 3 * c3)) * n;
  out[2] = (2 * c2 + u * 6 * c3) * n * n;
  out[3] = 6 * c3 * n * n * n;
}
