/** All layers of the page, those that lie in one place from below to above. A new kind is a file and a line here. */
import { beats } from './beats';
import { blur } from './blur';
import { frames } from './frames';
import { ghosts } from './ghosts';
import { hits } from './hits';
import type { Layer2d, LayerPage, LayerPlace } from './layer';
import type { LayerKind, Layers } from './shown';
import { map } from './map';
import { payloads } from './payloads';
import { region } from './region';
import { standing } from './standing';
import { target } from './target';
import { trace } from './trace';
import type { View } from '../project';
import type { Shape } from '../shapes';

const all: readonly Layer2d[] = [map, region, ghosts, payloads, frames, trace, beats, standing, blur, hits, target];

/** What of a layer stands still, by the layer and by what it shows. */
const kept = new WeakMap<Layer2d, WeakMap<object, { readonly view: View; readonly shapes: readonly Shape[] }>>();
function drawn(layer: Layer2d, page: LayerPage, shown: Layers[LayerKind]): readonly Shape[] {
  if (!layer.still || typeof shown !== 'object') return layer.draw(page, shown);
  let own = kept.get(layer);
  if (!own) kept.set(layer, (own = new WeakMap()));
  let made = own.get(shown);
  if (made?.view !== page.view) own.set(shown, (made = { view: page.view, shapes: layer.draw(page, shown) }));
  return made.shapes;
}

/** What lies in one place of a drawing. */
export const layersIn = (page: LayerPage, place: LayerPlace): Shape[] =>
  all.flatMap((layer) => {
    const shown = page.input.layers?.[layer.kind];
    return layer.place === place && shown ? drawn(layer, page, shown) : [];
  });
