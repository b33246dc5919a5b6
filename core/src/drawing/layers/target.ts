/** Where the tool is to be. */
import { toPage } from '../project';
import { circle, group, path, text } from '../shapes';
import { layer2d } from './layer';

export const target = layer2d({
  kind: 'target',
  place: 'over',
  draw: ({ view }, { at, note }) => {
    const [x, y] = toPage(view, at);
    return [
      group('target', [
        circle('target-ring', [x, y], 11),
        path('target-cross', `M${x - 17} ${y}H${x + 17}M${x} ${y - 17}V${y + 17}`),
        ...(note ? [text('target-note', [x, y - 24], note, { 'text-anchor': 'middle' })] : []),
      ]),
    ];
  },
});
