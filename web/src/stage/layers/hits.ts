/** A ball at every place where something would be touched. */
import { Mesh, SphereGeometry } from 'three';
import { drawn } from './layer';

const RADIUS = 0.008;

export const hits = drawn('hits', (points, { ink }) =>
  Array.from({ length: Math.floor(points.length / 3) }, (_, k) => {
    const ball = new Mesh(new SphereGeometry(RADIUS, 20, 14), ink.face(ink.palette.alarm));
    ball.position.set(points[3 * k], points[3 * k + 1], points[3 * k + 2]);
    return ball;
  }),
);
