/** A dot at every place: even in time, so that they stand close where the tool is slow. */
import { toPage } from '../project';
import { dots } from '../shapes';
import { placesOf } from './places';
import { layer2d } from './layer';

export const beats = layer2d({
  kind: 'beats',
  place: 'over',
  still: true,
  draw: ({ view }, points) => [
    dots(
      'beat',
      placesOf(points).map((p) => toPage(view, p)),
    ),
  ],
});
