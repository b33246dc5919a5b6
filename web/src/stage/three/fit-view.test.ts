import fc from 'fast-check';
import { PerspectiveCamera, Vector3 } from 'three';
import { describe, expect, it } from 'vitest';
import { fitView } from './fit-view';
import { between } from '../../../../core/src/units/between.testkit';

const point = fc.tuple(between(-1.5, 1.5), between(-1.5, 1.5), between(-0.2, 2)).map((p) => new Vector3(...p));

describe('a view that is made to fit', () => {
  it('holds every point, reaches an edge, and has as much room on either side', () => {
    fc.assert(
      fc.property(
        fc.array(point, { minLength: 2, maxLength: 20 }),
        between(0.1, 1.4),
        between(-3, 3),
        between(0.5, 2.5),
        (points, rise, turn, aspect) => {
          const towards = new Vector3(
            Math.cos(rise) * Math.cos(turn),
            Math.cos(rise) * Math.sin(turn),
            Math.sin(rise),
          );
          const camera = new PerspectiveCamera(32, aspect, 0.001, 100);
          camera.up.set(0, 0, 1);
          const up = Math.tan((32 / 2) * (Math.PI / 180));
          const stands = fitView(points, towards, { across: up * aspect, up })!;
          camera.position.copy(stands.camera);
          camera.lookAt(stands.target);
          camera.updateMatrixWorld(true);
          const seen = points.map((p) => p.clone().project(camera));
          for (const { x, y, z } of seen) {
            expect(Math.abs(x)).toBeLessThan(1 + 1e-6);
            expect(Math.abs(y)).toBeLessThan(1 + 1e-6);
            expect(z).toBeLessThan(1);
          }
          // The points themselves may be nearer than any picture of them could be.
          const nearest = Math.min(...points.map((p) => stands.camera.clone().sub(p).dot(towards)));
          if (nearest < 0.051) return;
          const edge = (c: 'x' | 'y'): number[] => [
            Math.min(...seen.map((p) => p[c])),
            Math.max(...seen.map((p) => p[c])),
          ];
          const [x, y] = [edge('x'), edge('y')];
          expect(Math.max(x[1], -x[0], y[1], -y[0])).toBeCloseTo(1, 5);
          const tight = Math.max(x[1], -x[0]) > Math.max(y[1], -y[0]) ? x : y;
          expect(tight[0] + tight[1]).toBeCloseTo(0, 5);
        },
      ),
    );
  });
  it('of nothing is none', () => {
    expect(fitView([], new Vector3(1, 0, 0), { across: 1, up: 1 })).toBeNull();
  });
});
