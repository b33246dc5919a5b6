/** How a place scatters, as a ball that is drawn out by its deviations. */
import { Matrix4, Mesh, SphereGeometry } from 'three';
import { drawn } from './layer';

export const blur = drawn('blur', ({ at: [x, y, z], shape: l, times: t }, { veil }) => {
  const ball = new SphereGeometry(1, 40, 24);
  const [xx, xy, xz, yx, yy, yz, zx, zy, zz] = l;
  ball.applyMatrix4(
    new Matrix4().set(t * xx, t * xy, t * xz, x, t * yx, t * yy, t * yz, y, t * zx, t * zy, t * zz, z, 0, 0, 0, 1),
  );
  return [new Mesh(ball, veil.face(veil.palette.alarm))];
});
