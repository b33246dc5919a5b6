import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { dotPainter, kilnLoader, tileDipper } from '../../../demo';
import { compiled } from '../kinematics/arms.testkit';
import { forward } from '../kinematics';
import { positionOf, vec3, type Vec3 } from '../linear';
import type { Mechanism } from '../mechanism';
import { jerkInto, pathMove, sampleBlockInto, splineInto, splineThrough, wholePath, type PathBlock } from '../motion';
import type { Rig } from '../rig';
import { circleWay, lineWay, toolWay } from './tool-way';
import { planRoutine } from './index';
import { between } from '../units/between.testkit';
import { atMost, below } from '../units/held.testkit';

const number = between;
const rigs: readonly Rig[] = [tileDipper(), kilnLoader(), dotPainter()];
const arms = rigs.map((rig) => compiled(rig.mechanism));
const tip = (mechanism: Mechanism, q: Float64Array): Vec3 =>
  positionOf(forward(mechanism, q).tools.get(mechanism.tools.find((t) => t.mounted)!.id)!);

/** A pose inside the limits, by shares about home. */
function poseAt(mechanism: Mechanism, shares: readonly number[]): Float64Array {
  return mechanism.home.map((h, s) => {
    const room = 0.35 * (mechanism.upper[s] - mechanism.lower[s]);
    return Math.min(mechanism.upper[s], Math.max(mechanism.lower[s], h + room * (shares[s % shares.length] ?? 0)));
  });
}
const shares = fc.array(number(-1, 1), { minLength: 7, maxLength: 7 });
const some = fc.tuple(fc.constantFrom(...arms), shares, shares);

describe('splines', () => {
  it('go through their knots and are cubics where those are', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 4, max: 20 }),
        fc.array(number(-2, 2), { minLength: 4, maxLength: 4 }),
        number(0, 1),
        (n, c, s) => {
          const f = (x: number): number => c[0] + x * (c[1] + x * (c[2] + x * c[3]));
          const spline = splineThrough(Array.from({ length: n + 1 }, (_, k) => Float64Array.of(f(k / n))));
          const out = new Float64Array(4);
          splineInto(out, spline, 0, s);
          expect(out[0]).toBeCloseTo(f(s), 9);
          expect(out[1]).toBeCloseTo(c[1] + s * (2 * c[2] + s * 3 * c[3]), 7);
          expect(out[2]).toBeCloseTo(2 * c[2] + 6 * c[3] * s, 5);
        },
      ),
    );
  });
});

describe('straight moves', () => {
  const straight = (mechanism: Mechanism, a: Float64Array, b: Float64Array): PathBlock | null => {
    const tool = mechanism.tools.find((t) => t.mounted)!;
    const end = forward(mechanism, b).tools.get(tool.id)!;
    const way = toolWay(
      mechanism,
      tool,
      a,
      { frame: end, q: b, least: 'nothing' },
      lineWay(tip(mechanism, a), positionOf(end)),
    );
    return way.ok ? pathMove(mechanism, a, b, wholePath({ kind: 'spline', spline: way.spline })) : null;
  };
  it('keep the tool’s point on the line, begin and end where they should, inside every limit at fine sampling', () => {
    let made = 0;
    fc.assert(
      fc.property(some, ([mechanism, u, v]) => {
        const [a, b] = [poseAt(mechanism, u), poseAt(mechanism, v)];
        const block = straight(mechanism, a, b);
        if (!block) return;
        made++;
        const [p, speed, accel, jerk] = [a.slice(), a.slice(), a.slice(), a.slice()];
        const before = a.slice();
        const [from, to] = [tip(mechanism, a), tip(mechanism, b)];
        const unit = vec3.unit(vec3.sub(to, from));
        const looks = 240;
        for (let k = 0; k <= looks; k++) {
          const t = (block.duration * k) / looks;
          sampleBlockInto(p, speed, accel, block, t);
          jerkInto(jerk, block, t);
          for (let s = 0; s < mechanism.m; s++) {
            atMost(Math.abs(jerk[s]), mechanism.jerk[s] * (1 + 1e-6));
            atMost(Math.abs(speed[s]), mechanism.speed[s] * (1 + 1e-6));
            atMost(Math.abs(accel[s]), mechanism.accel[s] * (1 + 1e-6));
            // No jump: no further than the top speed goes.
            if (k)
              atMost(Math.abs(p[s] - before[s]), (mechanism.speed[s] * block.duration * (1 + 1e-6)) / looks + 1e-12);
          }
          before.set(p);
          if (!unit) continue;
          const off = vec3.sub(tip(mechanism, p), from);
          // A tenth of a millimetre between the places solved, and as much again for where the spline bends most.
          atMost(vec3.norm(vec3.sub(off, vec3.scale(unit, vec3.dot(off, unit)))), 2e-4);
        }
        p.forEach((v, s) => expect(v).toBeCloseTo(b[s], 12));
      }),
      { numRuns: 40 },
    );
    expect(made).toBeGreaterThan(5);
  }, 60_000);
  it('have speeds and accelerations that are the derivatives of their positions', () => {
    fc.assert(
      fc.property(some, number(0.05, 0.95), ([mechanism, u, v], f) => {
        const block = straight(mechanism, poseAt(mechanism, u), poseAt(mechanism, v));
        if (!block) return;
        const d = block.duration * 1e-5;
        const at = (t: number): Float64Array[] => {
          const three = [0, 1, 2].map(() => new Float64Array(mechanism.m));
          sampleBlockInto(three[0], three[1], three[2], block, t);
          return three;
        };
        const t = f * block.duration;
        const [low, mid, high] = [at(t - d), at(t), at(t + d)];
        for (let s = 0; s < mechanism.m; s++) {
          below(Math.abs((high[0][s] - low[0][s]) / (2 * d) - mid[1][s]), 1e-4 * mechanism.speed[s]);
          below(
            Math.abs((high[1][s] - low[1][s]) / (2 * d) - mid[2][s]),
            1e-3 * mechanism.accel[s] + 2 * mechanism.jerk[s] * d,
          );
        }
      }),
      { numRuns: 40 },
    );
  }, 60_000);
});

describe('arcs and circles', () => {
  const place = fc.tuple(number(-0.3, 0.3), number(-0.3, 0.3), number(0, 0.4));
  it('go through their three places, everywhere as far from the middle, at an even pace', () => {
    fc.assert(
      fc.property(place, place, place, (a, via, b) => {
        const way = circleWay(a, via, b);
        const round = circleWay(a, via, b, 1);
        if (!way || !round) return;
        expect(vec3.distance(way.at(0), a)).toBeLessThan(1e-9);
        expect(way.at(1)).toEqual(b);
        const dense = Array.from({ length: 2001 }, (_, k) => way.at(k / 2000));
        const steps = dense.slice(1).map((p, k) => vec3.distance(p, dense[k]));
        expect(Math.max(...steps) - Math.min(...steps)).toBeLessThan(1e-6 * way.length + 1e-9);
        const nearest = Math.min(...dense.map((p) => vec3.distance(p, via)));
        expect(nearest).toBeLessThanOrEqual(way.length / 2000 + 1e-9);
        // Half-way round is as far as it gets: the distance of opposite places is the diameter everywhere.
        const across = [0, 0.1, 0.3].map((f) => vec3.distance(round.at(f), round.at(f + 0.5)));
        for (const d of across) expect(d).toBeCloseTo(round.length / Math.PI, 7);
      }),
    );
  });
  it('are none through places in a line', () => {
    expect(circleWay([0, 0, 0], [0.1, 0, 0], [0.2, 0, 0])).toBeNull();
    expect(circleWay([0, 0, 0], [0, 0, 0], [0.2, 0, 0])).toBeNull();
  });
});

describe('a straight step in a routine', () => {
  const rig = rigs[0];
  const [mechanism] = arms;
  const plan = (steps: object[]) =>
    planRoutine(rig, mechanism, rig.builds[0], {
      ...{ id: 'r', name: 'R', note: '', role: null, profile: 's-curve' as const },
      steps: steps.map((s, k) => ({ id: `s${k}`, enabled: true, note: '', pace: { speedShare: 1 }, ...s })) as never,
    });
  const go = (kind: string, pose: string): object => ({ kind, target: { pose } });
  it('dips straight down and up again; what goes nowhere, or has no way, is said in one sentence', () => {
    const good = plan([
      go('joint-move', 'over-jar'),
      go('straight-move', 'in-glaze'),
      go('straight-move', 'over-jar'),
    ]);
    expect(good.findings).toEqual([]);
    expect(good.blocks.map(({ block }) => block.kind)).toEqual(['move', 'path', 'path']);
    expect(plan([go('joint-move', 'over-jar'), go('straight-move', 'over-jar')]).findings[0].code).toBe(
      'path-nowhere',
    );
    // From one side to the other: the line goes through the arm's own axis.
    const side = (kind: string, turn: number): object => ({ kind, target: { joints: { turn } } });
    const { findings } = plan([go('joint-move', 'over-jar'), side('joint-move', 90), side('straight-move', -90)]);
    expect(findings[0].code).toMatch(/^path-/);
    expect(findings[0].message).toMatch(/\.$/);
  });
  it('takes its profile and wished time, and says the least possible', () => {
    const step = { kind: 'straight-move', target: { pose: 'in-glaze' } };
    const long = plan([go('joint-move', 'over-jar'), { ...step, pace: { durationS: 5 } }]);
    expect(long.blocks[1].block.duration).toBeCloseTo(5, 9);
    const short = plan([go('joint-move', 'over-jar'), { ...step, pace: { durationS: 0.01 } }]);
    expect(short.findings.map((f) => f.code)).toContain('duration-too-short');
    expect(short.findings.find((f) => f.code === 'duration-too-short')!.data.least).toBeCloseTo(
      plan([go('joint-move', 'over-jar'), step]).blocks[1].block.duration,
      9,
    );
  });
});
