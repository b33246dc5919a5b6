/** Where the tool is to be: a knob to take hold of, with a cross. */
import { BufferGeometry, Float32BufferAttribute, LineSegments, Mesh, SphereGeometry } from 'three';
import { drawn } from './layer';

const ARM = 0.012;
const RADIUS = 0.006;

export const target = drawn('target', ({ at: [x, y, z] }, { ink }) => {
  const cross = [x - ARM, y, z, x + ARM, y, z, x, y - ARM, z, x, y + ARM, z, x, y, z - ARM, x, y, z + ARM];
  const knob = new Mesh(new SphereGeometry(RADIUS, 20, 14), ink.face(ink.palette.alarm));
  knob.position.set(x, y, z);
  const lines = new BufferGeometry().setAttribute('position', new Float32BufferAttribute(cross, 3));
  return [new LineSegments(lines, ink.line(ink.palette.alarm)), knob];
});
