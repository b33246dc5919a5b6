/** Eigenvalues of small symmetric matrices by cyclic Jacobi rotations (Golub & Van Loan, *Matrix Computations*, sec. 8.5). */

const SWEEPS = 30;
/** Off-diagonal squares summed below this share of all squares count as none. */
const NONE = 1e-26;

/** Eigenvalues, unordered, of the n × n symmetric matrix `a` (row by row), which is overwritten. */
export function symmetricEigenvalues(a: Float64Array, n: number): Float64Array {
  for (let sweep = 0; sweep < SWEEPS; sweep++) {
    let off = 0;
    let on = 0;
    for (let i = 0; i < n; i++) {
      on += a[i * n + i] ** 2;
      for (let j = 0; j < i; j++) off += a[i * n + j] ** 2;
    }
    if (off <= NONE * (on + off)) break;
    for (let p = 0; p < n; p++)
      for (let q = p + 1; q < n; q++) {
        const apq = a[p * n + q];
        if (apq === 0) continue;
        const theta = (a[q * n + q] - a[p * n + p]) / (2 * apq);
        const t = Math.sign(theta || 1) / (Math.abs(theta) + Math.sqrt(theta * theta + 1));
        const c = 1 / Math.sqrt(t * t + 1);
        const s = t * c;
        for (let k = 0; k < n; k++) {
          const akp = a[k * n + p];
          const akq = a[k * n + q];
          a[k * n + p] = c * akp - s * akq;
          a[k * n + q] = s * akp + c * akq;
        }
        for (let k = 0; k < n; k++) {
          const apk = a[p * n + k];
          const aqk = a[q * n + k];
          a[p * n + k] = c * apk - s * aqk;
          a[q * n + k] = s * apk + c * aqk;
        }
      }
  }
  return Float64Array.from({ length: n }, (_, i) => a[i * n + i]);
}
