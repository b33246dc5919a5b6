/**
 * Solves the symmetric positive definite system A·x = b by Cholesky factorisation in place (Golub & Van Loan,
 * *Matrix Computations*, alg. 4.2.1).
 *
 * `a` holds the n×n matrix row by row (its lower triangle is used and overwritten), `b` is overwritten with x. The factor's
 * diagonal is kept as its reciprocals: one division a row.
 * Returns false, leaving both in an undefined state, where A is not positive definite to working precision.
 */
export function choleskySolveInto(a: Float64Array, b: Float64Array, n: number): boolean {
  if (n === 6) return sixInto(a, b);
  for (let j = 0; j < n; j++) {
    let d = a[j * n + j];
    for (let k = 0; k < j; k++) d -= a[j * n + k] * a[j * n + k];
    if (!(d > 0)) return false;
    const over = 1 / Math.sqrt(d);
    a[j * n + j] = over;
    for (let i = j + 1; i < n; i++) {
      let s = a[i * n + j];
      for (let k = 0; k < j; k++) s -= a[i * n + k] * a[j * n + k];
      a[i * n + j] = s * over;
    }
  }
  for (let i = 0; i < n; i++) {
    let s = b[i];
    for (let k = 0; k < i; k++) s -= a[i * n + k] * b[k];
    b[i] = s * a[i * n + i];
  }
  for (let i = n - 1; i >= 0; i--) {
    let s = b[i];
    for (let k = i + 1; k < n; k++) s -= a[k * n + i] * b[k];
    b[i] = s * a[i * n + i];
  }
  return true;
}

/** The same for six unknowns, in registers. */
function sixInto(a: Float64Array, b: Float64Array): boolean {
  const d0 = a[0];
  if (!(d0 > 0)) return false;
  const i0 = 1 / d0;
  const l10 = a[6] * i0,
    l20 = a[12] * i0,
    l30 = a[18] * i0,
    l40 = a[24] * i0,
    l50 = a[30] * i0;
  const d1 = a[7] - a[6] * l10;
  if (!(d1 > 0)) return false;
  const i1 = 1 / d1;
  const u21 = a[13] - a[12] * l10,
    u31 = a[19] - a[18] * l10,
    u41 = a[25] - a[24] * l10,
    u51 = a[31] - a[30] * l10;
  const l21 = u21 * i1,
    l31 = u31 * i1,
    l41 = u41 * i1,
    l51 = u51 * i1;
  const d2 = a[14] - a[12] * l20 - u21 * l21;
  if (!(d2 > 0)) return false;
  const i2 = 1 / d2;
  const u32 = a[20] - a[18] * l20 - u31 * l21,
    u42 = a[26] - a[24] * l20 - u41 * l21,
    u52 = a[32] - a[30] * l20 - u51 * l21;
  const l32 = u32 * i2,
    l42 = u42 * i2,
    l52 = u52 * i2;
  const d3 = a[21] - a[18] * l30 - u31 * l31 - u32 * l32;
  if (!(d3 > 0)) return false;
  const i3 = 1 / d3;
  const u43 = a[27] - a[24] * l30 - u41 * l31 - u42 * l32,
    u53 = a[33] - a[30] * l30 - u51 * l31 - u52 * l32;
  const l43 = u43 * i3,
    l53 = u53 * i3;
  const d4 = a[28] - a[24] * l40 - u41 * l41 - u42 * l42 - u43 * l43;
  if (!(d4 > 0)) return false;
  const i4 = 1 / d4;
  const u54 = a[34] - a[30] * l40 - u51 * l41 - u52 * l42 - u53 * l43;
  const l54 = u54 * i4;
  const d5 = a[35] - a[30] * l50 - u51 * l51 - u52 * l52 - u53 * l53 - u54 * l54;
  if (!(d5 > 0)) return false;
  const y0 = b[0];
  const y1 = b[1] - l10 * y0;
  const y2 = b[2] - l20 * y0 - l21 * y1;
  const y3 = b[3] - l30 * y0 - l31 * y1 - l32 * y2;
  const y4 = b[4] - l40 * y0 - l41 * y1 - l42 * y2 - l43 * y3;
  const y5 = b[5] - l50 * y0 - l51 * y1 - l52 * y2 - l53 * y3 - l54 * y4;
  const x5 = y5 / d5;
  const x4 = y4 * i4 - l54 * x5;
  const x3 = y3 * i3 - l43 * x4 - l53 * x5;
  const x2 = y2 * i2 - l32 * x3 - l42 * x4 - l52 * x5;
  const x1 = y1 * i1 - l21 * x2 - l31 * x3 - l41 * x4 - l51 * x5;
  b[0] = y0 * i0 - l10 * x1 - l20 * x2 - l30 * x3 - l40 * x4 - l50 * x5;
  b[1] = x1;
  b[2] = x2;
  b[3] = x3;
  b[4] = x4;
  b[5] = x5;
  return true;
}
