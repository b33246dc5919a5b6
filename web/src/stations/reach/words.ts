/** Words and figures that the parts of the Reach station share. */
import { formatNumber, toMm } from '@cork-elbow/core/units';
import type { Mechanism } from '@cork-elbow/core/mechanism';
import type { DeltaMeasure, Fix, Touch } from '@cork-elbow/core/reach';

/** The joint that comes nearest to a limit at a pose, and by how much in its own unit. */
export function tightest(
  mechanism: Mechanism,
  slots: Iterable<number>,
  q: Float64Array,
): { slot: number; by: number; text: string } {
  let best = { slot: -1, by: Infinity };
  for (const slot of slots) {
    const by = Math.min(q[slot] - mechanism.lower[slot], mechanism.upper[slot] - q[slot]) / mechanism.siPerUnit[slot];
    if (by < best.by) best = { slot, by };
  }
  const unit = best.slot < 0 ? '' : mechanism.units[mechanism.jointOfSlot[best.slot]];
  const text = Number.isFinite(best.by)
    ? `${formatNumber(best.by, best.by < 10 ? 1 : 0)}${unit === 'mm' ? ' mm' : unit}`
    : 'no limit';
  return { ...best, text };
}

/** Margin (in the joint's unit) below which a pose counts as tight: 8° or 8 mm. */
export const TIGHT = 8;

const signed = (by: number): string => `${by > 0 ? '+' : '−'}${formatNumber(Math.abs(by), 1)} mm`;
export const measureNames: Readonly<Record<DeltaMeasure, string>> = {
  upperArmMm: 'Upper arms',
  forearmMm: 'Forearms',
  baseRadiusMm: 'Base radius',
  platformRadiusMm: 'Platform radius',
};

/** One of the world's axes as a way to go. */
function wayWord([x, y, z]: readonly number[]): string {
  if ([x, y, z].filter((v) => Math.abs(v) > 1e-6).length > 1) return 'towards the closest pose';
  if (x) return x > 0 ? 'forward' : 'back';
  if (y) return y > 0 ? 'to the left' : 'to the right';
  return z > 0 ? 'up' : 'down';
}

/** What a change is, in a few words: "Shoulder to Elbow to 132 mm, +12 mm", "Upper limit of Elbow to 131°, +7°". */
export function fixWords(fix: Fix): string {
  switch (fix.kind) {
    case 'link':
      return `${fix.name} to ${formatNumber(fix.to, 1)} mm, ${signed(fix.by)}`;
    case 'limit': {
      const unit = fix.unit === 'mm' ? ' mm' : '°';
      const [side, sign] = fix.side === 'max' ? ['Upper', '+'] : ['Lower', '−'];
      return `${side} limit of ${fix.name} to ${formatNumber(fix.to, 1)}${unit}, ${sign}${formatNumber(fix.by, 1)}${unit}`;
    }
    case 'delta':
      return `${measureNames[fix.measure]} to ${formatNumber(fix.to, 1)} mm, ${signed(fix.by)}`;
    case 'target':
      return `Target ${formatNumber(fix.by, 1)} mm ${wayWord(fix.along)}`;
    case 'tilt':
      return `Tool tilted ${formatNumber(fix.by, 1)}° from what was asked`;
    default:
      if (fix.along[2]) return `Base ${formatNumber(fix.by, 1)} mm ${fix.along[2] > 0 ? 'higher' : 'lower'}`;
      return `Base ${formatNumber(fix.by, 1)} mm ${fix.nearer ? 'nearer' : 'further away'}`;
  }
}

/** What an arm touches at a pose. */
export const touchWords = ({ first, second, depth }: Touch): string =>
  `${first} ${formatNumber(toMm(depth), 0)} mm deep in ${second}`;

/** A number of m² or m³ with the unit that reads well. */
export const areaText = (m2: number): string =>
  m2 < 0.5 ? `${formatNumber(m2 * 1e4, 0)} cm²` : `${formatNumber(m2, 3)} m²`;
export const volumeText = (m3: number): string =>
  m3 < 0.1 ? `${formatNumber(m3 * 1e3, 1)} litres` : `${formatNumber(m3, 3)} m³`;
