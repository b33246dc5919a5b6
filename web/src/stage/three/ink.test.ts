import fc from 'fast-check';
import { EdgesGeometry, LineSegments, Mesh, type BufferGeometry, type Group } from 'three';
import { describe, expect, it } from 'vitest';
import { free } from '../layers/layer';
import { Ink, isKept } from './ink';
import { between } from '../../../../core/src/units/between.testkit';

const ink = new Ink({
  ...{ paper: '#fff', body: '#eee', dark: '#555', ink: '#000', soft: '#444' },
  ...{ cork: '#b97', glaze: '#8ba', bench: '#edc', grid: '#dcb', alarm: '#a20' },
});
const facesOf = (group: Group): BufferGeometry =>
  (group.children.find((child) => child instanceof Mesh) as Mesh<BufferGeometry>).geometry;
const sizeOf = (group: Group): number[] => {
  const geometry = facesOf(group);
  geometry.computeBoundingBox();
  const { min, max } = geometry.boundingBox!;
  return [max.x - min.x, max.y - min.y, max.z - min.z];
};

describe('bodies that are kept', () => {
  it('are the very same for the same measures, and have their own measures whatever was made before', () => {
    const mm = between(0.002, 0.2);
    let shared = 0;
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.nat(2), mm, mm, mm), { minLength: 2, maxLength: 12 }), (list) => {
        for (const [kind, a, b, c] of [...list, ...list.toReversed()]) {
          const make = (): Group =>
            kind === 0 ? ink.box(a, b, c) : kind === 1 ? ink.rod(a, b, c) : ink.ball(a, b, c);
          const body = make();
          expect(facesOf(make())).toBe(facesOf(body));
          shared++;
          const wide = 2 * Math.max(a, b);
          const wanted = kind === 1 ? [wide, wide, c] : [a, b, c];
          sizeOf(body).forEach((v, k) => expect(Math.abs(v - wanted[k])).toBeLessThan(0.02 * wanted[k] + 1e-6));
          free(body);
        }
      }),
    );
    expect(shared).toBeGreaterThan(50);
  });
  it('stay when one that shows them goes, until many others have been asked for', () => {
    const body = ink.plate(0.1, 0.02, 0.015, 0.004);
    const geometry = facesOf(body);
    let gone = 0;
    geometry.addEventListener('dispose', () => gone++);
    free(body);
    expect(gone).toBe(0);
    expect(isKept(geometry)).toBe(true);
    expect(facesOf(ink.plate(0.1, 0.02, 0.015, 0.004, '#123456'))).toBe(geometry);
    expect(facesOf(ink.plate(0.1, 0.02, 0.015, 0.005))).not.toBe(geometry);
    expect(facesOf(ink.plate(0.1, 0.02, 0.015, 0.004, undefined, false))).not.toBe(geometry);
    for (let k = 0; k < 500; k++) ink.box(1 + k, 1, 1);
    expect(gone).toBe(1);
    expect(facesOf(ink.plate(0.1, 0.02, 0.015, 0.004))).not.toBe(geometry);
  });
});

/** Length of all lines of a geometry together. */
const lengthOf = (lines: BufferGeometry): number => {
  const { array } = lines.getAttribute('position');
  let sum = 0;
  for (let k = 0; k < array.length; k += 6)
    sum += Math.hypot(array[k] - array[k + 3], array[k + 1] - array[k + 4], array[k + 2] - array[k + 5]);
  return sum;
};

describe('the edges of a plate', () => {
  it('are those that its faces have, as long and in the same box', () => {
    const mm = between(0.004, 0.06);
    fc.assert(
      fc.property(between(0.01, 0.4), mm, mm, between(0.002, 0.02), fc.boolean(), (gap, ra, rb, thick, holes) => {
        const group = ink.plate(ra + rb + gap, ra, rb, thick, undefined, holes);
        const own = group.children.find((child) => child instanceof LineSegments)!.geometry as BufferGeometry;
        // Corners nearer to each other than 1e-4 are one to it: looked at in mm.
        const found = new EdgesGeometry(facesOf(group).clone().scale(1000, 1000, 1000), 28).scale(1e-3, 1e-3, 1e-3);
        expect(lengthOf(own)).toBeCloseTo(lengthOf(found), 4);
        own.computeBoundingBox();
        found.computeBoundingBox();
        expect(own.boundingBox!.min.distanceTo(found.boundingBox!.min)).toBeLessThan(1e-6);
        expect(own.boundingBox!.max.distanceTo(found.boundingBox!.max)).toBeLessThan(1e-6);
      }),
    );
  });
});
