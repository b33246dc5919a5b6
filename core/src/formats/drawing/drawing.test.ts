import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { tileDipper } from '../../../../demo';
import { forward, solveInverse } from '../../kinematics';
import { compiled, poseOf, treeDoc } from '../../kinematics/arms.testkit';
import { compile } from '../../mechanism';
import { positionOf, vec3 } from '../../linear';
import { drawRig, hull, reachRegion, toPage, toSvg, toWorld, type Pt, type Shape } from './index';

const rig = tileDipper();
const mechanism = compiled(rig.mechanism);
const shares = fc.array(fc.double({ min: 0, max: 1, noNaN: true }), { minLength: 5, maxLength: 5 });
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
            target: [0.1, 0, 0.1],
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
