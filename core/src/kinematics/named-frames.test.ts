import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { apply, fromXyzRpy, rotationBetween, vec3, type Vec3 } from '../linear';
import { compiled, fourAxis } from './arms.testkit';
import { forward, frameFromPoints, namedFrames } from './index';
import { between } from '../units/between.testkit';

const coordinate = between(-3, 3);
const triple = fc.tuple(coordinate, coordinate, coordinate);

describe('frames from three touched points', () => {
  it('are the frame that the points were measured in', () => {
    fc.assert(
      fc.property(triple, triple, between(0.01, 2), between(0.05, 2), (p, rpy, x, y) => {
        const frame = fromXyzRpy(p, rpy);
        const found = frameFromPoints(apply(frame, [0, 0, 0]), apply(frame, [x, 0, 0]), apply(frame, [0.3, y, 0]))!;
        expect(vec3.norm(rotationBetween(found, frame))).toBeLessThan(1e-6);
        expect(vec3.distance(apply(found, [0, 0, 0]), p)).toBeLessThan(1e-12);
      }),
    );
  });
  it('do not come from points on one line', () => {
    fc.assert(
      fc.property(triple, triple, coordinate, (a, d, t) => {
        const b = vec3.add(a, d) as Vec3;
        expect(frameFromPoints(a, b, vec3.add(a, vec3.scale(d, t)))).toBeNull();
      }),
    );
  });
  it('move with the link they are fixed to', () => {
    const mechanism = compiled(fourAxis());
    const q = Float64Array.of(0.5, 0.2, 0.3, 0);
    const list = [
      {
        id: 'f',
        name: 'On the elbow',
        fixedTo: { joint: 'elbow' },
        xyzMm: [10, 0, 20] as [number, number, number],
        rpyDeg: [0, 0, 0] as [number, number, number],
      },
    ];
    const frames = forward(mechanism, q);
    const at = namedFrames(mechanism, frames, list).get('f')!;
    expect(vec3.distance([at[9], at[10], at[11]], apply(frames.joints.get('elbow')!, [0.01, 0, 0.02]))).toBeLessThan(
      1e-12,
    );
  });
});
