/**
 * Solves the symmetric positive definite system A·x = b by Cholesky factorisation in place (Golub & Van Loan,
 * *Matrix Computations*, alg. 4.2.1).
 *
 * `a` holds the n×n matrix row by row (its lower triangle is used and overwritten), `b` is overwritten with x. The factor's
 * diagonal is kept as its reciprocals: one division a row.
 * Returns false, leaving both in an undefined state, where A is not positive definite to working precision.
 */
export function choleskySolveInto(a: Float64Array, b: Float64Array, n: number): boolean {
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
