/** What the tools hold, as boxes. */
import { apply, type Vec3 } from '../../linear';
import type { Payload } from '../../rig';
import { mm } from '../page';
import { toPage } from '../project';
import { hull, polygon } from '../shapes';
import { layer2d } from './layer';

export const payloads = layer2d({
  kind: 'payloads',
  place: 'hand',
  draw: ({ view, input: { rig } }, frames) =>
    [...frames].flatMap(([id, frame]) => {
      const payload = rig.payloads.find((p) => p.id === id);
      return payload
        ? [polygon('payload', hull(boxCorners(payload).map((corner) => toPage(view, apply(frame, corner)))))]
        : [];
    }),
});

const boxCorners = (payload: Payload): Vec3[] =>
  [-1, 1].flatMap((i) =>
    [-1, 1].flatMap((j) =>
      [-1, 1].map((k): Vec3 => {
        const [x, y, z] = payload.comMm;
        const [a, b, c] = payload.sizeMm;
        return mm([x + (i * a) / 2, y + (j * b) / 2, z + (k * c) / 2]);
      }),
    ),
  );
