import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoRigs, dotPainter, kilnLoader, tileDipper } from '../../../../demo';
import { admit } from '../../admit';
import { forward } from '../../kinematics';
import type { Mechanism } from '../../mechanism';
import type { Rig } from '../../rig';
import { between } from '../../units/between.testkit';
import { drawRig, toPage, toSvg, type Shape, type ShownLayers, type ViewKind } from '../index';

const standing = (rig: Rig): { rig: Rig; mechanism: Mechanism } => {
  const made = admit(rig);
  if (!made.ok) throw new Error(made.faults[0].message);
  return made;
};
const arms = demoRigs().map(({ rig }) => standing(rig));
const kinds: readonly ViewKind[] = ['side', 'front', 'plan'];
const draw = ({ rig, mechanism }: (typeof arms)[number], kind: ViewKind, layers: ShownLayers, q = mechanism.home) =>
  drawRig({ rig, mechanism, q, kind, width: 800, height: 600, layers });
const flat = (shapes: readonly Shape[]): Shape[] => shapes.flatMap((shape) => [shape, ...flat(shape.children ?? [])]);
const of = (shapes: readonly Shape[], name: string): Shape[] =>
  flat(shapes).filter((shape) => shape.cls.split(' ').includes(name));
const place = fc.tuple(...[0, 1, 2].map(() => between(-0.3, 0.3)));
const places = fc.array(place, { minLength: 2, maxLength: 6 });
const listed = (list: readonly (readonly number[])[]): Float64Array => Float64Array.from(list.flat());

describe('layers of a drawing', () => {
  it('draw what they show and nothing else: as many marks as places, each at its own', () => {
    fc.assert(
      fc.property(fc.constantFrom(...arms), fc.constantFrom(...kinds), places, (arm, kind, list) => {
        const bare = draw(arm, kind, {}).shapes;
        for (const name of ['trace', 'beat', 'hit', 'ghost', 'target', 'payload', 'frame-mark'])
          expect(of(bare, name)).toEqual([]);
        const { shapes, view } = draw(arm, kind, { beats: listed(list), hits: listed(list), trace: listed(list) });
        const at = list.map((p) => toPage(view, p as never));
        const marks = of(shapes, 'hit');
        expect(marks.length).toBe(2 * list.length);
        at.forEach(([x, y], k) => {
          expect(Number(marks[2 * k].attrs!.cx)).toBeCloseTo(x, 1);
          expect(Number(marks[2 * k].attrs!.cy)).toBeCloseTo(y, 1);
        });
        // Dots are one shape.
        const [beats, ...more] = of(shapes, 'beat');
        expect(more).toEqual([]);
        const dots = [...String(beats.attrs!.d).matchAll(/M(\S+) (\S+)h0/g)].map(([, x, y]) => [
          Number(x),
          Number(y),
        ]);
        expect(dots.length).toBe(list.length);
        at.forEach((p, k) => p.forEach((v, c) => expect(dots[k][c]).toBeCloseTo(v, 1)));
        expect(of(shapes, 'trace').length).toBe(1);
        // The arm and what stands around it are drawn as without them.
        const rest = (all: readonly Shape[]) => all.filter(({ cls }) => !['trace', 'beat', 'hit'].includes(cls));
        expect(rest(shapes)).toEqual(bare);
      }),
      { numRuns: 30 },
    );
  });
  it('draw how a place scatters as the outline of its ellipsoid: no direction of the ball goes past it, and some reach it', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...arms),
        fc.constantFrom(...kinds),
        place,
        fc.array(between(-0.002, 0.002), { minLength: 9, maxLength: 9 }),
        (arm, kind, at, list) => {
          const shape = Float64Array.from(list);
          const { shapes, view } = draw(arm, kind, { blur: { at: at as never, shape, times: 20 } });
          const outline = [...String(of(shapes, 'blur')[0].attrs!.d).matchAll(/(-?[\d.]+) (-?[\d.]+)/g)].map(
            ([, x, y]) => [Number(x), Number(y)],
          );
          expect(outline.length).toBeGreaterThan(30);
          const [cx, cy] = toPage(view, at as never);
          for (let k = 0; k < 12; k++) {
            const [c, s] = [Math.cos(k / 2), Math.sin(k / 2)];
            const along = ([x, y]: readonly number[]): number => (x - cx) * c + (y - cy) * s;
            const reach = Math.max(...outline.map(along));
            // The ball's farthest point that way: |Lᵀ·d|, as the page has it.
            const axes = [0, 1, 2].map((j) =>
              along(toPage(view, at.map((v, i) => v + 20 * shape[3 * i + j]) as never)),
            );
            expect(Math.abs(reach - Math.hypot(...axes))).toBeLessThan(0.01 * Math.hypot(...axes) + 0.2);
          }
        },
      ),
      { numRuns: 30 },
    );
  });
  it('show several ghosts, each the outline of its own pose', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...arms),
        fc.constantFrom(...kinds),
        fc.array(fc.array(between(0, 1), { minLength: 30, maxLength: 30 }), { maxLength: 4 }),
        (arm, kind, shares) => {
          const { lower, upper, m, home } = arm.mechanism;
          const poses = shares
            .map((f) =>
              Float64Array.from({ length: m }, (_, s) =>
                Number.isFinite(upper[s] - lower[s]) ? lower[s] + f[s % f.length] * (upper[s] - lower[s]) : home[s],
              ),
            )
            .filter((q) => forward(arm.mechanism, q).gap === 0);
          const all = of(draw(arm, kind, { ghosts: poses }).shapes, 'ghost');
          expect(all.length).toBe(poses.length);
          poses.forEach((q, k) => {
            // On the same page, alone.
            const [alone] = of(draw(arm, kind, { ghosts: [q] }).shapes, 'ghost');
            expect(all[k]).toEqual(alone);
          });
        },
      ),
      { numRuns: 25 },
    );
  });
  it('lie in their order: the map under the grid, ghosts behind the arm, the target over all', () => {
    const arm = arms.find(({ rig }) => rig.name === tileDipper().name)!;
    const { shapes } = draw(arm, 'side', {
      target: { at: [0.1, 0, 0.1], note: '38 mm short' },
      ghosts: [arm.mechanism.home],
      hits: listed([[0.1, 0, 0.1]]),
    });
    const order = shapes.map(({ cls }) => cls);
    expect(order.indexOf('grid-lines')).toBeLessThan(order.indexOf('ghost'));
    expect(order.indexOf('ghost')).toBeLessThan(order.indexOf('arm'));
    expect(order.indexOf('arm')).toBeLessThan(order.indexOf('hit'));
    expect(order.at(-1)).toBe('target');
    expect(of(shapes, 'target-note')[0].text).toBe('38 mm short');
  });
  it('payloads stand where their frame is, frames only where they are asked for', () => {
    const arm = arms.find(({ rig }) => rig.payloads.length > 0 && rig.mechanism.family === 'tree')!;
    const [payload] = arm.rig.payloads;
    const { tools } = forward(arm.mechanism, arm.mechanism.home);
    const frame = [...tools.values()][0];
    const boxes = of(draw(arm, 'side', { payloads: new Map([[payload.id, frame]]) }).shapes, 'payload');
    expect(boxes.length).toBe(1);
    expect(of(draw(arm, 'side', { payloads: new Map([['nobody', frame]]) }).shapes, 'payload')).toEqual([]);
    expect(of(draw(arm, 'side', { frames: true }).shapes, 'frame-mark').length).toBeGreaterThan(0);
  });
  it('hold numbers only, on a delta and with a rail too', () => {
    for (const rig of [dotPainter(), kilnLoader()]) {
      const arm = standing(rig);
      const layers: ShownLayers = {
        ...{ ghosts: [arm.mechanism.home], frames: true, trace: new Float64Array(0), beats: new Float64Array(0) },
        ...{ hits: new Float64Array([0, 0, 0]), target: { at: [0, 0, 0.1] } },
      };
      for (const kind of kinds) expect(toSvg(draw(arm, kind, layers))).not.toMatch(/NaN|undefined|Infinity/);
    }
  });
});
