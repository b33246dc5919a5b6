/** What the base stands on, with a mark where its load presses. */
import { toPage } from '../project';
import { circle, path, polyD } from '../shapes';
import { layer2d } from './layer';

export const standing = layer2d({
  kind: 'standing',
  place: 'over',
  draw: ({ view }, { corners, at, isSafe }) => {
    const feet = corners.map((corner) => toPage(view, corner));
    const safe = isSafe ? 'safe' : 'unsafe';
    const span = feet.length ? [path(`standing ${safe}`, `${polyD(feet)}Z`)] : [];
    if (!at) return span;
    const [x, y] = toPage(view, at);
    const r = 7;
    return [
      ...span,
      circle(`pressed ${safe}`, [x, y], r),
      path(`pressed ${safe}`, `M${x - 2 * r} ${y}H${x + 2 * r}M${x} ${y - 2 * r}V${y + 2 * r}`),
    ];
  },
});
