/** Other poses in outline. */
import { group } from '../shapes';
import { layer2d } from './layer';

export const ghosts = layer2d({
  kind: 'ghosts',
  place: 'behind',
  draw: ({ outline }, poses) => poses.map((q) => group('ghost', outline(q))),
});
