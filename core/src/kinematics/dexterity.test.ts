import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { symmetricEigenvalues } from '../linear';
import { compiled, sixAxis, threeAxis } from './arms.testkit';
import { dexterityAt, dexterityOf, solveInverse } from './index';
import { between } from '../units/between.testkit';

const entry = between(-3, 3);

describe('singular values', () => {
  it('of random symmetric matrices: their sum is the trace, the sum of squares the squared norm', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 6 }), fc.array(entry, { minLength: 36, maxLength: 36 }), (n, numbers) => {
        const a = new Float64Array(n * n);
        for (let i = 0; i < n; i++) for (let j = 0; j <= i; j++) a[i * n + j] = a[j * n + i] = numbers[i * 6 + j];
        const trace = Array.from({ length: n }, (_, i) => a[i * n + i]).reduce((x, y) => x + y, 0);
        const squares = a.reduce((x, y) => x + y * y, 0);
        const values = symmetricEigenvalues(a.slice(), n);
        expect(values.reduce((x, y) => x + y, 0)).toBeCloseTo(trace, 8);
        expect(values.reduce((x, y) => x + y * y, 0)).toBeCloseTo(squares, 7);
      }),
    );
  });
  it('of a two-bar plane arm: manipulability is l1·l2·|sin elbow|', () => {
    fc.assert(
      fc.property(between(-3, 3), (elbow) => {
        const [l1, l2] = [0.7, 0.4];
        const tip: [number, number] = [l1 + l2 * Math.cos(elbow), l2 * Math.sin(elbow)];
        const columns = [
          [-tip[1], tip[0]],
          [-l2 * Math.sin(elbow), l2 * Math.cos(elbow)],
        ];
        expect(dexterityOf(columns).manipulability).toBeCloseTo(l1 * l2 * Math.abs(Math.sin(elbow)), 9);
      }),
    );
  });
});

describe('closeness to a singular pose', () => {
  it('is near where the arm is stretched, far where it is bent', () => {
    const arm = compiled(threeAxis());
    const [tool] = arm.tools;
    const straight = dexterityAt(arm, tool, 'free', Float64Array.of(0, 0.4, Math.atan2(5, 90)));
    const bent = dexterityAt(arm, tool, 'free', Float64Array.of(0, 0.4, 1.4));
    expect(straight.evenness).toBeLessThan(0.02);
    expect(bent.evenness).toBeGreaterThan(0.2);
  });
  it('is complete where a spherical wrist is straight', () => {
    const arm = compiled(sixAxis());
    const [tool] = arm.tools;
    const q = Float64Array.of(0.3, 0.4, 0.5, 0.7, 0, 0.2);
    expect(dexterityAt(arm, tool, 'full', q).evenness).toBeLessThan(1e-6);
    const { solutions } = solveInverse(arm, tool, { kind: 'free', position: [0.25, 0, 0.2] });
    for (const s of solutions) expect(dexterityAt(arm, tool, 'free', s.q).smallest).toBeGreaterThan(0);
  });
});
