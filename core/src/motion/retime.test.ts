import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { compiled, fourAxis, poseOf } from '../kinematics/arms.testkit';
import {
  firstTickSpeed,
  joinSegments,
  jerkInto,
  jointMove,
  lineSegment,
  LowPass,
  lawInto,
  pathInto,
  pathMove,
  retime,
  sampleBlockInto,
  settlingOf,
  shareOf,
  splineThrough,
  stallOf,
  timeConstantOf,
  wholePath,
  wholeStep,
  type JointPath,
  type PathBlock,
} from './index';
import { between } from '../units/between.testkit';

const number = between;
const mechanism = compiled(fourAxis());
const shares = fc.array(number(0, 1), { minLength: 4, maxLength: 4 });
const line = (a: Float64Array, b: Float64Array): JointPath => wholePath(lineSegment(a, b));
/** A smooth way through four poses. */
const curved = (poses: readonly number[][]): { path: JointPath; from: Float64Array; to: Float64Array } => {
  const corners = poses.map((p) => poseOf(mechanism, p));
  // Between the poses a cubic of Bézier's, so that it bends evenly.
  const knots = Array.from({ length: 25 }, (_, k) => {
    const [u, w] = [k / 24, 1 - k / 24];
    return corners[0].map(
      (v, s) => w ** 3 * v + 3 * w * w * u * corners[1][s] + 3 * w * u * u * corners[2][s] + u ** 3 * corners[3][s],
    );
  });
  return { path: wholePath({ kind: 'spline', spline: splineThrough(knots) }), from: knots[0], to: knots[24] };
};
const four = fc.array(shares, { minLength: 4, maxLength: 4 });

function worstShares(block: PathBlock, looks: number): { speed: number; accel: number; jerk: number } {
  const [p, v, a, j] = [0, 1, 2, 3].map(() => new Float64Array(4));
  const worst = { speed: 0, accel: 0, jerk: 0 };
  for (let k = 1; k < looks; k++) {
    const t = (block.duration * k) / looks;
    sampleBlockInto(p, v, a, block, t);
    jerkInto(j, block, t);
    for (let s = 0; s < 4; s++) {
      worst.speed = Math.max(worst.speed, Math.abs(v[s]) / mechanism.speed[s]);
      worst.accel = Math.max(worst.accel, Math.abs(a[s]) / mechanism.accel[s]);
      worst.jerk = Math.max(worst.jerk, Math.abs(j[s]) / mechanism.jerk[s]);
    }
  }
  return worst;
}

describe('retiming', () => {
  it('of a straight line is within a tenth of the S-curve, which is the least time, and of the trapezoid within 2 %', () => {
    fc.assert(
      fc.property(shares, shares, (u, v) => {
        const [a, b] = [poseOf(mechanism, u), poseOf(mechanism, v)];
        fc.pre(a.some((x, s) => Math.abs(x - b[s]) > 0.01));
        for (const [profile, slack] of [
          ['s-curve', 1.1],
          ['trapezoid', 1.02],
        ] as const) {
          const best = jointMove(mechanism, a, b, { profile }).duration;
          const { duration } = pathMove(mechanism, a, b, line(a, b), { profile });
          expect(duration).toBeGreaterThanOrEqual(best * (1 - 1e-6));
          expect(duration).toBeLessThanOrEqual(best * slack);
        }
      }),
    );
  });
  it('of a curved path keeps speed, acceleration and jerk everywhere, and is close to the least time without jerk', () => {
    fc.assert(
      fc.property(four, number(0.2, 1), (poses, speedShare) => {
        const { path, from, to } = curved(poses);
        fc.pre(from.some((v, s) => Math.abs(v - to[s]) > 0.05));
        const block = pathMove(mechanism, from, to, path, { speedShare });
        const worst = worstShares(block, 1500);
        expect(worst.speed).toBeLessThanOrEqual(speedShare * (1 + 2e-6));
        expect(worst.accel).toBeLessThanOrEqual(speedShare ** 2 * (1 + 2e-6));
        expect(worst.jerk).toBeLessThanOrEqual(speedShare ** 3 * (1 + 2e-6));
        const rough = pathMove(mechanism, from, to, path, { profile: 'trapezoid' });
        expect(block.duration * speedShare).toBeGreaterThanOrEqual(rough.duration * (1 - 1e-3));
        const roughest = worstShares(rough, 1500);
        expect(Math.max(roughest.speed, roughest.accel)).toBeLessThanOrEqual(1 + 1e-6);
        // Some limit is used up but for little, also where a path turns back on itself.
        expect(Math.max(roughest.speed, roughest.accel)).toBeGreaterThan(0.9);
      }),
      { numRuns: 30 },
    );
  }, 60_000);
  it('by the finer grid gains no more than 2 %', () => {
    fc.assert(
      fc.property(four, (poses) => {
        const { path } = curved(poses);
        const options = {
          stretches: [{ from: 0, share: 1, accelShare: 1, toolSpeed: Infinity }],
          jerk: false,
        };
        // The same path cut into four: as many nodes again in each.
        const { segment } = path.pieces[0] as { segment: Parameters<typeof wholePath>[0] };
        const fine: JointPath = {
          m: path.m,
          ends: [1],
          pieces: Array.from({ length: 4 }, (_, k) => ({
            from: k / 4,
            to: (k + 1) / 4,
            segment,
            low: k / 4,
            high: (k + 1) / 4,
          })),
        };
        const [coarse, finer] = [path, fine].map((p) => {
          const { law, slow } = retime(mechanism, p, options);
          return law.duration * slow;
        });
        expect(coarse).toBeLessThanOrEqual(finer * 1.02);
      }),
      { numRuns: 30 },
    );
  });
  it('holds the tool’s speed where one is asked for', () => {
    fc.assert(
      fc.property(four, number(0.05, 2), (poses, toolSpeed) => {
        const { path, from, to } = curved(poses);
        const rate = (sigma: number): number => 0.3 + 0.2 * Math.sin(5 * sigma);
        const block = pathMove(mechanism, from, to, path, { toolSpeed, toolRate: rate });
        const out = new Float64Array(4);
        for (let k = 0; k <= 400; k++) {
          if (block.curve.kind !== 'retimed') throw new Error(block.curve.kind);
          lawInto(out, block.curve, (block.curve.duration * k) / 400);
          expect((rate(out[0]) * out[1]) / block.stretch).toBeLessThanOrEqual(toolSpeed * (1 + 1e-6));
        }
      }),
      { numRuns: 30 },
    );
  });
});

describe('paths of several segments', () => {
  it('have position, first and second derivative that go on across every corner', () => {
    fc.assert(
      fc.property(fc.tuple(shares, shares, shares), number(0.05, 0.5), number(0.05, 0.5), (poses, leave, join) => {
        const [a, b, c] = poses.map((p) => poseOf(mechanism, p));
        const path = joinSegments([lineSegment(a, b), lineSegment(b, c)], [1, 2], [{ leave: 1 - leave, join }]);
        const [low, high] = [new Float64Array(16), new Float64Array(16)];
        path.pieces.slice(1).forEach((piece, k) => {
          pathInto(low, path, piece.from, k);
          pathInto(high, path, piece.from, k + 1);
          for (let s = 0; s < 4; s++)
            for (const d of [0, 1, 2]) expect(low[4 * s + d]).toBeCloseTo(high[4 * s + d], 6);
        });
        pathInto(low, path, 0);
        pathInto(high, path, 1);
        for (let s = 0; s < 4; s++) {
          expect(low[4 * s]).toBeCloseTo(a[s], 12);
          expect(high[4 * s]).toBeCloseTo(c[s], 12);
        }
      }),
    );
  });
});

describe('the low pass', () => {
  it('is a time constant: the same motion at every rate of the loop', () => {
    fc.assert(
      fc.property(number(0.01, 0.5), number(0.001, 0.02), number(-90, 90), (tau, loop, target) => {
        const pass = new LowPass(Float64Array.of(0), tau, loop);
        for (let k = 1; k <= 200; k++) {
          pass.advance(Float64Array.of(target), 1);
          expect(pass.value[0]).toBeCloseTo(target * (1 - Math.exp((-k * loop) / tau)), 6);
        }
        expect(timeConstantOf(shareOf(tau, loop), loop)).toBeCloseTo(tau, 9);
      }),
    );
  });
  it('at a share of 0.08 every 4 ms is 48 ms, settles in 188 ms and asks 1200 °/s of a step of 60°', () => {
    const tau = timeConstantOf(0.08, 0.004);
    expect(tau * 1000).toBeCloseTo(47.97, 2);
    expect(settlingOf(tau, 60, 1.2) * 1000).toBeCloseTo(187.7, 1);
    expect(firstTickSpeed(tau, 0.004, 60)).toBeCloseTo(1200, 6);
  });
  it('in whole numbers stops short by what the share no longer moves, and by shifting goes on where it counts down', () => {
    fc.assert(
      fc.property(fc.integer({ min: -2000, max: 2000 }), fc.integer({ min: 1, max: 255 }), (target, part) => {
        const rest = (rounding: 'truncate' | 'shift'): number => {
          let y = 0;
          for (let k = 0; k < 20_000; k++) y = wholeStep(y, target, part, 8, rounding);
          return target - y;
        };
        const most = stallOf(part / 256);
        expect(Math.abs(rest('truncate'))).toBeLessThanOrEqual(most);
        const shifted = rest('shift');
        expect(shifted).toBeGreaterThanOrEqual(0);
        expect(shifted).toBeLessThanOrEqual(most);
        if (Math.abs(target) > most + 1) expect(Math.abs(rest('truncate'))).toBe(Math.min(most, Math.abs(target)));
      }),
      { numRuns: 30 },
    );
  });
});
