import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { kilnLoader, tileDipper } from '../../../demo';
import { letterOfMeasure, presets, usualMeasures, type Preset } from '@cork-elbow/core/presets';
import { compile, type Mechanism } from '@cork-elbow/core/mechanism';
import { forward } from '@cork-elbow/core/kinematics';
import type { Shape } from '@cork-elbow/core/drawing';
import { fromXyzRpy, rotate } from '@cork-elbow/core/linear';
import type { Fix } from '@cork-elbow/core/reach';
import type { Rig } from '@cork-elbow/core/rig';
import { guideDrawings, thumbnail } from '../new-arm/guide';
import { inComponent, opened } from '../opened.testkit';
import { axisWord, axisWords, mountings, mountingWord, OTHER_AXIS, shortAxis } from './measure/words';
import { useTip } from './measure/useTip';
import { areaText, fixWords, tightest, touchWords, volumeText } from './reach/words';
import { between } from '../../../core/src/units/between.testkit';

const compiled = (rig: Rig): Mechanism => {
  const result = compile(rig.mechanism);
  if (!result.ok) throw new Error(result.faults[0].message);
  return result.mechanism;
};

describe('words for changes', () => {
  it('say what comes out and by how much, with a sign and the right unit', () => {
    const cases: readonly (readonly [Fix, string])[] = [
      [
        { kind: 'link', of: 'joint', id: 'elbow', name: 'Shoulder to Elbow', by: 12, to: 152 },
        'Shoulder to Elbow to 152 mm, +12 mm',
      ],
      [
        { kind: 'link', of: 'tool', id: 'tongs', name: 'Wrist to Tongs', by: -3, to: 90.5 },
        'Wrist to Tongs to 90.5 mm, −3 mm',
      ],
      [
        { kind: 'limit', id: 'elbow', name: 'Elbow', side: 'max', by: 7, to: 131, unit: '°' },
        'Upper limit of Elbow to 131°, +7°',
      ],
      [
        { kind: 'limit', id: 'rail', name: 'Rail', side: 'min', by: 4, to: -4, unit: 'mm' },
        'Lower limit of Rail to −4 mm, −4 mm',
      ],
      [{ kind: 'delta', measure: 'forearmMm', by: 9, to: 229 }, 'Forearms to 229 mm, +9 mm'],
      [{ kind: 'tilt', by: 14, direction: [0, 0, -1] }, 'Tool tilted 14° from what was asked'],
      [{ kind: 'target', by: 20, along: [1, 0, 0] }, 'Target 20 mm forward'],
      [{ kind: 'target', by: 20, along: [-1, 0, 0] }, 'Target 20 mm back'],
      [{ kind: 'target', by: 20, along: [0, 1, 0] }, 'Target 20 mm to the left'],
      [{ kind: 'target', by: 20, along: [0, -1, 0] }, 'Target 20 mm to the right'],
      [{ kind: 'target', by: 20, along: [0, 0, 1] }, 'Target 20 mm up'],
      [{ kind: 'target', by: 20, along: [0, 0, -1] }, 'Target 20 mm down'],
      [{ kind: 'target', by: 20, along: [0.6, 0, 0.8] }, 'Target 20 mm towards the closest pose'],
      [{ kind: 'base', by: 15, along: [0, 0, 1], nearer: false }, 'Base 15 mm higher'],
      [{ kind: 'base', by: 15, along: [0, 0, -1], nearer: false }, 'Base 15 mm lower'],
      [{ kind: 'base', by: 15, along: [0.6, 0.8, 0], nearer: true }, 'Base 15 mm nearer'],
      [{ kind: 'base', by: 15, along: [0.6, 0.8, 0], nearer: false }, 'Base 15 mm further away'],
    ];
    for (const [fix, words] of cases) expect(fixWords(fix)).toBe(words);
  });
  it('say how large something is in the unit that reads well', () => {
    expect([areaText(0.03), areaText(0.49), areaText(0.5), areaText(2)]).toEqual([
      '300 cm²',
      '4900 cm²',
      '0.5 m²',
      '2 m²',
    ]);
    expect([volumeText(0.0125), volumeText(0.1)]).toEqual(['12.5 litres', '0.1 m³']);
    expect(touchWords({ first: 'Upper arm', second: 'Jar', depth: 0.0123 } as never)).toBe(
      'Upper arm 12 mm deep in Jar',
    );
  });
  it('find the joint that is nearest to a limit, in its own unit, at any pose', () => {
    for (const rig of [tileDipper(), kilnLoader()]) {
      const mechanism = compiled(rig);
      const slots = [...mechanism.lower.keys()];
      fc.assert(
        fc.property(fc.array(between(0, 1), { minLength: 7, maxLength: 7 }), (f) => {
          const q = Float64Array.from(
            slots,
            (s) => mechanism.lower[s] + f[s] * (mechanism.upper[s] - mechanism.lower[s]),
          );
          const margins = slots.map(
            (s) => Math.min(q[s] - mechanism.lower[s], mechanism.upper[s] - q[s]) / mechanism.siPerUnit[s],
          );
          const found = tightest(mechanism, slots, q);
          expect(found.by).toBe(Math.min(...margins));
          expect(margins[found.slot]).toBe(found.by);
          expect(found.text.endsWith(mechanism.units[mechanism.jointOfSlot[found.slot]] === 'mm' ? ' mm' : '°')).toBe(
            true,
          );
        }),
      );
      expect(tightest(mechanism, [], mechanism.home).text).toBe('no limit');
    }
  });
});

describe('words for axes and mountings', () => {
  it('name the six ways an axis can lie, however long it is, and no other', () => {
    for (const { value, axis } of axisWords)
      for (const length of [0.01, 1, 250]) expect(axisWord(axis.map((v) => v * length))).toBe(value);
    expect(axisWord([1, 1, 0])).toBe(OTHER_AXIS);
    expect(shortAxis('revolute', [0, 0, 2])).toBe('turn');
    expect(shortAxis('revolute', [0, -1, 0])).toBe('−pitch');
    expect(shortAxis('prismatic', [-1, 0, 0])).toBe('−slide fwd');
    expect(shortAxis('prismatic', [1, 1, 0])).toBe('slide, askew');
    expect(shortAxis('revolute', [1, 1, 0])).toBe('askew');
  });
  it('say where up points for each way of fixing a base', () => {
    const up = (rpyDeg: readonly number[]): number[] =>
      rotate(
        fromXyzRpy([0, 0, 0], rpyDeg.map((v) => (v * Math.PI) / 180) as [number, number, number]),
        [0, 0, 1],
      ).map((v) => Math.round(v) || 0);
    expect(mountings.map((m) => [m.value, up(m.rpyDeg)])).toEqual([
      ['floor', [0, 0, 1]],
      ['wall', [1, 0, 0]],
      ['ceiling', [0, 0, -1]],
    ]);
    // A yaw does not change what it hangs on.
    for (const m of mountings) expect(mountingWord([m.rpyDeg[0], m.rpyDeg[1], 77])).toBe(m.value);
    expect(mountingWord([3, 0, 0])).toBe('tilted');
  });
});

describe('the tip', () => {
  it('is where forward kinematics has the first mounted tool, in mm', async () => {
    const { view, mechanism } = await opened(tileDipper());
    const { made: tip, leave } = inComponent(useTip);
    const expected = (): number[] => {
      const frame = forward(mechanism, view.q).tools.get('tongs')!;
      return [9, 10, 11].map((k) => Math.round(frame[k] * 1e6) / 1e3);
    };
    expect(tip.value).toEqual(expected());
    const q = mechanism.home.slice();
    q[1] += 0.3;
    view.setEdit(q);
    expect(tip.value).toEqual(expected());
    leave();
  });
});

describe('a preset with its letters', () => {
  const drawn = (preset: Preset): Set<string> => {
    const made = guideDrawings(preset, usualMeasures(preset), () => ({ width: 500, height: 400 }));
    if (!made.ok) throw new Error(made.message);
    const letters = new Set<string>();
    const look = (shapes: readonly Shape[]): void =>
      shapes.forEach((s) => {
        if (s.cls === 'letter') letters.add(s.text!);
        look(s.children ?? []);
      });
    made.drawings.forEach((d) => look(d.shapes));
    return letters;
  };
  it('is drawn for every preset: letters of its own measures, none of another', () => {
    for (const preset of presets) {
      const own = preset.measures.map((_, k) => letterOfMeasure(k));
      const letters = drawn(preset);
      expect([preset.id, letters.size > 0]).toEqual([preset.id, true]);
      for (const letter of letters) expect([preset.id, own]).toEqual([preset.id, expect.arrayContaining([letter])]);
      expect(thumbnail(preset)!.shapes.length).toBeGreaterThan(3);
    }
  });
  it('says in a sentence why measures make no arm', () => {
    const delta = presets.find((p) => p.id.includes('delta'))!;
    const wrong = Object.fromEntries(Object.keys(usualMeasures(delta)).map((key) => [key, -5]));
    const made = guideDrawings(delta, { ...usualMeasures(delta), ...wrong }, () => ({ width: 300, height: 200 }));
    expect(made.ok ? 'drawn' : made.message).toMatch(/\.$/);
  });
});
