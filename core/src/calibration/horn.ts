/** Fitting a horn: which tooth of the spline centres the joint's range in the servo's travel, what is left over, and the trim. */
import { exactNative, fromNative, nativeOf, rangeFor, type Native } from '../actuators/native';
import type { Build, ServoDrive } from '../rig';

export interface HornQuestion {
  readonly teeth: number;
  readonly centreUs: number;
  /** The servo's map on its build, measured or nominal, with its own range of pulses; where it is shifted to does not count. */
  readonly native: Native;
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
  /** Whole pulses that are then sent, from the shortest to the longest: what motor and joint both allow. */
  readonly sent: { readonly low: number; readonly high: number };
  /** Degrees of the range lost at either end, because the pulse would leave the servo's own range; 0 where it fits. */
  readonly lostLowDeg: number;
  readonly lostHighDeg: number;
}

export function fitHorn(question: HornQuestion): HornFit {
  const { teeth, centreUs, native, lowDeg, highDeg, atCentreDeg } = question;
  const stepDeg = 360 / teeth;
  const middle = (lowDeg + highDeg) / 2;
  const shift = Math.round((middle - atCentreDeg) / stepDeg);
  const at = atCentreDeg + shift * stepDeg;
  // The trim that makes the map say `at` at the centre pulse.
  const trimUs = centreUs - exactNative(native, at);
  const pulse = (deg: number): number => exactNative(native, deg) + trimUs;
  const lost = (deg: number): number => {
    const us = pulse(deg);
    const kept = Math.min(native.high, Math.max(native.low, us));
    return kept === us ? 0 : Math.abs(deg - fromNative(native, kept - trimUs));
  };
  return {
    stepDeg,
    teeth: shift,
    atCentreDeg: at,
    leftDeg: at - middle,
    leftUs: pulse(middle) - centreUs,
    lowUs: pulse(lowDeg),
    highUs: pulse(highDeg),
    sent: rangeFor(native, [pulse(lowDeg), pulse(highDeg)]),
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
