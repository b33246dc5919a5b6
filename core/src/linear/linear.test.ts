import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  apply,
  axisAngle,
  choleskySolveInto,
  fromQuaternion,
  fromXyzRpy,
  identity,
  inverse,
  mul,
  mulInto,
  quaternionOf,
  rotate,
  rotationBetween,
  rpyOf,
  seededRandom,
  symmetricEigenvalues,
  sincos,
  vec3,
  zOnto,
  type Vec3,
} from './index';
import { between } from '../units/between.testkit';

const angle = between(-Math.PI, Math.PI);
const triple = fc.tuple(angle, angle, angle);

describe('sincos', () => {
  it('agrees with the engine to two units in the last place and stays on the unit circle', () => {
    fc.assert(
      fc.property(between(-1e5, 1e5), (x) => {
        const { sin, cos } = sincos(x);
        expect(Math.abs(sin - Math.sin(x))).toBeLessThan(4e-16);
        expect(Math.abs(cos - Math.cos(x))).toBeLessThan(4e-16);
        expect(Math.abs(sin * sin + cos * cos - 1)).toBeLessThan(1e-15);
      }),
    );
  });
  it('is exact at zero and odd/even', () => {
    expect(sincos(0)).toEqual({ sin: 0, cos: 1 });
    fc.assert(
      fc.property(angle, (x) => {
        // Nought has no sign here.
        expect(sincos(-x).sin + sincos(x).sin).toBe(0);
        expect(sincos(-x).cos).toBe(sincos(x).cos);
      }),
    );
  });
});

describe('rigid transforms', () => {
  it('multiply in place as they do apart', () => {
    fc.assert(
      fc.property(triple, triple, (a, b) => {
        const A = fromXyzRpy(a, b);
        const B = fromXyzRpy(b, a);
        const apart = mul(A, B);
        const left = A.slice();
        mulInto(left, 0, left, 0, B, 0);
        const right = B.slice();
        mulInto(right, 0, A, 0, right, 0);
        expect(left).toEqual(apart);
        expect(right).toEqual(apart);
      }),
    );
  });
  it('undo themselves by their inverse', () => {
    fc.assert(
      fc.property(triple, triple, (xyz, rpy) => {
        const T = fromXyzRpy(xyz, rpy);
        mul(T, inverse(T)).forEach((v, i) => expect(v).toBeCloseTo(identity()[i], 12));
      }),
    );
  });
  it('keep the rotation through roll-pitch-yaw and through quaternions', () => {
    fc.assert(
      fc.property(triple, (rpy) => {
        const T = fromXyzRpy([0, 0, 0], rpy);
        const viaRpy = fromXyzRpy([0, 0, 0], rpyOf(T));
        const q = quaternionOf(T);
        expect(q[3]).toBeGreaterThanOrEqual(0);
        const viaQuaternion = fromQuaternion(q);
        T.forEach((v, i) => {
          expect(viaRpy[i]).toBeCloseTo(v, 9);
          expect(viaQuaternion[i]).toBeCloseTo(v, 12);
        });
      }),
    );
  });
  it('gives roll 0 at a pitch of a quarter turn', () => {
    for (const sign of [1, -1]) {
      const rpy = rpyOf(fromXyzRpy([0, 0, 0], [0.4, (sign * Math.PI) / 2, 0.9]));
      expect(rpy[0]).toBe(0);
      const back = fromXyzRpy([0, 0, 0], rpy);
      fromXyzRpy([0, 0, 0], [0.4, (sign * Math.PI) / 2, 0.9]).forEach((v, i) => expect(back[i]).toBeCloseTo(v, 8));
    }
  });
  it('carry +Z onto any direction', () => {
    fc.assert(
      fc.property(triple, (v) => {
        const axis = vec3.unit(v as Vec3);
        fc.pre(axis !== null);
        const R = zOnto(axis!);
        rotate(R, [0, 0, 1]).forEach((c, i) => expect(c).toBeCloseTo(axis![i], 12));
        mul(R, inverse(R)).forEach((c, i) => expect(c).toBeCloseTo(identity()[i], 7));
      }),
    );
    expect(rotate(zOnto([0, 0, -1]), [0, 0, 1])[2]).toBe(-1);
  });
  it('recover the rotation vector between two rotations, half turns included', () => {
    fc.assert(
      fc.property(triple, between(0, Math.PI), triple, (v, turn, rpy) => {
        const axis = vec3.unit(v as Vec3);
        fc.pre(axis !== null);
        const A = fromXyzRpy([0, 0, 0], rpy);
        const B = mul(axisAngle(axis!, turn), A);
        const w = rotationBetween(A, B);
        expect(vec3.norm(w)).toBeCloseTo(turn, 7);
        const again = mul(axisAngle(vec3.unit(w) ?? axis!, vec3.norm(w)), A);
        again.forEach((c, i) => expect(c).toBeCloseTo(B[i], 6));
      }),
    );
  });
  it('apply points as rotation plus shift', () => {
    const T = fromXyzRpy([1, 2, 3], [0, 0, Math.PI / 2]);
    apply(T, [1, 0, 0]).forEach((v, i) => expect(v).toBeCloseTo([1, 3, 3][i], 12));
  });
});

describe('choleskySolveInto', () => {
  it('solves what it is given and refuses what has no factor', () => {
    fc.assert(
      fc.property(fc.array(angle, { minLength: 9, maxLength: 9 }), triple, (m, x) => {
        const A = new Float64Array(9);
        for (let i = 0; i < 3; i++)
          for (let j = 0; j < 3; j++) {
            A[3 * i + j] = i === j ? 0.5 : 0;
            for (let k = 0; k < 3; k++) A[3 * i + j] += m[3 * i + k] * m[3 * j + k];
          }
        const b = new Float64Array(3);
        for (let i = 0; i < 3; i++) for (let j = 0; j < 3; j++) b[i] += A[3 * i + j] * x[j];
        expect(choleskySolveInto(A, b, 3)).toBe(true);
        b.forEach((v, i) => expect(v).toBeCloseTo(x[i], 8));
      }),
    );
    expect(choleskySolveInto(Float64Array.of(1, 2, 2, 1), Float64Array.of(1, 1), 2)).toBe(false);
  });
});

describe('choleskySolveInto of any size', () => {
  // Each size by itself: chance alone leaves some of them out.
  const sizes = [1, 2, 3, 4, 5, 6, 7, 8, 9];
  const sized = (n: number) =>
    fc.tuple(
      fc.constant(n),
      fc.array(angle, { minLength: n * n, maxLength: n * n }),
      fc.array(angle, { minLength: n, maxLength: n }),
    );
  /** M·Mᵀ + I/2: positive definite whatever M is. */
  const definite = (n: number, m: readonly number[]): Float64Array => {
    const a = new Float64Array(n * n);
    for (let i = 0; i < n; i++)
      for (let j = 0; j < n; j++) {
        a[n * i + j] = i === j ? 0.5 : 0;
        for (let k = 0; k < n; k++) a[n * i + j] += m[n * i + k] * m[n * j + k];
      }
    return a;
  };
  it.each(sizes)('gives the x that was put in, whatever the size: %i', (size) => {
    fc.assert(
      fc.property(sized(size), ([n, m, x]) => {
        const a = definite(n, m);
        const b = new Float64Array(n);
        for (let i = 0; i < n; i++) for (let j = 0; j < n; j++) b[i] += a[n * i + j] * x[j];
        expect(choleskySolveInto(a, b, n)).toBe(true);
        b.forEach((v, i) => expect(v).toBeCloseTo(x[i], 7));
      }),
    );
  });
  it.each(sizes)('refuses a matrix with a direction that it does not hold, whichever it is: %i', (size) => {
    fc.assert(
      fc.property(sized(size), fc.nat(), ([n, m], pick) => {
        const a = definite(n, m);
        const k = pick % n;
        // A negative square in one place alone.
        a[n * k + k] = -a[n * k + k];
        expect(choleskySolveInto(a, new Float64Array(n), n)).toBe(false);
      }),
    );
  });
  it.each(sizes)('uses the lower triangle alone: %i', (size) => {
    fc.assert(
      fc.property(sized(size), ([n, m, x]) => {
        const [a, b] = [definite(n, m), definite(n, m)];
        for (let i = 0; i < n; i++) for (let j = i + 1; j < n; j++) b[n * i + j] = 1e9;
        const [p, q] = [Float64Array.from(x), Float64Array.from(x)];
        choleskySolveInto(a, p, n);
        choleskySolveInto(b, q, n);
        expect(q).toEqual(p);
      }),
    );
  });
});

describe('symmetricEigenvalues', () => {
  it('have the trace, the squares and the determinant of their matrix, and are its own where it is turned', () => {
    fc.assert(
      fc.property(triple, triple, (values, rpy) => {
        const R = fromXyzRpy([0, 0, 0], rpy);
        const a = new Float64Array(9);
        for (let i = 0; i < 3; i++)
          for (let j = 0; j < 3; j++)
            for (let k = 0; k < 3; k++) a[3 * i + j] += R[3 * i + k] * values[k] * R[3 * j + k];
        const found = [...symmetricEigenvalues(a, 3)].sort((x, y) => x - y);
        [...values].sort((x, y) => x - y).forEach((v, k) => expect(found[k]).toBeCloseTo(v, 9));
      }),
    );
  });
  it('of a diagonal are what stands there, of any size', () => {
    fc.assert(
      fc.property(fc.array(angle, { minLength: 1, maxLength: 8 }), (values) => {
        const n = values.length;
        const a = new Float64Array(n * n);
        values.forEach((v, i) => (a[n * i + i] = v));
        expect([...symmetricEigenvalues(a, n)]).toEqual(values);
      }),
    );
  });
});

describe('seededRandom', () => {
  it('is the same for the same seed, another for another, inside [0, 1) and even', () => {
    fc.assert(
      fc.property(fc.integer(), (seed) => {
        const [a, b, c] = [seededRandom(seed), seededRandom(seed), seededRandom(seed + 1)];
        const list = Array.from({ length: 400 }, () => a());
        expect(list).toEqual(Array.from({ length: 400 }, () => b()));
        expect(list).not.toEqual(Array.from({ length: 400 }, () => c()));
        expect(list.every((v) => v >= 0 && v < 1)).toBe(true);
        const mean = list.reduce((sum, v) => sum + v, 0) / list.length;
        // Four standard deviations of the mean of 400.
        expect(Math.abs(mean - 0.5)).toBeLessThan(4 / Math.sqrt(12 * 400) + 0.01);
      }),
    );
  });
});
