/** A reach map, where it is of the view’s plane. */
import { mapShapes } from '../reach-map';
import { layer2d } from './layer';

export const map = layer2d({
  kind: 'map',
  place: 'floor',
  draw: ({ view }, shown) => mapShapes(view, shown),
});
