/** The path of the tool point as a line. */
import { BufferGeometry, Float32BufferAttribute, Line } from 'three';
import { drawn } from './layer';

export const trace = drawn('trace', (points, { ink }) =>
  points.length > 3
    ? [
        new Line(
          new BufferGeometry().setAttribute('position', new Float32BufferAttribute(points, 3)),
          ink.line(ink.palette.cork),
        ),
      ]
    : [],
);
