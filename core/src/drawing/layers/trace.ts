/** The path of the tool point. */
import { toPage } from '../project';
import { polyline } from '../shapes';
import { placesOf } from './places';
import { layer2d } from './layer';

export const trace = layer2d({
  kind: 'trace',
  place: 'over',
  still: true,
  draw: ({ view }, points) => [
    polyline(
      'trace',
      placesOf(points).map((p) => toPage(view, p)),
    ),
  ],
});
