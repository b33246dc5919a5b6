/** The document's simple solids as bodies in the drawing's style. */
import { Group } from 'three';
import type { Body } from '@cork-elbow/core/rig';
import type { Ink } from './ink';

const MM = 1e-3;

export function solid(body: Body, ink: Ink): Group {
  const [x, y, z] = body.sizeMm.map((v) => v * MM);
  const colour = body.tone === 'dark' ? ink.palette.dark : body.tone === 'cork' ? ink.palette.cork : undefined;
  const holder = new Group();
  holder.position.set(body.centreMm[0] * MM, body.centreMm[1] * MM, body.centreMm[2] * MM);
  holder.rotation.set(...(body.rpyDeg.map((v) => (v * Math.PI) / 180) as [number, number, number]), 'ZYX');
  let shape: Group;
  switch (body.kind) {
    case 'box':
      shape = ink.box(x, y, z, colour);
      break;
    case 'ball':
      shape = ink.ball(x, y, z, colour);
      break;
    default:
      shape = ink.rod(x / 2, body.kind === 'cone' ? 1e-5 : x / 2, z, colour);
      shape.scale.y = y / x;
      shape.position.z = -z / 2;
  }
  holder.add(shape);
  return holder;
}
