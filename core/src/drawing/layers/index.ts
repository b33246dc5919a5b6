/** All layers of the page, those that lie in one place from below to above. A new kind is a file and a line here. */
import { beats } from './beats';
import { frames } from './frames';
import { ghosts } from './ghosts';
import { hits } from './hits';
import type { Layer2d, LayerPage, LayerPlace } from './layer';
import { map } from './map';
import { payloads } from './payloads';
import { region } from './region';
import { target } from './target';
import { trace } from './trace';
import type { Shape } from '../shapes';

const all: readonly Layer2d[] = [map, region, ghosts, payloads, frames, trace, beats, hits, target];

/** What lies in one place of a drawing. */
export const layersIn = (page: LayerPage, place: LayerPlace): Shape[] =>
  all.flatMap((layer) => {
    const shown = page.input.layers?.[layer.kind];
    return layer.place === place && shown ? layer.draw(page, shown) : [];
  });
