/** What the tools hold, as boxes. */
import { Group } from 'three';
import { toMatrix } from '../three/matrix';
import { drawn } from './layer';

export const payloads = drawn('payloads', (frames, { rig, ink }) =>
  [...frames].flatMap(([id, frame]) => {
    const payload = rig.payloads.find((p) => p.id === id);
    if (!payload) return [];
    const [x, y, z] = payload.sizeMm.map((v) => v / 1000);
    const holder = new Group();
    const box = ink.box(x, y, z, ink.palette.cork);
    box.position.set(payload.comMm[0] / 1000, payload.comMm[1] / 1000, payload.comMm[2] / 1000);
    holder.add(box);
    holder.matrixAutoUpdate = false;
    holder.matrix.copy(toMatrix(frame));
    return [holder];
  }),
);
