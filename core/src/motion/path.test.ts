import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { compiled, fourAxis, poseOf } from '../kinematics/arms.testkit';
import {
  hold,
  jerkInto,
  joinSegments,
  jointMove,
  lineSegment,
  ownPaceMove,
  pathInto,
  pathLimits,
  pathMove,
  pieceAt,
  profileKinds,
  ramp,
  sampleBlockInto,
  spinning,
  type Block,
  type JointPath,
} from './index';

import { lawInto, lawOf, timeAt } from './time-law';
import { between } from '../units/between.testkit';
import { atMost, below } from '../units/held.testkit';

const mechanism = compiled(fourAxis());
const share = between(0, 1);
const pose = fc.array(share, { minLength: 4, maxLength: 4 }).map((f) => poseOf(mechanism, f));
const corner = between(0.05, 0.45);
const along = (p: JointPath, sigma: number, piece?: number): Float64Array => {
  const out = new Float64Array(4 * p.m);
  pathInto(out, p, sigma, piece);
  return out;
};
/** Lines end to end with every corner rounded, that go somewhere. */
const path: fc.Arbitrary<JointPath> = fc
  .tuple(
    fc.array(pose, { minLength: 2, maxLength: 5 }),
    fc.array(between(0.2, 3), { minLength: 4, maxLength: 4 }),
    fc.array(fc.tuple(corner, corner), { minLength: 3, maxLength: 3 }),
  )
  .map(([poses, weights, corners]) => {
    const segments = poses.slice(1).map((to, k) => lineSegment(poses[k], to));
    return joinSegments(
      segments,
      weights.slice(0, segments.length),
      corners.slice(0, segments.length - 1).map(([leave, join]) => ({ leave: 1 - leave, join })),
    );
  })
  // A path that goes nowhere is refused before it is planned.
  .filter((p) =>
    [0.01, 0.3, 0.6, 0.99].some((sigma) => along(p, sigma).some((d, k) => k % 4 === 1 && Math.abs(d) > 1e-3)),
  );

describe('paths through joint space', () => {
  it('begin and end where they should, whatever their corners', () => {
    fc.assert(
      fc.property(fc.array(pose, { minLength: 2, maxLength: 4 }), corner, (poses, c) => {
        const segments = poses.slice(1).map((to, k) => lineSegment(poses[k], to));
        const own = joinSegments(
          segments,
          segments.map(() => 1),
          segments.slice(1).map(() => ({ leave: 1 - c, join: c })),
        );
        const [first, last] = [along(own, 0), along(own, 1)];
        for (let s = 0; s < own.m; s++) {
          expect(first[4 * s]).toBeCloseTo(poses[0][s], 9);
          expect(last[4 * s]).toBeCloseTo(poses.at(-1)![s], 9);
        }
        expect(own.ends).toHaveLength(segments.length);
        expect(own.ends.at(-1)).toBe(1);
      }),
    );
  });
  it('have no gap: place, slope and bend are the same from both sides of every joint between pieces', () => {
    fc.assert(
      fc.property(path, (p) => {
        for (let k = 1; k < p.pieces.length; k++) {
          const sigma = p.pieces[k].from;
          const [before, after] = [along(p, sigma, k - 1), along(p, sigma, k)];
          for (let s = 0; s < p.m; s++) {
            const near = (o: number): number => Math.abs(before[4 * s + o] - after[4 * s + o]);
            const size = 1 + Math.abs(before[4 * s + 1]);
            below(near(0), 1e-9);
            below(near(1), 1e-6 * size);
            below(near(2), 1e-4 * size * size);
          }
        }
      }),
    );
  });
  it('tell slopes that are the derivatives of what comes before them', () => {
    fc.assert(
      fc.property(path, between(0.01, 0.99), (p, sigma) => {
        const d = 1e-5;
        const piece = pieceAt(p, sigma);
        fc.pre(sigma - d > p.pieces[piece].from && sigma + d < p.pieces[piece].to);
        const [low, mid, high] = [sigma - d, sigma, sigma + d].map((x) => along(p, x, piece));
        for (let s = 0; s < p.m; s++)
          for (const o of [0, 1]) {
            const slope = (high[4 * s + o] - low[4 * s + o]) / (2 * d);
            const bend = Math.abs(mid[4 * s + Math.min(3, o + 3)]) + Math.abs(mid[4 * s + o + 1]) + 1;
            below(Math.abs(slope - mid[4 * s + o + 1]), 1e-3 * bend);
          }
      }),
    );
  });
  it('are found by their pieces: the one that holds σ', () => {
    fc.assert(
      fc.property(path, share, (p, sigma) => {
        const { from, to } = p.pieces[pieceAt(p, sigma)];
        expect(from).toBeLessThanOrEqual(sigma);
        expect(to).toBeGreaterThanOrEqual(sigma);
      }),
    );
  });
});

describe('moves along a path', () => {
  const kinds = profileKinds.filter((kind) => kind !== 'jump');
  it('keep every joint inside its speed and acceleration, with every profile that holds them', () => {
    fc.assert(
      fc.property(path, fc.constantFrom(...kinds), (p, profile) => {
        const from = along(p, 0).filter((_, k) => k % 4 === 0);
        const to = along(p, 1).filter((_, k) => k % 4 === 0);
        const block = pathMove(mechanism, from, to, p, { profile });
        const [q, v, a] = [0, 1, 2].map(() => new Float64Array(4));
        let [fast, hard] = [0, 0];
        for (let k = 0; k <= 300; k++) {
          sampleBlockInto(q, v, a, block, (block.duration * k) / 300);
          for (let s = 0; s < 4; s++) {
            fast = Math.max(fast, Math.abs(v[s]) / mechanism.speed[s]);
            hard = Math.max(hard, Math.abs(a[s]) / mechanism.accel[s]);
          }
        }
        expect(fast).toBeLessThanOrEqual(1 + 1e-3);
        if (profile !== 'linear') expect(hard).toBeLessThanOrEqual(1.02);
      }),
      { numRuns: 60 },
    );
  });
  it('take as long as they are asked to, and no less than they must', () => {
    fc.assert(
      fc.property(path, between(0.1, 5), (p, factor) => {
        const from = along(p, 0).filter((_, k) => k % 4 === 0);
        const to = along(p, 1).filter((_, k) => k % 4 === 0);
        const least = pathMove(mechanism, from, to, p).duration;
        const asked = pathMove(mechanism, from, to, p, { durationS: factor * least }).duration;
        expect(asked).toBeCloseTo(Math.max(1, factor) * least, 6);
        expect(pathMove(mechanism, from, to, p, { speedShare: 0.5 }).duration).toBeCloseTo(2 * least, 6);
      }),
      { numRuns: 40 },
    );
  });
  it('have scalar limits that are above nothing', () => {
    fc.assert(
      fc.property(path, (p) => {
        const { speed, accel, jerk } = pathLimits(mechanism, p);
        const out = along(p, 0.37);
        for (let s = 0; s < 4; s++) atMost(Math.abs(out[4 * s + 1]) * speed, mechanism.speed[s] * 1.02);
        expect(accel).toBeGreaterThan(0);
        expect(jerk).toBeGreaterThan(0);
      }),
    );
  });
  it('tell the jerk as the slope of the acceleration', () => {
    fc.assert(
      fc.property(pose, pose, between(0.03, 0.97), (from, to, f) => {
        const block = jointMove(mechanism, from, to, { profile: 'minimum-jerk' });
        fc.pre(block.duration > 0.2);
        const t = f * block.duration;
        const d = 1e-4 * block.duration;
        const [q, v, low, high, jerk] = [0, 1, 2, 3, 4].map(() => new Float64Array(4));
        sampleBlockInto(q, v, low, block, t - d);
        sampleBlockInto(q, v, high, block, t + d);
        jerkInto(jerk, block, t);
        for (let s = 0; s < 4; s++) below(Math.abs((high[s] - low[s]) / (2 * d) - jerk[s]), 1e-3 * mechanism.jerk[s]);
      }),
      { numRuns: 60 },
    );
  });
});

describe('other blocks', () => {
  const sample = (block: Block, t: number): { p: number[]; v: number[]; a: number[] } => {
    const [p, v, a] = [0, 1, 2].map(() => new Float64Array(4));
    sampleBlockInto(p, v, a, block, t);
    return { p: [...p], v: [...v], a: [...a] };
  };
  it('at its own pace each joint arrives by itself, inside its limits, none later than the block ends', () => {
    fc.assert(
      fc.property(pose, pose, between(0.2, 1), (from, to, speedShare) => {
        const block = ownPaceMove(mechanism, from, to, { speedShare });
        for (let k = 0; k <= 60; k++) {
          const { v } = sample(block, (block.duration * k) / 60);
          v.forEach((speed, s) => atMost(Math.abs(speed), mechanism.speed[s] * speedShare * (1 + 1e-9)));
        }
        expect(sample(block, block.duration).p).toEqual([...to]);
        expect(sample(block, 0).p).toEqual([...from]);
        const alone = Math.max(
          ...[0, 1, 2, 3].map((s) => {
            const only = from.slice();
            only[s] = to[s];
            return ownPaceMove(mechanism, from, only, { speedShare }).duration;
          }),
        );
        expect(block.duration).toBeCloseTo(alone, 9);
      }),
      { numRuns: 60 },
    );
  });
  it('holding nothing moves, for as long as it is held', () => {
    fc.assert(
      fc.property(pose, between(0, 5), share, (at, seconds, f) => {
        const block = hold(at, seconds);
        expect(sample(block, f * seconds)).toEqual({ p: [...at], v: [0, 0, 0, 0], a: [0, 0, 0, 0] });
      }),
    );
  });
  it('a ramp brings one joint from speed to speed inside its acceleration, and none of the others moves', () => {
    const speed = between(-1, 1);
    fc.assert(
      fc.property(pose, fc.nat(3), speed, speed, (at, slot, a, b) => {
        const [from, to] = [a * mechanism.speed[slot], b * mechanism.speed[slot]];
        const block = ramp(mechanism, at, slot, from, to);
        fc.pre(block.duration > 0);
        expect(sample(block, 0).v[slot]).toBeCloseTo(from, 9);
        for (let k = 0; k <= 40; k++) {
          const now = sample(block, (block.duration * k) / 40);
          expect(Math.abs(now.a[slot])).toBeLessThanOrEqual(mechanism.accel[slot] * (1 + 1e-9));
          now.p.forEach((q, s) => s !== slot && expect(q).toBe(at[s]));
        }
        expect(sample(block, block.duration).p).toEqual([...block.to]);
        const just = sample(block, block.duration * (1 - 1e-9));
        if (block.duration > 1e-6) expect(just.v[slot]).toBeCloseTo(to, 5);
      }),
      { numRuns: 60 },
    );
  });
  it('beside a block that goes on a slot turns evenly', () => {
    fc.assert(
      fc.property(pose, pose, between(-2, 2), share, (from, to, speed, f) => {
        const base = jointMove(mechanism, from, to);
        const block = spinning(base, [{ slot: 0, speed }]);
        const t = f * block.duration;
        const [now, own] = [sample(block, t), sample(base, t)];
        expect(now.p[0]).toBeCloseTo(from[0] + speed * t, 9);
        expect(now.v[0]).toBe(speed);
        expect(now.p.slice(1)).toEqual(own.p.slice(1));
      }),
      { numRuns: 60 },
    );
  });
});

describe('the law of a path in time', () => {
  const law = fc
    .tuple(fc.array(between(0.05, 3), { minLength: 3, maxLength: 12 }), fc.constantFrom(0, 0.05, 0.2))
    .map(([inner, window]) => {
      const x = Float64Array.of(0, ...inner, 0);
      const s = Float64Array.from(x, (_, k) => k / (x.length - 1));
      return lawOf(s, x, window);
    });
  const at = (l: ReturnType<typeof lawOf>, t: number): Float64Array => {
    const out = new Float64Array(4);
    lawInto(out, l, t);
    return out;
  };
  it('goes from 0 to 1, never back, and its speed is the slope of its way', () => {
    fc.assert(
      fc.property(law, (l) => {
        expect(at(l, 0)[0]).toBe(0);
        expect(at(l, l.duration)[0]).toBe(1);
        let last = 0;
        for (let k = 1; k <= 200; k++) {
          const [s, v] = at(l, (l.duration * k) / 200);
          expect(s).toBeGreaterThanOrEqual(last - 1e-12);
          expect(v).toBeGreaterThanOrEqual(0);
          last = s;
        }
        const t = 0.41 * l.duration;
        const d = 1e-6 * l.duration;
        expect((at(l, t + d)[0] - at(l, t - d)[0]) / (2 * d)).toBeCloseTo(at(l, t)[1], 4);
      }),
    );
  });
  it('is found by its way: the time at which it is somewhere brings it there', () => {
    fc.assert(
      fc.property(law, between(0.05, 0.95), (l, f) => {
        const t = f * l.duration;
        const [s] = at(l, t);
        expect(at(l, timeAt(l, s, t * 1.01))[0]).toBeCloseTo(s, 9);
      }),
    );
  });
});
