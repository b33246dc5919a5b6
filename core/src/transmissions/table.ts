/**
 * A measured table between one motor and one or more joints (two lids on one servo): a cubic through the points that
 * rises where they rise and nowhere overshoots (Fritsch & Carlson 1980). The first joint decides the motor's angle; the others
 * follow it. Nothing is said beyond the first and last point.
 */
import type { Coupling, CouplingResult } from './coupling';

export interface TablePoint {
  readonly driveDeg: number;
  readonly joints: readonly number[];
}

interface Curve {
  at(x: number): { value: number; first: number; second: number };
}

/** Monotone cubic through (x, y), x rising. */
function curve(x: readonly number[], y: readonly number[]): Curve {
  const n = x.length;
  const slope = x.slice(1).map((v, k) => (y[k + 1] - y[k]) / (v - x[k]));
  const m = x.map((_, k) =>
    k === 0
      ? slope[0]
      : k === n - 1
        ? slope[n - 2]
        : slope[k - 1] * slope[k] <= 0
          ? 0
          : // Weighted harmonic mean: never more than three times the smaller slope.
            harmonic(x[k] - x[k - 1], x[k + 1] - x[k], slope[k - 1], slope[k]),
  );
  return {
    at(v) {
      let k = 0;
      while (k < n - 2 && v > x[k + 1]) k++;
      const h = x[k + 1] - x[k];
      const t = (v - x[k]) / h;
      const [a, b] = [y[k], y[k + 1]];
      const [p, q] = [h * m[k], h * m[k + 1]];
      const c2 = 3 * (b - a) - 2 * p - q;
      const c3 = 2 * (a - b) + p + q;
      return {
        value: a + t * (p + t * (c2 + t * c3)),
        first: (p + t * (2 * c2 + 3 * t * c3)) / h,
        second: (2 * c2 + 6 * t * c3) / (h * h),
      };
    },
  };
}

function harmonic(h0: number, h1: number, d0: number, d1: number): number {
  const [w0, w1] = [2 * h1 + h0, h1 + 2 * h0];
  return (w0 + w1) / (w0 / d0 + w1 / d1);
}

export function tableCoupling(points: readonly TablePoint[]): CouplingResult {
  const sorted = [...points].sort((a, b) => a.driveDeg - b.driveDeg);
  const n = sorted.length;
  const width = sorted[0]?.joints.length ?? 0;
  if (n < 2 || !width || sorted.some((p) => p.joints.length !== width))
    return { ok: false, fault: { code: 'shape-mismatch', data: { got: n, want: 2 } } };
  const x = sorted.map((p) => p.driveDeg);
  const main = sorted.map((p) => p.joints[0]);
  const sense = Math.sign(main[n - 1] - main[0]);
  for (let k = 1; k < n; k++)
    if (!(x[k] > x[k - 1]) || !(sense * (main[k] - main[k - 1]) > 0))
      return { ok: false, fault: { code: 'table-not-rising', data: { at: x[k] } } };
  const curves = Array.from({ length: width }, (_, j) =>
    curve(
      x,
      sorted.map((p) => p.joints[j]),
    ),
  );
  const domain: readonly [number, number] = [x[0], x[n - 1]];
  const motorFor = (joint: number): number | null => {
    const share = sense * (joint - main[0]);
    if (share < -1e-9 || share > Math.abs(main[n - 1] - main[0]) + 1e-9) return null;
    let [low, high] = domain;
    for (let i = 0; i < 60; i++) {
      const middle = (low + high) / 2;
      if (sense * (curves[0].at(middle).value - joint) < 0) low = middle;
      else high = middle;
    }
    return (low + high) / 2;
  };
  const coupling: Coupling = {
    domain,
    toDrives([joint]) {
      const motor = motorFor(joint);
      return motor === null ? null : [motor];
    },
    toJoints([motor]) {
      if (motor < domain[0] - 1e-9 || motor > domain[1] + 1e-9) return null;
      return curves.map((c) => c.at(motor).value);
    },
    rates([joint]) {
      const motor = motorFor(joint);
      return motor === null ? null : curves.map((c) => [c.at(motor).first]);
    },
    bend([joint]) {
      const motor = motorFor(joint);
      return motor === null ? 0 : curves[0].at(motor).second;
    },
  };
  return { ok: true, coupling };
}
