/** A reach map as a drawing of its own: the whole of it with the arm, and under it what the colours mean and what was asked. */
import type { MapDirection } from '../reach';
import { DEG_PER_RAD, MM_PER_M } from '../units/convert';
import { formatNumber } from '../units/quantity';
import { drawRig } from './arm';
import type { DrawingInput } from './input';
import type { MapField, MapLayer } from './layers/shown';
import { mapLevels } from './reach-map';
import { path, text, type Shape } from './shapes';
import { toSvg } from './svg-file';

const fieldWords: Record<MapField, string> = {
  margin: 'limit margin, of half the range',
  postures: 'number of postures',
  manipulability: 'ease of motion, of the best',
  torque: 'torque left, of the best',
};

/** What a map demands of the tool's direction, in words. */
function directionWords(direction: MapDirection): string {
  if (direction === null) return 'the tool pointing any way';
  if (direction === 'outward') return 'the tool pointing level, outward';
  if ('fromUp' in direction) return `the tool ${formatNumber(direction.fromUp * DEG_PER_RAD, 1)}° from up`;
  return `the tool pointing along (${direction.map((v) => formatNumber(v, 2)).join(', ')})`;
}

const SWATCH = [26, 14] as const;
const FOOT = 66;

export function reachMapSheet(
  input: Pick<DrawingInput, 'rig' | 'mechanism' | 'q' | 'width' | 'height'> & { readonly map: MapLayer },
): { readonly svg: string; readonly width: number; readonly height: number } {
  const { map, field, before } = input.map;
  const { plane, height, direction } = map.request;
  const kind = plane === 'plan' ? 'plan' : 'side';
  const drawing = drawRig({ ...input, kind, layers: { map: input.map }, dimensions: false, whole: true });
  const where =
    kind === 'plan' ? `level slice at a height of ${formatNumber(height * MM_PER_M, 1)} mm` : 'side slice';
  const said = `${where}, ${directionWords(direction)}; ${formatNumber(map.extent * 1e4, 0)} cm² in cells of ${formatNumber(map.grid.cell * MM_PER_M, 1)} mm`;
  const shapes: Shape[] = [
    text('legend-words', [14, 20], said),
    text('legend-words', [14, 48], `${fieldWords[field]}:`),
  ];
  let x = 240;
  const sign = (cls: string, d: string, words: string): void => {
    shapes.push(path(cls, d), text('legend-words', [x + SWATCH[0] + 7, 48], words));
    x += SWATCH[0] + 24 + words.length * 7;
  };
  const [w, h] = SWATCH;
  mapLevels(field).forEach(({ words }, k) => {
    const box = `M${x} 37h${w}v${h}h${-w}z`;
    if (k === 0) shapes.push(path('map-0', box));
    sign(
      k === 0 ? 'map-hatch' : `map-${k}`,
      k === 0 ? `M${x} ${37 + h}l${w / 2} ${-h}M${x + w / 2} ${37 + h}l${w / 2} ${-h}` : box,
      words,
    );
  });
  if (before) {
    sign('map-gained', `M${x + 6} 44h14M${x + 13} 37v14`, 'gained');
    sign('map-lost', `M${x + 6} 37l14 14M${x + 20} 37l-14 14`, 'lost');
  }
  return { svg: toSvg(drawing, { height: FOOT, shapes }), width: input.width, height: input.height + FOOT };
}
