/** The catalogue of presets; a new one is one entry here. */
import { admit, type Admission } from '../admit';
import type { Parsed, Rig } from '../rig';
import { delta, fiveAxis, fourAxis, scara, sixOffset, sixSpherical, stacking, threeAxis } from './arms';
import { head, leg, neck, twinArms, walker } from './figures';
import { onColumn, onRail } from './moving';
import type { Measured, Preset } from './preset';
import { benchRig, lever, wheels } from './small';

export * from './preset';
export { servosFor, type ServoClass } from './parts';

export const presets: readonly Preset[] = [
  threeAxis,
  fourAxis,
  fiveAxis,
  stacking,
  sixSpherical,
  sixOffset,
  scara,
  delta,
  onRail,
  onColumn,
  neck,
  head,
  leg,
  walker,
  twinArms,
  benchRig,
  lever,
  wheels,
];

/** The preset of this id; throws for an id that is not in the catalogue. */
export function presetById(id: string): Preset {
  const found = presets.find((preset) => preset.id === id);
  if (!found) throw new Error(`no preset “${id}”`);
  return found;
}

/** Its measures as they usually are. */
export const usualMeasures = (preset: Preset): Record<string, number> =>
  Object.fromEntries(preset.measures.map(({ key, usual }) => [key, usual]));

/** The checked rig of a preset; measures left out are the usual ones. */
export function rigFromPreset(preset: Preset, name: string, measures: Measured = {}): Parsed<Rig> {
  const made = admitPreset(preset, name, measures);
  return made.ok ? { ok: true, value: made.rig } : { ok: false, faults: [...made.faults] };
}
/** The same with its arm. */
export const admitPreset = (preset: Preset, name: string, measures: Measured = {}): Admission =>
  admit(preset.build(name, { ...usualMeasures(preset), ...measures }));
