import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { axisOf, positionOf, vec3 } from '../linear';
import { compile } from '../mechanism';
import { seededRandom } from '../linear';
import { compiled, fourAxis, poseOf, sixAxis, treeDoc } from './arms.testkit';
import { closestPose } from './closest';
import { numericSolutions } from './search';
import { forward, limitMargin, nearestTurn, outerReach, solveInverse, solveNumeric, type Task } from './index';
import { between } from '../units/between.testkit';

const shares = fc.array(between(0, 1), { minLength: 7, maxLength: 7 });

describe('damped least squares on random trees', () => {
  it('never leaves the limits, never makes things worse than its start, and moves only joints on the tool’s path', () => {
    fc.assert(
      fc.property(treeDoc, shares, shares, fc.constantFrom('free', 'direction', 'full'), (doc, a, b, kind) => {
        const result = compile(doc);
        fc.pre(result.ok && result.mechanism.tools[0].slots.length > 0);
        if (!result.ok) return;
        const { mechanism } = result;
        const tool = mechanism.tools[0];
        const goal = forward(mechanism, poseOf(mechanism, a)).tools.get('tool')!;
        const task: Task =
          kind === 'full'
            ? { kind, position: positionOf(goal), rotation: goal }
            : kind === 'direction'
              ? { kind, position: positionOf(goal), direction: axisOf(goal, 2) }
              : { kind: 'free', position: positionOf(goal) };
        const start = poseOf(mechanism, b);
        const answer = solveNumeric(mechanism, tool, task, start);
        let past = 0;
        for (let s = 0; s < mechanism.m; s++) {
          past = Math.max(past, mechanism.lower[s] - answer.q[s], answer.q[s] - mechanism.upper[s]);
          if (!tool.slots.includes(s)) expect(answer.q[s]).toBe(start[s]);
        }
        expect(past).toBeLessThanOrEqual(0);
        expect(Number.isFinite(answer.distance + answer.angle)).toBe(true);
        const before = solveNumeric(mechanism, tool, task, start, { maxIterations: 0 });
        const weigh = (r: { distance: number; angle: number }): number =>
          r.distance ** 2 + (r.angle * (outerReach(mechanism, tool) / 4)) ** 2;
        expect(weigh(answer)).toBeLessThanOrEqual(weigh(before) * (1 + 1e-6) + 1e-12);
      }),
    );
  });
  it('answers every target with a pose or with reasons in sentences and the closest pose', () => {
    fc.assert(
      fc.property(
        treeDoc,
        fc.tuple(
          fc.integer({ min: -900, max: 900 }),
          fc.integer({ min: -900, max: 900 }),
          fc.integer({ min: -900, max: 900 }),
        ),
        (doc, mm) => {
          const result = compile(doc);
          fc.pre(result.ok);
          if (!result.ok) return;
          const answer = solveInverse(result.mechanism, result.mechanism.tools[0], {
            kind: 'free',
            position: [mm[0] / 1000, mm[1] / 1000, mm[2] / 1000],
          });
          if (answer.reachable)
            expect(answer.solutions.every((s) => s.distance <= 1e-6 && s.limitMargin >= 0)).toBe(true);
          else {
            expect(answer.reasons.length).toBeGreaterThan(0);
            for (const { message } of answer.reasons) expect(message).toMatch(/^[^?]+\.$/);
          }
        },
      ),
    );
  });
});

describe('turns and margins', () => {
  it('take the turn inside the limits that is nearest to where the joint is', () => {
    fc.assert(
      fc.property(between(-9, 9), between(-9, 9), (angle, near) => {
        const turned = nearestTurn(angle, near, -Infinity, Infinity);
        expect(Math.abs(turned - near)).toBeLessThanOrEqual(Math.PI + 1e-9);
        expect(Math.abs(Math.sin((turned - angle) / 2))).toBeLessThan(1e-9);
        const limited = nearestTurn(angle, near, -3 * Math.PI, 3 * Math.PI);
        expect(limited).toBeGreaterThanOrEqual(-3 * Math.PI - 1e-9);
        expect(limited).toBeLessThanOrEqual(3 * Math.PI + 1e-9);
      }),
    );
  });
  it('are 1 in the middle of the range and 0 at its end', () => {
    const result = compile({
      ...blank,
      joints: [
        {
          id: 'a',
          type: 'revolute',
          parent: null,
          origin: zero,
          axis: [0, 0, 1],
          home: 0,
          limits: { min: -90, max: 90 },
        },
      ],
    });
    if (!result.ok) throw new Error();
    expect(limitMargin(result.mechanism, [0], Float64Array.of(0))).toBe(1);
    expect(limitMargin(result.mechanism, [0], Float64Array.of(Math.PI / 2))).toBeCloseTo(0, 12);
  });
});

const zero = { xyzMm: [0, 0, 0] as [number, number, number], rpyDeg: [0, 0, 0] as [number, number, number] };
const blank = {
  family: 'tree' as const,
  base: { feet: [], massG: 0, comMm: zero.xyzMm, mounting: zero },
  limitRules: [],
  tools: [],
};

/** Seven shares drawn evenly from a seed. */
const evenShares = fc
  .integer({ min: 1, max: 2 ** 31 - 2 })
  .map((seed) => Array.from({ length: 7 }, seededRandom(seed)));

describe('cold starts', () => {
  it.each([
    ['spherical', 0],
    ['offset', 18],
  ])('find a pose for every reachable place of six axes, %s wrist', (_name, offset) => {
    const mechanism = compiled(sixAxis(offset as number));
    const [tool] = mechanism.tools;
    // Evenly random: values that shrinkers love lie on every limit at once.
    fc.assert(
      fc.property(evenShares, (f) => {
        const frame = forward(mechanism, poseOf(mechanism, f)).tools.get('tool')!;
        const [solution] = numericSolutions(
          mechanism,
          [{ tool, task: { kind: 'full', position: positionOf(frame), rotation: frame } }],
          mechanism.home,
          { first: true },
        );
        expect(solution.distance).toBeLessThan(1e-6);
        expect(solution.angle).toBeLessThan(1e-6);
      }),
      { numRuns: 300 },
    );
  });
});

describe('the closest pose', () => {
  it.each([
    ['four axes', fourAxis()],
    ['six axes', sixAxis()],
    ['an offset wrist', sixAxis(18)],
  ])('of %s is one that none of four thousand others comes nearer than', (_name, doc) => {
    const mechanism = compiled(doc);
    const [tool] = mechanism.tools;
    const random = seededRandom(5);
    const draw = (): number[] => Array.from({ length: 7 }, random);
    const others = Array.from({ length: 4000 }, () => {
      const frame = forward(mechanism, poseOf(mechanism, draw())).tools.get('tool')!;
      return { at: positionOf(frame), pointing: axisOf(frame, 2) };
    });
    let missed = 0;
    for (let i = 0; i < 40; i++) {
      const [x, y, z, a, b, c] = draw();
      const position = [1.6 * x - 0.8, 1.6 * y - 0.8, 0.9 * z] as const;
      const direction = vec3.unit([a - 0.5, b - 0.5, c - 0.5])!;
      const task: Task = { kind: 'direction', position, direction };
      const near = closestPose(mechanism, [{ tool, task }], mechanism.home, 'position');
      const turned = closestPose(mechanism, [{ tool, task }], mechanism.home, 'rotation');
      if (near.distance > 1e-6) missed++;
      expect(near.distance).toBeLessThanOrEqual(Math.min(...others.map((o) => vec3.distance(o.at, position))) + 1e-9);
      const least = Math.min(...others.map((o) => vec3.angleBetween(o.pointing, direction)));
      expect(turned.angle).toBeLessThanOrEqual(least + 1e-6);
      expect(near.distance).toBeLessThanOrEqual(turned.distance + 1e-9);
    }
    expect(missed).toBeGreaterThan(10);
  });
});
