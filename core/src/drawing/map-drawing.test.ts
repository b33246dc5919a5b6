import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { tileDipper } from '../../../demo';
import { finish } from '../jobs';
import { compiled } from '../kinematics/arms.testkit';
import { compareMaps, middleOf, reachMapJob, type MapDirection, type MapRequest, type ReachMap } from '../reach';
import { reachMapSheet } from './reach-map-sheet';
import { drawRig, levelsOf, mapLevels, toPage, type MapField, type Shape } from './index';
import { mapCorners, mapShapes } from './reach-map';
import { atLeast } from '../units/held.testkit';

const rig = tileDipper();
const mechanism = compiled(rig.mechanism);
const mapOf = (request: Partial<MapRequest>, m = mechanism): ReachMap =>
  finish(
    reachMapJob(m, m.tools[0], {
      ...{ plane: 'side', height: 0.1, direction: null, samples: 4000, seed: 3, cell: 0.01 },
      ...request,
    }),
  );
/** The same arm with an elbow that bends less: some cells are lost. */
const bent = structuredClone(rig.mechanism);
const elbow = bent.joints.find((j) => j.id === 'elbow')!;
if (elbow.type === 'revolute') elbow.limits = { ...elbow.limits, max: 70 };
const stiff = compiled(bent);
const [side, plan] = [mapOf({}), mapOf({ plane: 'plan' })];
const fields: readonly MapField[] = ['postures', 'margin', 'manipulability'];
const weighed: ReachMap = { ...side, torqueLeft: side.margin.map((v) => 1 - v) };

/** Rectangles of a path of M x y h w v −h h −w z. */
function boxes(d: string): { x: number; y: number; w: number; h: number }[] {
  return d
    .split('M')
    .slice(1)
    .map((part) => {
      const [x, y, w, v] = part.match(/-?[\d.]+/g)!.map(Number);
      return { x, y: y + v, w, h: -v };
    });
}
const byClass = (shapes: readonly Shape[], cls: string): Shape | undefined =>
  shapes.flatMap((s) => [s, ...(s.children ?? [])]).find((s) => s.cls === cls);
const dOf = (shape: Shape | undefined): string => String(shape?.attrs.d ?? '');

describe('levels of a map', () => {
  it('are none where nothing is reached, and rise with the value', () => {
    for (const map of [side, plan])
      for (const field of fields) {
        const levels = levelsOf(map, field);
        const value = (at: number): number =>
          field === 'postures' ? map.postures[at] : field === 'margin' ? map.margin[at] : map.manipulability[at];
        const [reached, unlike]: number[][] = [[], []];
        levels.forEach((level, at) => {
          if ((level === 255) !== (map.postures[at] === 0)) unlike.push(at);
          if (level !== 255) reached.push(at);
        });
        expect(unlike).toEqual([]);
        expect(reached.length).toBeGreaterThan(100);
        reached.sort((a, b) => value(a) - value(b));
        for (let k = 1; k < reached.length; k++) atLeast(levels[reached[k]], levels[reached[k - 1]]);
      }
  });
  it('of the torque that is left go by that, and are the weakest where nothing is known of it', () => {
    const levels = levelsOf(weighed, 'torque');
    const bare = levelsOf(side, 'torque');
    weighed.postures.forEach((count, at) => {
      if (!count) return;
      expect(bare[at]).toBe(0);
      const left = weighed.torqueLeft![at];
      expect(levels[at]).toBe(left >= 0.3 ? 3 : left >= 0.15 ? 2 : left >= 0.05 ? 1 : 0);
    });
  });
  it('begin where their words say', () => {
    for (const field of fields) {
      const levels = mapLevels(field);
      expect(levels).toHaveLength(4);
      for (let k = 1; k < 4; k++) expect(levels[k].from).toBeGreaterThan(levels[k - 1].from);
      if (field === 'postures') continue;
      const percent = levels.map(({ from }) => `${Math.round(from * 100)} %`);
      expect(levels.map((l) => l.words)).toEqual([
        `under ${percent[1]}`,
        `${percent[1]} to ${percent[2]}`,
        `${percent[2]} to ${percent[3]}`,
        `over ${percent[3]}`,
      ]);
    }
  });
});

describe('a map under a drawing', () => {
  const drawn = (map: ReachMap, field: MapField, before: ReachMap | null = null) => {
    const kind = map.request.plane === 'plan' ? 'plan' : 'side';
    const layer = { map, field, before };
    const { view } = drawRig({
      ...{ rig, mechanism, q: mechanism.home, kind, width: 900, height: 700, layers: { map: layer }, whole: true },
    });
    return { view, shapes: mapShapes(view, layer) };
  };
  it('has as much area of each level as there are cells of it, each where its cell is', () => {
    for (const map of [side, plan])
      for (const field of fields) {
        const { view, shapes } = drawn(map, field);
        const levels = levelsOf(map, field);
        const edge = map.grid.cell * view.scale;
        const covered = [0, 1, 2, 3].map((k) => boxes(dOf(byClass(shapes, `map-${k}`))));
        covered.forEach((list, k) => {
          const area = list.reduce((sum, { w, h }) => sum + w * h, 0);
          const cells = levels.reduce((n, level) => n + (level === k ? 1 : 0), 0);
          // Places are told to a tenth of a pixel.
          expect(Math.abs(area / (edge * edge) - cells)).toBeLessThan(0.03 * cells + 1);
        });
        levels.forEach((level, at) => {
          if (level === 255 || at % 7) return;
          const [x, y] = middleOf(map.grid, at);
          const world: [number, number, number] =
            map.request.plane === 'plan'
              ? [x, y, 0]
              : [map.origin[0] + view.right[0] * x, map.origin[1] + view.right[1] * x, y];
          const [px, py] = toPage(view, world);
          const within = ({ x: left, y: top, w, h }: { x: number; y: number; w: number; h: number }): boolean =>
            px > left && px < left + w && py > top && py < top + h;
          expect(covered[level].some(within)).toBe(true);
          expect(covered.filter((list) => list.some(within))).toHaveLength(1);
        });
      }
  });
  it('hatches every other cell of the weakest level, and no other', () => {
    const { shapes } = drawn(side, 'margin');
    const weakest = levelsOf(side, 'margin').reduce((n, level, at) => {
      const [i, j] = [at % side.grid.size[0], Math.floor(at / side.grid.size[0])];
      return n + (level === 0 && (i + j) % 2 === 0 ? 1 : 0);
    }, 0);
    expect(dOf(byClass(shapes, 'map-hatch')).split('M').length - 1).toBe(weakest);
  });
  it('marks what was gained and lost against an earlier state, once a cell', () => {
    const less = mapOf({}, stiff);
    const change = compareMaps(side, less)!;
    expect(change.lost.length).toBeGreaterThan(20);
    const { shapes } = drawn(less, 'postures', side);
    expect(dOf(byClass(shapes, 'map-lost')).split('M').length - 1).toBe(2 * change.lost.length);
    const back = drawn(side, 'postures', less);
    expect(dOf(byClass(back.shapes, 'map-gained')).split('M').length - 1).toBe(2 * change.lost.length);
    expect(byClass(drawn(side, 'postures').shapes, 'map-lost')).toBeUndefined();
  });
  it('is drawn in its own plane only, and again when something about it changes', () => {
    const { view, shapes } = drawn(side, 'margin');
    expect(mapShapes(drawn(plan, 'margin').view, { map: side, field: 'margin' })).toEqual([]);
    const layer = { map: side, field: 'margin' as const, before: null };
    expect(mapShapes(view, layer)).toBe(mapShapes(view, { ...layer }));
    expect(mapShapes({ ...view, scale: view.scale * 2 }, layer)).not.toEqual(shapes);
    expect(mapShapes(view, { ...layer, field: 'postures' })).not.toEqual(shapes);
  });
  it('lies within its corners, which are none where nothing is reached', () => {
    for (const map of [side, plan]) {
      const { view } = drawn(map, 'margin');
      const [a, b] = mapCorners(view.right, map).map((p) => toPage(view, p));
      const [left, right] = [Math.min(a[0], b[0]), Math.max(a[0], b[0])];
      // The whole of it is on the page.
      expect(left).toBeGreaterThan(0);
      expect(right).toBeLessThan(900);
      expect(Math.max(a[1], b[1])).toBeLessThan(700);
    }
    expect(mapCorners([1, 0, 0], { ...side, postures: new Uint8Array(side.postures.length) })).toEqual([]);
  });
});

describe('a map as a sheet', () => {
  const texts = (svg: string): string[] => [...svg.matchAll(/<text[^>]*>([^<]*)/g)].map((m) => m[1]);
  const directions: readonly (readonly [MapDirection, RegExp])[] = [
    [null, /the tool pointing any way/],
    ['outward', /the tool pointing level, outward/],
    [{ fromUp: (2 * Math.PI) / 3 }, /the tool 120° from up/],
    [[0, 0, -1], /the tool pointing along \(0, 0, −1\)/],
  ];
  it('says what was asked, in which plane, how large it is, and what its colours mean', () => {
    for (const [direction, words] of directions)
      for (const plane of ['side', 'plan'] as const) {
        const map = mapOf({ plane, direction, cell: 0.02, samples: 500 });
        const { svg, height } = reachMapSheet({
          ...{ rig, mechanism, q: mechanism.home, width: 1000, height: 640 },
          map: { map, field: 'margin' },
        });
        const said = texts(svg);
        expect(said.some((t) => words.test(t))).toBe(true);
        expect(
          said.some((t) => t.startsWith(plane === 'side' ? 'side slice' : 'level slice at a height of 100 mm')),
        ).toBe(true);
        expect(said.some((t) => t.endsWith('cm² in cells of 20 mm'))).toBe(true);
        for (const { words: level } of mapLevels('margin')) expect(said).toContain(level);
        expect(said).not.toContain('lost');
        expect(svg).toContain(`viewBox="0 0 1000 ${height}"`);
        expect(svg).not.toMatch(/NaN|undefined|Infinity/);
      }
  });
  it('keeps its legend on the paper, whatever it says', () => {
    fc.assert(
      fc.property(fc.constantFrom(...fields), fc.boolean(), (field, compared) => {
        const { svg, width } = reachMapSheet({
          ...{ rig, mechanism, q: mechanism.home, width: 1000, height: 640 },
          map: { map: side, field, before: compared ? plan : null },
        });
        const foot = svg.slice(svg.indexOf('class="foot"'));
        for (const [, x, words] of foot.matchAll(/<text[^>]* x="([\d.]+)"[^>]*>([^<]*)/g))
          expect(Number(x) + words.length * 7.2).toBeLessThanOrEqual(width);
        expect(texts(svg).includes('lost')).toBe(compared);
      }),
      { numRuns: 12 },
    );
  });
});
