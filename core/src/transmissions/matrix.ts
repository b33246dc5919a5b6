/**
 * Constant transmissions. Ratio: motor = reduction · joint. Matrix: motors = A · joints, for belts and shafts carried
 * through other joints, parallel-bar elbows and two-motor wrists; then τ_m = A⁻ᵀ τ_j.
 */
import type { Coupling, CouplingResult } from './coupling';

export function ratioCoupling(reduction: number): CouplingResult {
  if (reduction === 0 || !Number.isFinite(reduction)) return { ok: false, fault: { code: 'ratio-zero', data: {} } };
  return {
    ok: true,
    coupling: {
      toDrives: ([q]) => [q * reduction],
      toJoints: ([m]) => [m / reduction],
      rates: () => [[1 / reduction]],
      bend: () => 0,
      domain: null,
    },
  };
}

/** Determinants below this share of the product of row lengths count as none. */
const SINGULAR = 1e-9;

export function matrixCoupling(matrix: readonly (readonly number[])[]): CouplingResult {
  const n = matrix.length;
  if (!n || matrix.some((row) => row.length !== n))
    return {
      ok: false,
      fault: { code: 'shape-mismatch', data: { got: matrix.map((r) => r.length).join(', '), want: n } },
    };
  const inverse = invert(matrix);
  if (!inverse) return { ok: false, fault: { code: 'matrix-singular', data: {} } };
  const times = (m: readonly (readonly number[])[], v: readonly number[]): number[] =>
    m.map((row) => row.reduce((sum, f, k) => sum + f * v[k], 0));
  const coupling: Coupling = {
    toDrives: (joints) => times(matrix, joints),
    toJoints: (drives) => times(inverse, drives),
    rates: () => inverse,
    bend: () => 0,
    domain: null,
  };
  return { ok: true, coupling };
}

/** Inverse by Gauss–Jordan elimination with partial pivoting; null where there is none. */
export function invert(matrix: readonly (readonly number[])[]): number[][] | null {
  const n = matrix.length;
  const a = matrix.map((row, i) => [...row, ...row.map((_, j) => Number(i === j))]);
  const scale = matrix.reduce((product, row) => product * Math.max(Math.hypot(...row), 1e-300), 1);
  let det = 1;
  for (let c = 0; c < n; c++) {
    let pivot = c;
    for (let r = c + 1; r < n; r++) if (Math.abs(a[r][c]) > Math.abs(a[pivot][c])) pivot = r;
    [a[c], a[pivot]] = [a[pivot], a[c]];
    det *= a[c][c];
    if (a[c][c] === 0) return null;
    const own = a[c].map((v) => v / a[c][c]);
    a[c] = own;
    for (let r = 0; r < n; r++) if (r !== c) a[r] = a[r].map((v, k) => v - a[r][c] * own[k]);
  }
  return Math.abs(det) < SINGULAR * scale ? null : a.map((row) => row.slice(n));
}
