/** A ring with a cross at every place where something would be touched. */
import { toPage } from '../project';
import { circle, path } from '../shapes';
import { placesOf } from './places';
import { layer2d } from './layer';

export const hits = layer2d({
  kind: 'hits',
  place: 'over',
  draw: ({ view }, points) =>
    placesOf(points).flatMap((p) => {
      const [x, y] = toPage(view, p);
      return [
        circle('hit', [x, y], 6),
        path('hit', `M${x - 4} ${y - 4}L${x + 4} ${y + 4}M${x - 4} ${y + 4}L${x + 4} ${y - 4}`),
      ];
    }),
});
