import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoRigs, tileDipper, twinCarriers } from '../../../demo';
import { forward, solveInverse } from '../kinematics';
import { compiled, poseOf, treeDoc } from '../kinematics/arms.testkit';
import { compile } from '../mechanism';
import { positionOf, vec3, type Vec3 } from '../linear';
import {
  dragTo,
  drawRig,
  hull,
  levelBarsOf,
  pickLink,
  reachRegion,
  toPage,
  toSvg,
  toWorld,
  viewNames,
  type Pt,
  type Shape,
  type ViewKind,
} from './index';
import { presets, rigFromPreset } from '../presets';
import { between } from '../units/between.testkit';

const rig = tileDipper();
const mechanism = compiled(rig.mechanism);
const shares = fc.array(between(0, 1), { minLength: 5, maxLength: 5 });
const all = (shapes: readonly Shape[]): Shape[] => shapes.flatMap((s) => [s, ...all(s.children ?? [])]);

describe('side elevation and plan', () => {
  it('show lengths true: the page distance of the pivots is the link’s, at the drawing’s scale', () => {
    fc.assert(
      fc.property(shares, (f) => {
        const q = poseOf(mechanism, f);
        const { view } = drawRig({ rig, mechanism, q, kind: 'side', width: 640, height: 600 });
        const { joints } = forward(mechanism, q);
        const at = (id: string): Pt => toPage(view, positionOf(joints.get(id)!));
        const [b, c, d] = [at('shoulder'), at('elbow'), at('wrist')];
        expect(Math.hypot(c[0] - b[0], c[1] - b[1])).toBeCloseTo(0.14 * view.scale, 6);
        expect(Math.hypot(d[0] - c[0], d[1] - c[1])).toBeCloseTo(0.128 * view.scale, 6);
      }),
    );
  });
  it('give the world point under a point of the page', () => {
    fc.assert(
      fc.property(
        shares,
        fc.integer({ min: 0, max: 600 }),
        fc.integer({ min: 0, max: 600 }),
        fc.constantFrom('side', 'plan'),
        (f, x, y, kind) => {
          const { view } = drawRig({
            rig,
            mechanism,
            q: poseOf(mechanism, f),
            kind: kind as 'side' | 'plan',
            width: 640,
            height: 600,
          });
          const [px, py] = toPage(view, toWorld(view, [x, y]));
          expect(px).toBeCloseTo(x, 6);
          expect(py).toBeCloseTo(y, 6);
        },
      ),
    );
  });
  it('never hold a number that is none, and escape names in the file', () => {
    fc.assert(
      fc.property(shares, (f) => {
        const named = { ...rig, name: 'A <b> & "c"' };
        const svg = toSvg(
          drawRig({
            rig: named,
            mechanism,
            q: poseOf(mechanism, f),
            kind: 'side',
            width: 640,
            height: 600,
            selected: 'elbow',
            layers: { target: { at: [0.1, 0, 0.1] } },
          }),
        );
        expect(svg).not.toMatch(/NaN|undefined|Infinity/);
        expect(svg).toContain('A &lt;b&gt; &amp; &quot;c&quot;');
      }),
      { numRuns: 20 },
    );
  });
  it('draw any tree of joints at any pose, without joints too', () => {
    fc.assert(
      fc.property(treeDoc, shares, fc.constantFrom('side', 'plan'), (doc, f, kind) => {
        const result = compile(doc);
        fc.pre(result.ok);
        if (!result.ok) return;
        const svg = toSvg(
          drawRig({
            rig: { ...rig, mechanism: doc },
            mechanism: result.mechanism,
            q: poseOf(result.mechanism, f),
            kind: kind as 'side' | 'plan',
            width: 640,
            height: 600,
            selected: 'j0',
          }),
        );
        expect(svg).not.toMatch(/NaN|undefined|Infinity/);
      }),
    );
    const bare = { ...rig.mechanism, joints: [], tools: [] };
    expect(
      toSvg(
        drawRig({
          rig: { ...rig, mechanism: bare },
          mechanism: compiled(bare),
          q: new Float64Array(0),
          kind: 'side',
          width: 640,
          height: 600,
        }),
      ),
    ).toContain('bench top');
  });
  it('name what stands around without one name on another', () => {
    for (const { rig: one } of demoRigs())
      for (const kind of ['side', 'front', 'plan'] as const) {
        const arm = compiled(one.mechanism);
        const { shapes } = drawRig({ rig: one, mechanism: arm, q: arm.home, kind, width: 640, height: 600 });
        const names = all(shapes).filter((s) => /^(obstacle|spot)-label$/.test(s.cls) && s.text);
        // Where a name's middle stands on the page; marks and groups of names are not moved.
        const middle = (s: Shape): number =>
          Number(s.attrs.x) + (s.attrs['text-anchor'] === 'middle' ? 0 : 3 * s.text!.length);
        names.forEach((a, i) =>
          names.slice(i + 1).forEach((b) => {
            const side = Math.abs(middle(a) - middle(b));
            const wide = 3 * (a.text!.length + b.text!.length);
            expect(side >= wide || Math.abs(Number(a.attrs.y) - Number(b.attrs.y)) >= 13 - 1e-6).toBe(true);
          }),
        );
      }
  });
  it('dimension the links with what was measured', () => {
    const { shapes } = drawRig({ rig, mechanism, q: mechanism.home, kind: 'side', width: 640, height: 600 });
    const words = all(shapes)
      .filter((s) => s.cls === 'dimension-text')
      .map((s) => s.text);
    expect(words).toEqual(expect.arrayContaining(['140', '128', '88', '100']));
  });
});

describe('the reach outline', () => {
  it('holds only places that inverse kinematics reaches too, the tool straight down', () => {
    const tool = mechanism.tools[0];
    const { quads } = reachRegion(mechanism, tool, [0, 0, -1])!;
    expect(quads.length).toBeGreaterThan(1000);
    fc.assert(
      fc.property(fc.nat(quads.length / 2 - 1), (k) => {
        const [r, h] = [quads[2 * k], quads[2 * k + 1]];
        // The turn axis stands at height 62 mm; a corner on the edge itself is tried a hair inside the limits' rounding.
        const { reachable, reasons } = solveInverse(mechanism, tool, {
          kind: 'direction',
          position: [r, 0, h + 0.062],
          direction: [0, 0, -1],
        });
        if (!reachable) for (const reason of reasons) expect(reason.byDeg ?? reason.byMm ?? 1).toBeLessThan(1e-4);
      }),
    );
  });
});

it('hull keeps every point inside', () => {
  fc.assert(
    fc.property(
      fc.array(fc.tuple(fc.integer({ min: -50, max: 50 }), fc.integer({ min: -50, max: 50 })), {
        minLength: 3,
        maxLength: 20,
      }),
      (points) => {
        const outline = hull(points);
        for (const p of points)
          outline.forEach((a, i) => {
            const b = outline[(i + 1) % outline.length];
            expect((b[0] - a[0]) * (p[1] - a[1]) - (b[1] - a[1]) * (p[0] - a[0])).toBeGreaterThanOrEqual(0);
          });
      },
    ),
  );
  expect(vec3.unit([0, 0, 0])).toBeNull();
});

const kinds = Object.keys(viewNames) as ViewKind[];
const many = [
  ...demoRigs().map(({ rig: demo }) => demo),
  ...presets.map((preset) => {
    const made = rigFromPreset(preset, preset.name);
    if (!made.ok) throw new Error(made.faults[0].message);
    return made.value;
  }),
].map((doc) => ({ rig: doc, mechanism: compiled(doc.mechanism) }));

describe('drawings of every kind of arm', () => {
  it('hold numbers only, whole or one limb alone, at any pose', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...many),
        fc.constantFrom(...kinds),
        shares,
        fc.boolean(),
        (one, kind, f, alone) => {
          const q = poseOf(one.mechanism, f);
          const svg = toSvg(
            drawRig({
              ...one,
              q,
              kind,
              width: 640,
              height: 600,
              layers: { frames: true },
              selected: one.mechanism.slotIds[0],
              limb: alone ? one.mechanism.tools[0].id : null,
            }),
          );
          expect(svg).not.toMatch(/NaN|undefined|Infinity/);
        },
      ),
    );
  });
  it('keep the home pose on the page', () => {
    for (const one of many)
      for (const kind of kinds) {
        const { mechanism: m } = one;
        const { view } = drawRig({ ...one, q: m.home, kind, width: 640, height: 600 });
        const { joints, tools } = forward(m, m.home);
        for (const frame of [...joints.values(), ...tools.values()]) {
          const [x, y] = toPage(view, positionOf(frame));
          expect(x).toBeGreaterThan(0);
          expect(x).toBeLessThan(640);
          expect(y).toBeGreaterThan(0);
          expect(y).toBeLessThan(600);
        }
      }
  });
  it('draw what is nearer over what is further, from every side', () => {
    const box = (x: number, y: number, z: number, tone: 'dark' | 'cork') => ({
      kind: 'box' as const,
      centreMm: [x, y, z] as [number, number, number],
      rpyDeg: [0, 0, 0] as [number, number, number],
      sizeMm: [20, 20, 20] as [number, number, number],
      tone,
    });
    const bare = { ...rig.mechanism, joints: [], tools: [] };
    // The cork box is ahead of, to the right of and above the dark one: nearer in all three views.
    for (const order of [0, 1]) {
      const pair = [box(-60, 60, 20, 'dark'), box(60, -60, 80, 'cork')];
      const base = { ...bare.base, feet: [], bodies: order ? pair : pair.reverse() };
      const doc = { ...bare, base };
      for (const kind of kinds) {
        const drawing = drawRig({
          rig: { ...rig, mechanism: doc, obstacles: [], spots: [] },
          mechanism: compiled(doc),
          q: new Float64Array(0),
          kind,
          width: 640,
          height: 600,
        });
        const tones = all(drawing.shapes)
          .map((shape) => /^link body (\w+)/.exec(shape.cls)?.[1])
          .filter(Boolean);
        expect([kind, ...tones]).toEqual([kind, 'dark', 'cork']);
      }
    }
  });
  it('level bars keep their length in every pose: they are parallelograms', () => {
    const { rig: stacking, mechanism: m } = many.find((one) => one.rig.name.startsWith('Stacking'))!;
    if (stacking.mechanism.family !== 'tree') throw new Error();
    const doc = stacking.mechanism;
    const lengths = (q: Float64Array): number[] =>
      levelBarsOf(doc, forward(m, q), 'level').map(({ from, to }) => vec3.distance(from, to));
    const home = lengths(m.home);
    expect(home).toHaveLength(2);
    fc.assert(
      fc.property(shares, (f) => {
        lengths(poseOf(m, f)).forEach((d, i) => expect(d).toBeCloseTo(home[i], 12));
      }),
    );
  });
});

describe('dragging a link on a drawing', () => {
  it('brings its point nearer to the pointer and never past a limit', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...many),
        fc.constantFrom(...kinds),
        shares,
        fc.integer({ min: 0, max: 640 }),
        fc.integer({ min: 0, max: 600 }),
        fc.nat(),
        (one, kind, f, x, y, pick) => {
          const { mechanism: m, rig: doc } = one;
          const q = poseOf(m, f);
          fc.pre(forward(m, q).gap === 0);
          const { view } = drawRig({ ...one, q, kind, width: 640, height: 600 });
          const project = (p: Vec3): Pt => toPage(view, p);
          const joint = m.ids[pick % m.n];
          const grip = pickLink(doc, m, q, project, project(positionOf(forward(m, q).joints.get(joint)!)));
          fc.pre(grip !== null);
          const value = dragTo(m, q, grip!, project, [x, y]);
          expect(value).toBeGreaterThanOrEqual(m.lower[grip!.slot] - 1e-12);
          expect(value).toBeLessThanOrEqual(m.upper[grip!.slot] + 1e-12);
        },
      ),
    );
  });
  it('follows the pointer to any place that the joint can bring the point to', () => {
    const m = mechanism;
    fc.assert(
      fc.property(shares, between(0.1, 0.9), (f, wish) => {
        const q = poseOf(m, f);
        const slot = m.slotOf.get('elbow')!;
        const { view } = drawRig({ rig, mechanism: m, q, kind: 'side', width: 640, height: 600 });
        const project = (p: Vec3): Pt => toPage(view, p);
        const on = m.index.get('elbow')!;
        const goal = q.slice();
        // A drag goes step by step: a near goal, as the next frame of a moving pointer has.
        goal[slot] = Math.min(m.upper[slot], Math.max(m.lower[slot], q[slot] + (wish - 0.5) * 0.6));
        const wrist = positionOf(forward(m, goal).joints.get('wrist')!);
        const value = dragTo(m, q, { slot, on, local: [0, 0, 0.128] }, project, project(wrist));
        expect(value).toBeCloseTo(goal[slot], 4);
      }),
    );
  });
});

describe('the limb behind another', () => {
  const twins = twinCarriers();
  const made = compiled(twins.mechanism);
  const draw = (q: Float64Array, kind: ViewKind, limb: string | null = null): string =>
    toSvg(drawRig({ rig: twins, mechanism: made, q, kind, width: 640, height: 600, limb }));
  const faintIn = (svg: string): number => svg.split('class="far"').length - 1;

  it('is faint where one stands behind, and no part is where both stand as far off, or one is shown alone', () => {
    let [some, none] = [0, 0];
    fc.assert(
      fc.property(fc.array(between(0, 1), { minLength: made.m, maxLength: made.m }), (f) => {
        const q = poseOf(made, f);
        for (const kind of ['side', 'front', 'plan'] as const) {
          for (const { id } of made.tools) expect(faintIn(draw(q, kind, id))).toBe(0);
          if (faintIn(draw(q, kind))) some++;
          else none++;
        }
      }),
      { numRuns: 30 },
    );
    expect(Math.min(some, none)).toBeGreaterThan(0);
    expect(faintIn(draw(made.home, 'side'))).toBeGreaterThan(2);
  });
  it('is none of an arm that has but one', () => {
    for (const own of demoRigs()
      .map(({ rig: own }) => own)
      .filter((r) => r.mechanism.family === 'tree' && r.mechanism.tools.length === 1)) {
      const mechanism = compiled(own.mechanism);
      const input = { rig: own, mechanism, q: mechanism.home, width: 640, height: 600 };
      for (const kind of ['side', 'front', 'plan'] as const)
        expect(faintIn(toSvg(drawRig({ ...input, kind })))).toBe(0);
    }
  });
});
