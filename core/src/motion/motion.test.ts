import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { compiled, fourAxis, poseOf } from '../kinematics/arms.testkit';
import { evaluateInto, jointMove, profileKinds, profileOf, sampleBlockInto, sCurve, type Profile } from './index';
import { between } from '../units/between.testkit';

const peaks = (curve: Profile): Profile['top'] => curve.top;

const positive = between(0.01, 100);
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
      fc.property(positive, positive, positive, positive, between(0.02, 0.98), (h, v, a, j, f) => {
        const curve = sCurve(h, v, a, j);
        const t = f * curve.duration;
        const d = curve.duration * 1e-5;
        const [low, mid, high] = [at(curve, t - d), at(curve, t), at(curve, t + d)];
        expect((high[0] - low[0]) / (2 * d)).toBeCloseTo(mid[1], -Math.log10(v * 1e-3 + 1e-9));
        expect(Math.abs((high[1] - low[1]) / (2 * d) - mid[2])).toBeLessThanOrEqual(
          peaks(curve).jerk * d * 1.01 + 1e-6 * peaks(curve).accel,
        );
      }),
    );
  });
  it('is time-optimal: one of speed, acceleration, jerk is at its limit in every phase', () => {
    fc.assert(
      fc.property(positive, positive, positive, positive, (h, v, a, j) => {
        const curve = sCurve(h, v, a, j);
        const top = peaks(curve);
        expect(top.jerk).toBeGreaterThan(j * (1 - 1e-9));
        // Phases longer than rounding: one at steady speed, one at steady acceleration.
        const lasts = (k: number): boolean =>
          (curve.phases[k + 1]?.from ?? curve.duration) - curve.phases[k].from > curve.duration * 1e-9;
        curve.phases.forEach(({ c }, k) => {
          if (c[3] !== 0 || !lasts(k)) return;
          if (c[2] === 0) expect(top.speed).toBeGreaterThan(v * (1 - 1e-9));
          else expect(top.accel).toBeGreaterThan(a * (1 - 1e-9));
        });
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
  const shares = fc.array(between(0, 1), { minLength: 4, maxLength: 4 });
  it('keeps every joint inside its limits at ten times a fine sampling, and all arrive together', () => {
    fc.assert(
      fc.property(shares, shares, between(0.05, 1), (a, b, speedShare) => {
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

describe('profiles', () => {
  // A jump holds nothing and has no derivatives.
  const kinds = fc.constantFrom(...profileKinds.filter((kind) => kind !== 'jump'));
  it('go exactly the length, never backwards, inside the limits they hold, and rest at both ends', () => {
    fc.assert(
      fc.property(kinds, positive, positive, positive, positive, (kind, h, speed, accel, jerk) => {
        const profile = profileOf(kind, h, { speed, accel, jerk });
        const { top, duration } = profile;
        const holds = { speed: true, accel: kind !== 'linear', jerk: kind === 's-curve' || kind === 'minimum-jerk' };
        if (holds.speed) expect(top.speed).toBeLessThanOrEqual(speed * (1 + 1e-9));
        expect(Number.isFinite(top.accel)).toBe(holds.accel);
        if (holds.accel) expect(top.accel).toBeLessThanOrEqual(accel * (1 + 1e-9));
        expect(Number.isFinite(top.jerk)).toBe(holds.jerk);
        if (holds.jerk) expect(top.jerk).toBeLessThanOrEqual(jerk * (1 + 1e-9));
        let last = 0;
        let worst = -Infinity;
        for (let i = 0; i <= 300; i++) {
          const [s, v, a] = at(profile, (duration * i) / 300);
          worst = Math.max(worst, (last - s) / h, v / top.speed - 1);
          if (holds.accel) worst = Math.max(worst, Math.abs(a) / top.accel - 1);
          last = s;
        }
        expect(worst).toBeLessThanOrEqual(1e-9);
        expect(last / h).toBeCloseTo(1, 12);
        // Just before its end it is all but there.
        expect(Math.abs(at(profile, duration * (1 - 1e-9))[0] - h)).toBeLessThanOrEqual(h * 1e-7);
      }),
    );
  });
  it('take as long as they must: the line least, then the trapezoid, then soft stop and S-curve, minimum jerk longest of the smooth', () => {
    fc.assert(
      fc.property(positive, positive, positive, positive, (h, speed, accel, jerk) => {
        const time = (kind: (typeof profileKinds)[number]): number =>
          profileOf(kind, h, { speed, accel, jerk }).duration;
        const slack = 1 + 1e-9;
        expect(time('linear')).toBeLessThanOrEqual(time('trapezoid') * slack);
        expect(time('trapezoid')).toBeLessThanOrEqual(time('soft-stop') * slack);
        expect(time('soft-stop')).toBeLessThanOrEqual(time('s-curve') * slack);
        expect(time('s-curve')).toBeLessThanOrEqual(time('minimum-jerk') * slack);
      }),
    );
  });
  it('have speed and acceleration that are the derivatives of what comes before them, but where they step', () => {
    fc.assert(
      fc.property(kinds, between(0.01, 0.99), (kind, f) => {
        const profile = profileOf(kind, 1, { speed: 1.3, accel: 4, jerk: 30 });
        const t = f * profile.duration;
        fc.pre(profile.phases.every((phase) => Math.abs(phase.from - t) > 1e-4));
        const d = 1e-6;
        const [low, mid, high] = [at(profile, t - d), at(profile, t), at(profile, t + d)];
        expect((high[0] - low[0]) / (2 * d)).toBeCloseTo(mid[1], 6);
        expect((high[1] - low[1]) / (2 * d)).toBeCloseTo(mid[2], 5);
      }),
    );
  });
});
