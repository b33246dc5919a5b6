/** A reach map laid under a drawing: cells by level, in one path a level; the weakest level hatched, changes marked by signs. */
import { vec3, type Vec3 } from '../linear';
import { compareMaps, middleOf, type ReachMap } from '../reach';
import type { MapField, MapLayer } from './layers/shown';
import { toPage, type View } from './project';
import { group, path, type Pt, type Shape } from './shapes';

export interface MapLevel {
  /** Least value of the level, and below which value the next one ends. */
  readonly from: number;
  readonly words: string;
}

const SHARES = [0.05, 0.15, 0.3];
const EVEN = [0.1, 0.3, 0.6];

/** The four levels of a field, weakest first, as the legend says them. */
export function mapLevels(field: MapField): readonly MapLevel[] {
  if (field === 'postures')
    return [1, 2, 3, 4].map((from) => ({ from, words: from === 4 ? '4 or more' : String(from) }));
  const bounds = field === 'manipulability' ? EVEN : SHARES;
  const percent = (v: number): string => `${Math.round(v * 100)} %`;
  return [0, ...bounds].map((from, k) => ({
    from,
    words:
      k === 0
        ? `under ${percent(bounds[0])}`
        : k === bounds.length
          ? `over ${percent(from)}`
          : `${percent(from)} to ${percent(bounds[k])}`,
  }));
}

/** Level (0 … 3) of every cell; 255 where it is not reached. Manipulability counts against its largest value. */
export function levelsOf(map: ReachMap, field: MapField): Uint8Array {
  const { postures, margin, manipulability, torqueLeft } = map;
  const levels = mapLevels(field);
  const top = field === 'manipulability' ? Math.max(1e-12, ...manipulability) : 1;
  return postures.map((count, at) => {
    if (!count) return 255;
    const values = {
      ...{ postures: count, margin: margin[at], manipulability: manipulability[at] / top },
      torque: torqueLeft?.[at] ?? 0,
    };
    const value = values[field];
    let level = 0;
    while (level + 1 < levels.length && value >= levels[level + 1].from) level++;
    return level;
  });
}

/** Corner of the page for grid coordinates (m) of a slice. */
function pager(view: View, { origin, request }: ReachMap): (x: number, y: number) => Pt {
  const foot: Vec3 = [origin[0], origin[1], 0];
  return request.plane === 'plan'
    ? (x, y) => toPage(view, [x, y, 0])
    : (x, y) => toPage(view, vec3.add(foot, vec3.add(vec3.scale(view.right, x), [0, 0, y])));
}

/** Two opposite corners (m, world) of what a slice's reached cells cover; `right`: the page's right. */
export function mapCorners(right: Vec3, { grid, postures, origin, request }: ReachMap): Vec3[] {
  let [x0, x1, y0, y1] = [Infinity, -Infinity, Infinity, -Infinity];
  postures.forEach((count, at) => {
    if (!count) return;
    const [x, y] = middleOf(grid, at);
    x0 = Math.min(x0, x);
    x1 = Math.max(x1, x);
    y0 = Math.min(y0, y);
    y1 = Math.max(y1, y);
  });
  if (x1 < x0) return [];
  const corner = (x: number, y: number): Vec3 =>
    request.plane === 'plan' ? [x, y, 0] : vec3.add([origin[0], origin[1], y], vec3.scale(right, x));
  return [corner(x0, y0), corner(x1, y1)];
}

/** Whether a map lies in the plane that a view shows. */
export const isMapIn = (view: Pick<View, 'kind'>, { request }: ReachMap): boolean => request.plane === view.kind;

interface Drawn {
  readonly key: string;
  readonly before: ReachMap | null | undefined;
  readonly shapes: Shape[];
}
/** The last drawing of each map: it stays while the arm moves before it. */
const drawn = new WeakMap<ReachMap, Drawn>();

export function mapShapes(view: View, layer: MapLayer): Shape[] {
  const { map, field, before } = layer;
  if (!isMapIn(view, map)) return [];
  const { right, origin, scale, cx, cy } = view;
  const key = [field, ...right, ...origin, scale, cx, cy].join(' ');
  const last = drawn.get(map);
  if (last && last.key === key && last.before === before) return last.shapes;
  const shapes = freshShapes(view, layer);
  drawn.set(map, { key, before, shapes });
  return shapes;
}

function freshShapes(view: View, { map, field, before }: MapLayer): Shape[] {
  const { grid } = map;
  const [nx, ny] = grid.size;
  const page = pager(view, map);
  const level = levelsOf(map, field);
  const parts = ['', '', '', ''];
  let hatch = '';
  const edge = grid.cell * view.scale;
  const r = (v: number): string => String(Math.round(v * 10) / 10);
  for (let j = 0; j < ny; j++)
    for (let i = 0; i < nx;) {
      const own = level[j * nx + i];
      let end = i + 1;
      while (end < nx && level[j * nx + end] === own) end++;
      if (own < 4) {
        const [x, y] = page((grid.first[0] + i) * grid.cell, (grid.first[1] + j) * grid.cell);
        parts[own] += `M${r(x)} ${r(y)}h${r((end - i) * edge)}v${r(-edge)}h${r((i - end) * edge)}z`;
        if (own === 0)
          for (let k = i; k < end; k++)
            if ((k + j) % 2 === 0) hatch += `M${r(x + (k - i) * edge)} ${r(y)}l${r(edge)} ${r(-edge)}`;
      }
      i = end;
    }
  const shapes = parts.flatMap((d, k) => (d ? [path(`map-${k}`, d)] : []));
  if (hatch) shapes.push(path('map-hatch', hatch));
  const change = before && compareMaps(before, map);
  if (change) {
    const signs = (cells: readonly number[], of: ReachMap, sign: (x: number, y: number) => string): string =>
      cells
        .map((at) => {
          const [x, y] = middleOf(of.grid, at);
          const [px, py] = page(x, y);
          return sign(px, py);
        })
        .join('');
    const h = Math.max(1.5, edge / 3);
    const plus = signs(
      change.gained,
      map,
      (x, y) => `M${r(x - h)} ${r(y)}h${r(2 * h)}M${r(x)} ${r(y - h)}v${r(2 * h)}`,
    );
    const cross = signs(
      change.lost,
      before,
      (x, y) => `M${r(x - h)} ${r(y - h)}l${r(2 * h)} ${r(2 * h)}M${r(x + h)} ${r(y - h)}l${r(-2 * h)} ${r(2 * h)}`,
    );
    if (plus) shapes.push(path('map-gained', plus));
    if (cross) shapes.push(path('map-lost', cross));
  }
  return [group('reach-map', shapes)];
}
