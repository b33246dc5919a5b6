import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { compiled, fourAxis, poseOf } from '../kinematics/arms.testkit';
import { evaluateInto, jointMove, peaks, sampleBlockInto, sCurve } from './index';

const positive = fc.double({ min: 0.01, max: 100, noNaN: true });
const at = (curve: ReturnType<typeof sCurve>, t: number): number[] => {
  const out = new Float64Array(4);
  evaluateInto(out, curve, t);
  return [...out];
};

describe('sCurve', () => {
  it('goes exactly the length, inside every limit, and never backwards', () => {
    fc.assert(
      fc.property(positive, positive, positive, positive, (h, v, a, j) => {
        const curve = sCurve(h, v, a, j);
        const top = peaks(curve);
        expect(top.speed).toBeLessThanOrEqual(v * (1 + 1e-9));
        expect(top.accel).toBeLessThanOrEqual(a * (1 + 1e-9));
        expect(top.jerk).toBeLessThanOrEqual(j * (1 + 1e-9));
        let last = 0;
        let worst = -Infinity;
        for (let i = 0; i <= 200; i++) {
          const [s, speed, accel] = at(curve, (curve.duration * i) / 200);
          worst = Math.max(worst, (last - s) / h, speed / v - 1, Math.abs(accel) / a - 1);
          last = s;
        }
        expect(worst).toBeLessThanOrEqual(1e-9);
        expect(at(curve, curve.duration)[0]).toBe(h);
      }),
    );
  });
  it('has speed and acceleration that are the derivatives of what comes before them', () => {
    fc.assert(
      fc.property(
        positive,
        positive,
        positive,
        positive,
        fc.double({ min: 0.02, max: 0.98, noNaN: true }),
        (h, v, a, j, f) => {
          const curve = sCurve(h, v, a, j);
          const t = f * curve.duration;
          const d = curve.duration * 1e-5;
          const [low, mid, high] = [at(curve, t - d), at(curve, t), at(curve, t + d)];
          expect((high[0] - low[0]) / (2 * d)).toBeCloseTo(mid[1], -Math.log10(v * 1e-3 + 1e-9));
          expect(Math.abs((high[1] - low[1]) / (2 * d) - mid[2])).toBeLessThanOrEqual(
            peaks(curve).jerk * d * 1.01 + 1e-6 * peaks(curve).accel,
          );
        },
      ),
    );
  });
  it('is time-optimal: one of speed, acceleration, jerk is at its limit in every phase', () => {
    fc.assert(
      fc.property(positive, positive, positive, positive, (h, v, a, j) => {
        const curve = sCurve(h, v, a, j);
        const top = peaks(curve);
        expect(top.jerk).toBeGreaterThan(j * (1 - 1e-9));
        if (curve.tv > 0) expect(top.speed).toBeGreaterThan(v * (1 - 1e-9));
        if (curve.ta > 2 * curve.tj * (1 + 1e-9)) expect(top.accel).toBeGreaterThan(a * (1 - 1e-9));
        const least = Math.max(h / v, 2 * Math.sqrt(h / a), 4 * Math.cbrt(h / (2 * j)));
        expect(curve.duration).toBeGreaterThanOrEqual(least * (1 - 1e-9));
        expect(curve.duration).toBeLessThanOrEqual(
          (h / v + Math.sqrt((4 * h) / a) + 4 * Math.cbrt(h / (2 * j)) + v / a + a / j) * (1 + 1e-9),
        );
      }),
    );
  });
});

describe('jointMove', () => {
  const mechanism = compiled(fourAxis());
  const shares = fc.array(fc.double({ min: 0, max: 1, noNaN: true }), { minLength: 4, maxLength: 4 });
  it('keeps every joint inside its limits at ten times a fine sampling, and all arrive together', () => {
    fc.assert(
      fc.property(shares, shares, fc.double({ min: 0.05, max: 1, noNaN: true }), (a, b, speedShare) => {
        const block = jointMove(mechanism, poseOf(mechanism, a), poseOf(mechanism, b), { speedShare });
        const [p, v, acc] = [0, 1, 2].map(() => new Float64Array(4));
        let worst = -Infinity;
        for (let i = 0; i <= 500; i++) {
          sampleBlockInto(p, v, acc, block, (block.duration * i) / 500);
          for (let s = 0; s < 4; s++)
            worst = Math.max(
              worst,
              mechanism.lower[s] - p[s],
              p[s] - mechanism.upper[s],
              Math.abs(v[s]) / (mechanism.speed[s] * speedShare) - 1,
              Math.abs(acc[s]) / (mechanism.accel[s] * speedShare ** 2) - 1,
            );
        }
        expect(worst).toBeLessThanOrEqual(1e-9);
        sampleBlockInto(p, v, acc, block, block.duration);
        expect([...p]).toEqual([...poseOf(mechanism, b)]);
      }),
    );
  });
  it('takes exactly the wished time, on the same path, and never less than the least', () => {
    const from = poseOf(mechanism, [0.1, 0.2, 0.3, 0.4]);
    const to = poseOf(mechanism, [0.8, 0.7, 0.5, 0.6]);
    const fast = jointMove(mechanism, from, to);
    expect(jointMove(mechanism, from, to, { durationS: 9 }).duration).toBeCloseTo(9, 12);
    expect(jointMove(mechanism, from, to, { durationS: fast.duration / 2 }).duration).toBe(fast.duration);
    expect(jointMove(mechanism, from, to, { speedShare: 0.5 }).duration).toBeCloseTo(2 * fast.duration, 12);
  });
  it('takes no time where nothing moves', () => {
    const at = poseOf(mechanism, [0.5, 0.5, 0.5, 0.5]);
    expect(jointMove(mechanism, at, at).duration).toBe(0);
  });
});
