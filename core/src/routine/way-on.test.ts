import { describe, expect, it } from 'vitest';
import { tileDipper } from '../../../demo';
import { compiled } from '../kinematics/arms.testkit';
import { presets, rigFromPreset } from '../presets';
import type { Rig } from '../rig';
import { checkRig, readinessOf, wayOn } from './index';

const doneOf = (rig: Rig, runs = 0): Record<string, boolean> => {
  const mechanism = compiled(rig.mechanism);
  return Object.fromEntries(
    wayOn(rig, mechanism, checkRig(rig, mechanism, rig.builds[0]), runs).map(({ id, isDone }) => [id, isDone]),
  );
};

describe('the way on', () => {
  it('of an arm just made has its measures, and what its kind brings along; nothing that is measured, taken or run', () => {
    for (const preset of presets) {
      const made = rigFromPreset(preset, preset.name);
      if (!made.ok) continue;
      const rig = { ...made.value, poses: [], routines: [] };
      const open = { poses: false, routine: false, rehearsal: false };
      const measured = rig.drives.some(({ kind }) => kind === 'servo') ? { calibration: false } : {};
      expect([preset.id, doneOf(rig)]).toMatchObject([preset.id, { measures: true, ...open, ...measured }]);
    }
  });
  it('ticks just what was done, and opens it again when that is taken away', () => {
    const rig = tileDipper();
    expect(Object.values(doneOf(rig, 1)).every(Boolean)).toBe(true);
    const [build] = rig.builds;
    const without: [string, Rig][] = [
      ['motors', { ...rig, transmissions: rig.transmissions.slice(1) }],
      ['wires', { ...rig, wiring: rig.wiring.slice(1) }],
      ['calibration', { ...rig, builds: [{ ...build, calibrations: [] }] }],
      ['poses', { ...rig, poses: [] }],
      ['routine', { ...rig, routines: rig.routines.map((r) => ({ ...r, steps: [] })) }],
    ];
    // Steps that are all skipped make no routine.
    const skipped = rig.routines.map((r) => ({ ...r, steps: r.steps.map((step) => ({ ...step, enabled: false })) }));
    without.push(['routine', { ...rig, routines: skipped }]);
    for (const [id, less] of without) expect([id, doneOf(less, 1)[id]]).toEqual([id, false]);
    expect(doneOf(rig, 0)).toMatchObject({ routine: true, rehearsal: false });
  });
  it('is not all gone while something is missing for a real board that belongs to it', () => {
    const rig = { ...tileDipper(), wiring: [] };
    const findings = checkRig(rig, compiled(rig.mechanism), rig.builds[0]);
    expect(readinessOf(findings).state).toBe('stopped');
    expect(Object.values(doneOf(rig, 1)).every(Boolean)).toBe(false);
  });
});
