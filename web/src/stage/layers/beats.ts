/** A dot at every even time along the tool's path. */
import { BufferGeometry, Float32BufferAttribute, Points, PointsMaterial } from 'three';
import { drawn } from './layer';

export const beats = drawn('beats', (points, { ink }) => [
  new Points(
    new BufferGeometry().setAttribute('position', new Float32BufferAttribute(points, 3)),
    new PointsMaterial({ color: ink.palette.cork, size: 3, sizeAttenuation: false }),
  ),
]);
