/** Fitting a horn: which tooth of the spline centres the joint's range in the servo's travel, what is left over, and the trim. */
import { exactNative, nativeOf } from './native';
import type { Build, ServoDrive } from '../rig';

export interface HornQuestion {
  readonly teeth: number;
  readonly centreUs: number;
  /** Signed: pulse per degree of the shaft, as calibrated or nominal. */
  readonly usPerDeg: number;
  readonly minUs: number;
  readonly maxUs: number;
  /** The joint's range on the shaft's side of the transmission (°). */
  readonly lowDeg: number;
  readonly highDeg: number;
  /** Where the shaft's side of the joint stands (°) when the servo is sent its centre pulse, the horn as it is on now. */
  readonly atCentreDeg: number;
}

export interface HornFit {
  /** Angle of one tooth (°). */
  readonly stepDeg: number;
  /** Teeth to move the horn by; positive: the joint comes to stand at a larger angle for the same pulse. */
  readonly teeth: number;
  /** Where the joint's side then stands at the centre pulse (°), and how far that is from the range's middle. */
  readonly atCentreDeg: number;
  readonly leftDeg: number;
  /** The same as a pulse: from the centre to the middle of the range. */
  readonly leftUs: number;
  /** Pulses at both ends of the range after trimming. */
  readonly lowUs: number;
  readonly highUs: number;
  /** Degrees of the range lost at either end, because the pulse would leave the servo's own range; 0 where it fits. */
  readonly lostLowDeg: number;
  readonly lostHighDeg: number;
}

export function fitHorn(question: HornQuestion): HornFit {
  const { teeth, centreUs, usPerDeg, minUs, maxUs, lowDeg, highDeg, atCentreDeg } = question;
  const stepDeg = 360 / teeth;
  const middle = (lowDeg + highDeg) / 2;
  const shift = Math.round((middle - atCentreDeg) / stepDeg);
  const at = atCentreDeg + shift * stepDeg;
  const leftDeg = at - middle;
  // Sent the centre pulse the joint stands at `at`; the pulse that brings it to the middle is this far away.
  const leftUs = -leftDeg * usPerDeg;
  const pulse = (deg: number): number => centreUs + usPerDeg * (deg - at);
  const lost = (deg: number): number => {
    const us = pulse(deg);
    return Math.max(0, minUs - us, us - maxUs) / Math.abs(usPerDeg);
  };
  return {
    stepDeg,
    teeth: shift,
    atCentreDeg: at,
    leftDeg,
    leftUs,
    lowUs: pulse(lowDeg),
    highUs: pulse(highDeg),
    lostLowDeg: lost(lowDeg),
    lostHighDeg: lost(highDeg),
  };
}

/**
 * The trim (µs) with which the build's own map, measured or nominal, says that the shaft stands at `standsDeg` (°) when the
 * servo is sent its centre pulse: whatever the map said before, and whatever trim it had.
 */
export function hornTrim(drive: ServoDrive, build: Build, standsDeg: number): number {
  const untrimmed = nativeOf(drive, { ...build, trims: { ...build.trims, [drive.id]: 0 } })!;
  return drive.centreUs - exactNative(untrimmed, standsDeg);
}
