import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { drawRig, guideLetters, guidePose, guideViews, toPage } from '../drawing';
import { forward, solveInverse, taskError } from '../kinematics';
import { poseOf } from '../kinematics/arms.testkit';
import { positionOf } from '../linear';
import { compile, limitExcess, rulesExcess, type Mechanism } from '../mechanism';
import { letterOfMeasure, presets, rigFromPreset, usualMeasures } from './index';
import { between } from '../units/between.testkit';

const shares = fc.array(between(0, 1), { minLength: 7, maxLength: 7 });
function mechanismOf(id: string, measures = {}): Mechanism {
  const made = rigFromPreset(
    presets.find((p) => p.id === id)!,
    'Try',
    measures,
  );
  if (!made.ok) throw new Error(`${id}: ${made.faults[0].message}`);
  const result = compile(made.value.mechanism);
  if (!result.ok) throw new Error(`${id}: ${result.faults[0].message}`);
  return result.mechanism;
}

describe.each(presets.map((preset) => [preset.id, preset] as const))('the preset %s', (id, preset) => {
  it('is a rig whose home keeps every limit', () => {
    const mechanism = mechanismOf(id);
    expect(limitExcess(mechanism, mechanism.home).by).toBe(0);
    expect(rulesExcess(mechanism, mechanism.home)).toBe(0);
  });
  it('takes any measures a ruler may give, and names each once', () => {
    expect(new Set(preset.measures.map((m) => m.key)).size).toBe(preset.measures.length);
    fc.assert(
      fc.property(fc.array(between(0.6, 1.6), { minLength: 12, maxLength: 12 }), (factors) => {
        const measures = Object.fromEntries(
          preset.measures.map(({ key, usual, min, max }, i) => [
            key,
            Math.min(max, Math.max(min, Math.round(usual * factors[i]))),
          ]),
        );
        // A delta whose rods cannot meet is refused; everything else compiles.
        if (id !== 'rotary-delta') mechanismOf(id, measures);
        else {
          const made = rigFromPreset(preset, 'Try', measures);
          expect(made.ok ? [] : made.faults.map((f) => f.code)).toEqual(made.ok ? [] : ['delta-open']);
        }
      }),
      { numRuns: 20 },
    );
  });
  it('is solved: every tool comes back to where a pose had it', () => {
    const mechanism = mechanismOf(id);
    let tried = 0;
    fc.assert(
      fc.property(shares, (f) => {
        const q = poseOf(mechanism, f, 0.1);
        const { tools, gap } = forward(mechanism, q);
        fc.pre(gap === 0 && rulesExcess(mechanism, q) === 0);
        for (const tool of mechanism.tools) {
          if (!tool.slots.length) continue;
          tried++;
          const task = { kind: 'free' as const, position: positionOf(tools.get(tool.id)!) };
          const result = solveInverse(mechanism, tool, task, q);
          expect(result.reachable).toBe(true);
          const again = forward(mechanism, result.solutions[0].q).tools.get(tool.id)!;
          expect(taskError(task, again).distance).toBeLessThan(1e-6);
        }
      }),
      { numRuns: 12 },
    );
    expect(tried > 0 || id === 'wheels').toBe(true);
  });
  it('draws every measure between points that are that far apart in its view', () => {
    const measures = usualMeasures(preset);
    const mechanism = mechanismOf(id);
    const made = rigFromPreset(preset, 'Try');
    if (!made.ok) throw new Error();
    const seen = guideViews(preset).flatMap((view) => {
      const drawing = drawRig({
        rig: made.value,
        mechanism,
        q: guidePose(preset, mechanism),
        kind: view,
        width: 500,
        height: 400,
      });
      return guideLetters(preset, made.value, mechanism, view).map(({ letter, from, to, along }) => {
        const [a, b] = [toPage(drawing.view, from), toPage(drawing.view, to)];
        const [dx, dy] = [(b[0] - a[0]) / drawing.view.scale, (b[1] - a[1]) / drawing.view.scale].map(
          (d) => Math.abs(d) * 1000,
        );
        return [letter, along === 'upright' ? dy : along === 'level' ? dx : Math.hypot(dx, dy)] as const;
      });
    });
    expect(seen).toHaveLength(preset.measures.length);
    for (const [letter, shown] of seen) {
      const { key } = preset.measures[[...'abcdefghijklmn'].indexOf(letter)];
      expect(`${key} ${shown.toFixed(2)}`).toBe(`${key} ${measures[key].toFixed(2)}`);
    }
  });
});

it('letters of measures are told apart', () => {
  const letters = Array.from({ length: 12 }, (_, n) => letterOfMeasure(n));
  expect(new Set(letters).size).toBe(12);
});
