import { describe, expect, it } from 'vitest';
import { compile } from '../mechanism';
import { presets, rigFromPreset } from '../presets';
import type { Rig } from '../rig';
import { kilnLoader, tileDipper } from '../../../demo';
import { cautionsOf, fallingJoints } from './index';

const falls = (rig: Rig): string[] => {
  const made = compile(rig.mechanism, rig.builds[0].mounting);
  if (!made.ok) throw new Error(made.faults[0].message);
  return fallingJoints(rig, made.mechanism);
};
const said = (rig: Rig): string => {
  const made = compile(rig.mechanism, rig.builds[0].mounting);
  if (!made.ok) throw new Error(made.faults[0].message);
  return cautionsOf(rig, made.mechanism).join('\n');
};

describe('cautions before motors come on', () => {
  it('name joints that weight moves, and not those that stand upright or lie level', () => {
    const loader = falls(kilnLoader());
    expect(loader).toEqual(expect.arrayContaining(['shoulder', 'elbow', 'nod']));
    expect(loader).not.toContain('turn');
    expect(loader).not.toContain('rail');
    // On a wall the turntable falls as well, and a level slide stays one only if it still is.
    const wall = structuredClone(kilnLoader()) as Rig;
    wall.mechanism.base.mounting = { xyzMm: [0, 0, 400], rpyDeg: [0, 90, 0] };
    expect(falls(wall)).toContain('turn');
  });
  it('say what the rig at hand does: squeeze, hold, stand elsewhere', () => {
    const loader = said(kilnLoader());
    expect(loader).toMatch(/Rail squeezes/);
    expect(loader).toMatch(/“Suction cup” may let go/);
    expect(loader).toMatch(/Until it has homed/);
    const dipper = said(tileDipper());
    expect(dipper).not.toMatch(/squeeze what is|Until it has homed/);
  });
  it('say of every arm to keep clear, to mind eyes and children, and that software is no emergency stop', () => {
    for (const preset of presets) {
      const rig = rigFromPreset(preset, preset.id);
      if (!rig.ok) continue;
      const text = said(rig.value);
      for (const word of ['Keep clear', 'children', 'Eyes', 'no emergency stop', 'cuts the motor supply'])
        expect(text, preset.id).toContain(word);
    }
  });
});
