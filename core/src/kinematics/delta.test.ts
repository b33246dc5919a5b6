import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { apply, positionOf, vec3, type Vec3 } from '../linear';
import { compile } from '../mechanism';
import { compiled, deltaDoc } from './arms.testkit';
import { deltaForward, elbowOf } from '../mechanism';
import { forward, framesInto, jacobianInto, kinematicsSpace, solveInverse, toolInto } from './index';
import { between } from '../units/between.testkit';

const RAD = Math.PI / 180;
const mechanism = compiled(deltaDoc());
const delta = mechanism.delta!;
const [tool] = mechanism.tools;
const angles = fc.tuple(between(-35, 80), between(-35, 80), between(-35, 80));
const radians = (degrees: readonly number[]): Float64Array => Float64Array.from(degrees, (d) => d * RAD);

describe('a rotary delta', () => {
  it('keeps every forearm at its length, with the platform below the elbows and parallel to the base', () => {
    fc.assert(
      fc.property(angles, (degrees) => {
        const q = radians(degrees);
        const { centre, gap } = deltaForward(delta, q);
        fc.pre(gap === 0);
        for (let i = 0; i < 3; i++) {
          const elbow = elbowOf(delta, i, q[i]);
          expect(vec3.distance(centre, elbow)).toBeCloseTo(delta.forearm, 12);
          expect(centre[2]).toBeLessThan(elbow[2] + delta.forearm);
        }
        const frame = forward(mechanism, q).joints.get('platform')!;
        expect([...frame.slice(0, 9)]).toEqual([1, 0, 0, 0, 1, 0, 0, 0, 1]);
        expect(vec3.distance(positionOf(frame), apply(mechanism.base, centre))).toBeLessThan(1e-12);
      }),
    );
  });
  it('finds its angles again from the place of its tool', () => {
    fc.assert(
      fc.property(angles, (degrees) => {
        const q = radians(degrees);
        const { tools, gap } = forward(mechanism, q);
        // A knee that points inward is the other branch, and near a flat forearm an angle is not determined.
        fc.pre(gap === 0);
        const result = solveInverse(mechanism, tool, { kind: 'free', position: positionOf(tools.get('pen')!) });
        if (!result.reachable) {
          expect(result.reasons.length).toBeGreaterThan(0);
          return;
        }
        const [solution] = result.solutions;
        expect(solution.distance).toBeLessThan(1e-6);
        const elbows = [0, 1, 2].map((i) => [elbowOf(delta, i, q[i]), elbowOf(delta, i, solution.q[i])] as const);
        for (const [mine, found] of elbows)
          // The same knee, or one further out on the same sphere.
          expect(Math.hypot(found[0], found[1])).toBeGreaterThan(Math.hypot(mine[0], mine[1]) - 1e-5);
      }),
    );
  });
  it('has the Jacobian that differences give', () => {
    fc.assert(
      fc.property(angles, (degrees) => {
        const q = radians(degrees);
        const space = kinematicsSpace(mechanism);
        const frame = new Float64Array(12);
        const at = (values: Float64Array): Vec3 => {
          framesInto(space, mechanism, values);
          toolInto(frame, 0, mechanism, space, tool);
          return positionOf(frame);
        };
        const h = 1e-6;
        const columns = [0, 1, 2].map((i) => {
          const [up, down] = [q.slice(), q.slice()];
          up[i] += h;
          down[i] -= h;
          const a = at(up);
          const open = space.gap > 0;
          const b = at(down);
          return open || space.gap > 0 ? null : vec3.scale(vec3.sub(a, b), 1 / (2 * h));
        });
        fc.pre(columns.every((c) => c !== null && vec3.norm(c) < 1));
        at(q);
        const J = new Float64Array(18);
        jacobianInto(J, mechanism, space, tool, frame);
        columns.forEach((column, i) =>
          column!.forEach((v, row) => expect(Math.abs(J[6 * i + row] - v)).toBeLessThan(1e-5)),
        );
      }),
    );
  });
  it('says which forearm is too short and by how much', () => {
    const far = solveInverse(mechanism, tool, { kind: 'free', position: [0.5, 0, 0.1] });
    expect(far.reachable).toBe(false);
    const short = far.reasons.find((r) => r.code === 'rod-too-short')!;
    // Lengthened by just that much, this arm reaches it.
    const longer = compiled(deltaDoc({ forearmMm: 220 + short.byMm! }));
    const again = solveInverse(longer, longer.tools[0], { kind: 'free', position: [0.5, 0, 0.1] });
    expect(again.reasons.some((r) => r.code === 'rod-too-short' && r.joint === short.joint && r.byMm! > 1e-6)).toBe(
      false,
    );
    expect(far.closest!.distance).toBeGreaterThan(0.05);
  });
  it('cannot tilt its tool and says by how many degrees it is off', () => {
    const tilted = solveInverse(mechanism, tool, {
      kind: 'direction',
      position: [0, 0, 0.08],
      direction: [Math.sin(0.3), 0, -Math.cos(0.3)],
    });
    expect(tilted.reasons[0]).toMatchObject({ code: 'direction-off' });
    expect(tilted.reasons[0].byDeg).toBeCloseTo(0.3 / RAD, 6);
  });
  it('is refused where its forearms cannot meet at home, or its arms hold one line only', () => {
    expect(compile(deltaDoc({ forearmMm: 40 }))).toMatchObject({ ok: false, faults: [{ code: 'delta-open' }] });
    expect(compile(deltaDoc({ azimuthsDeg: [0, 0, 180] }))).toMatchObject({
      ok: false,
      faults: [{ code: 'delta-flat' }],
    });
  });
});
