/** The outer surface of all the reach. */
import { BufferAttribute, BufferGeometry, Mesh } from 'three';
import { drawn } from './layer';

const OPACITY = 0.3;

export const shell = drawn(
  'shell',
  ({ positions, triangles }, { ink }) => {
    const geometry = new BufferGeometry();
    geometry.setAttribute('position', new BufferAttribute(positions, 3));
    geometry.setIndex(new BufferAttribute(triangles, 1));
    geometry.computeVertexNormals();
    const surface = new Mesh(geometry, ink.face(ink.palette.glaze, OPACITY));
    surface.renderOrder = 2;
    return [surface];
  },
  { framed: 'at-once' },
);
