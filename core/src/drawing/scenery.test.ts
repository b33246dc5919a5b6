import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { demoRigs, tileDipper } from '../../../demo';
import { finish } from '../jobs';
import { compiled, poseOf } from '../kinematics/arms.testkit';
import { presets, rigFromPreset } from '../presets';
import { reachMapJob, type ReachMap } from '../reach';
import { between } from '../units/between.testkit';
import { drawRig, sceneryOf, toPage, type DrawingInput, type Scenery, type ViewKind } from './index';

const rigs = [
  ...demoRigs().map(({ rig }) => rig),
  ...presets.map((preset) => {
    const made = rigFromPreset(preset, preset.id);
    if (!made.ok) throw new Error(preset.id);
    return made.value;
  }),
];
const arms = rigs.map((rig) => ({ rig, mechanism: compiled(rig.mechanism) }));

const dipper = compiled(tileDipper().mechanism);
const request = { height: 0.1, direction: null, samples: 1500, seed: 3, cell: 0.02 };
const maps: (ReachMap | null)[] = [
  null,
  finish(reachMapJob(dipper, dipper.tools[0], { ...request, plane: 'side' })),
  finish(reachMapJob(dipper, dipper.tools[0], { ...request, plane: 'plan' })),
];

/** What is kept with the view, as a plan has it. */
const ways = { trace: Float64Array.of(0.1, 0, 0.1, 0.2, 0.1, 0.3, 0.1, 0.2, 0), beats: Float64Array.of(0.1, 0, 0.1) };

/** Everything that may change between two pictures, one thing after the other. */
const change = fc.oneof(
  fc.record({ pose: fc.array(between(0, 1), { minLength: 12, maxLength: 12 }) }),
  fc.record({ slot: fc.nat(11), by: between(0, 1) }),
  fc.record({ kind: fc.constantFrom<ViewKind>('side', 'front', 'plan') }),
  fc.record({ width: fc.integer({ min: 1, max: 900 }) }),
  fc.record({ height: fc.integer({ min: 1, max: 900 }) }),
  fc.record({ bare: fc.boolean() }),
  fc.record({ whole: fc.boolean() }),
  fc.record({ spots: fc.boolean() }),
  fc.record({ fit: fc.constantFrom<'reach' | 'work' | 'pose'>('reach', 'work', 'pose') }),
  fc.record({ worked: between(0, 1) }),
  fc.record({ also: fc.array(fc.tuple(between(-2, 2), between(-2, 2), between(-1, 2)), { maxLength: 2 }) }),
  fc.record({ limb: fc.nat(3) }),
  fc.record({ obstacles: fc.nat(3) }),
  fc.record({ moved: fc.integer({ min: -200, max: 200 }) }),
  fc.record({ map: fc.nat(2) }),
  fc.record({ arm: fc.nat(arms.length - 1) }),
);

describe('the scenery of a drawing', () => {
  it('that was kept gives the very drawing that a new one gives, whatever changes in between', () => {
    let [kept, made] = [0, 0];
    fc.assert(
      fc.property(fc.nat(arms.length - 1), fc.array(change, { minLength: 1, maxLength: 8 }), (first, changes) => {
        const begun = (at: number): DrawingInput => {
          const { rig, mechanism } = arms[at];
          return { rig, mechanism, q: mechanism.home, kind: 'side', width: 600, height: 500, layers: ways };
        };
        let input = begun(first);
        let before: Scenery | null = null;
        for (const next of changes) {
          const { rig, mechanism } = input;
          if ('arm' in next) input = begun(next.arm);
          else if ('worked' in next)
            input = {
              ...input,
              fit: 'work',
              poses: [poseOf(mechanism, Array<number>(mechanism.m).fill(next.worked))],
            };
          else if ('map' in next) {
            const map = maps[next.map];
            input = {
              ...input,
              layers: { ...ways, ...(map ? { map: { map, field: 'postures', before: null } } : {}) },
            };
          } else if ('pose' in next) input = { ...input, q: poseOf(mechanism, next.pose.slice(0, mechanism.m)) };
          else if ('slot' in next) {
            const one = poseOf(mechanism, Array<number>(mechanism.m).fill(next.by));
            const q = input.q.slice();
            const slot = next.slot % mechanism.m;
            q[slot] = one[slot];
            input = { ...input, q };
          } else if ('limb' in next) input = { ...input, limb: mechanism.tools[next.limb]?.id ?? null };
          else if ('obstacles' in next)
            input = { ...input, rig: { ...rig, obstacles: rig.obstacles.slice(next.obstacles) } };
          else if ('moved' in next)
            input = {
              ...input,
              rig: { ...rig, spots: rig.spots.map((s) => ({ ...s, xyzMm: [next.moved, s.xyzMm[1], s.xyzMm[2]] })) },
            };
          else input = { ...input, ...next };
          const scenery = sceneryOf(input, before);
          if (scenery === before) kept++;
          else made++;
          // Nothing that was kept of a way either: the new drawing has copies of its own.
          const anew = { ...input, layers: { ...input.layers, ...structuredClone(ways) } };
          expect(drawRig(input, scenery)).toEqual(drawRig(anew));
          before = scenery;
        }
      }),
    );
    // Both sides are tried.
    expect(Math.min(kept, made)).toBeGreaterThan(30);
  });
  it('stands still, shape by shape, while the arm moves: from above and in front whatever moves, from the side all but its base', () => {
    for (const { rig, mechanism } of arms)
      for (const kind of ['side', 'front', 'plan'] as const) {
        const input: DrawingInput = { rig, mechanism, q: mechanism.home, kind, width: 600, height: 500 };
        const before = sceneryOf(input);
        const turned = input.q.slice();
        const last = mechanism.m - 1;
        turned[last] += 0.05;
        expect(sceneryOf({ ...input, q: turned }, before)).toBe(before);
        turned.forEach((_, s) => (turned[s] += 0.01));
        if (kind !== 'side') expect(sceneryOf({ ...input, q: turned }, before)).toBe(before);
      }
  });
  it('follows each choice that changes it, over a map as well', () => {
    const rig = tileDipper();
    const input: DrawingInput = {
      ...{ rig, mechanism: dipper, q: dipper.home, kind: 'side', width: 600, height: 500 },
      layers: { map: { map: maps[1]!, field: 'postures', before: null } },
    };
    const before = sceneryOf(input);
    const choices: Partial<DrawingInput>[] = [{ bare: true }, { spots: false }, { whole: true }, { layers: {} }];
    for (const choice of choices) {
      const next = { ...input, ...choice };
      expect({ ...sceneryOf(next), of: [] }).not.toEqual({ ...before, of: [] });
      expect(sceneryOf(next, before)).toEqual(sceneryOf(next));
    }
  });

  it('brings a point into the picture that is asked for, and leaves the arm half of its size however far off it is', () => {
    let [near, far] = [0, 0];
    fc.assert(
      fc.property(
        fc.constantFrom(...arms),
        fc.constantFrom<ViewKind>('side', 'front', 'plan'),
        fc.tuple(between(-4, 4), between(-4, 4), between(0, 4)),
        between(0.05, 1),
        ({ rig, mechanism }, kind, at, share) => {
          const p = at.map((v) => v * share) as [number, number, number];
          const input: DrawingInput = { rig, mechanism, q: mechanism.home, kind, width: 700, height: 500 };
          const [before, after] = [sceneryOf(input).view, sceneryOf({ ...input, also: [p] }).view];
          expect(after.scale).toBeGreaterThan(0.49 * before.scale);
          expect(after.scale).toBeLessThan(before.scale * (1 + 1e-9));
          const [x, y] = toPage(before, p);
          const isNear = x > -200 && x < 900 && y > -150 && y < 500;
          if (!isNear) return void far++;
          near++;
          const [u, v] = toPage(after, p);
          expect([u >= 0 && u <= 700, v >= 0 && v <= 500]).toEqual([true, true]);
        },
      ),
    );
    expect(Math.min(near, far)).toBeGreaterThan(10);
  });
});
