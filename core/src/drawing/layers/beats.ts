/** A dot at every place: even in time, so that they stand close where the tool is slow. */
import { toPage } from '../project';
import { circle } from '../shapes';
import { placesOf } from './places';
import { layer2d } from './layer';

export const beats = layer2d({
  kind: 'beats',
  place: 'over',
  draw: ({ view }, points) => placesOf(points).map((p) => circle('beat', toPage(view, p), 1.7)),
});
