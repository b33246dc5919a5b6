/** How far a joint is confirmed to go. */
import type { Build } from '../rig';

type Range = Build['confirmed'][string];

/**
 * What is confirmed of a joint (° or mm) once it was moved from `begin` towards one end and found free at `at`: of the other end what was
 * known before, or as far as it was tried now. `touches`: beyond that something is in its way, whatever was known; else nothing that was
 * confirmed before is lost. Three decimals.
 */
export function confirmedWith(
  known: Range | undefined,
  end: 'min' | 'max',
  at: number,
  begin: number,
  touches: boolean,
): Range {
  const round = (v: number): number => Math.round(v * 1000) / 1000;
  if (end === 'max') {
    const max = known && !touches ? Math.max(known.max, at) : at;
    return { min: round(Math.min(known?.min ?? begin, max)), max: round(max) };
  }
  const min = known && !touches ? Math.min(known.min, at) : at;
  return { min: round(min), max: round(Math.max(known?.max ?? begin, min)) };
}
