/** A servo's map on a build: through its measured points (see calibration) or, while there are none, by its nominal figures; the trim is added to every pulse. */
import { fitCalibration, fitLine, type Line, type Node } from './calibration';
import {
  entryOf,
  type Build,
  type Calibration,
  type Hardware,
  type ServoDrive,
  type Transmission,
  type Wire,
} from '../rig';

/** The line of a drive on a build, trim included. */
export function servoLine(drive: ServoDrive, build: Build): Line {
  const calibration = calibrationOf(build, drive.id);
  const line = calibration
    ? fitLine(calibration)
    : { atZeroUs: drive.centreUs, usPerDeg: drive.direction * drive.usPerDeg };
  return { ...line, atZeroUs: line.atZeroUs + trimOf(build, drive.id) };
}

export const calibrationOf = (build: Build, driveId: string): Calibration | undefined =>
  build.calibrations.find((calibration) => calibration.drive === driveId);
export const trimOf = (build: Build, driveId: string): number => entryOf(build.trims, driveId) ?? 0;

/** The corners of a drive's many-piece map on a build, trim included; null where its map is a straight line. */
export function servoNodes(drive: ServoDrive, build: Build): readonly Node[] | null {
  const calibration = calibrationOf(build, drive.id);
  const nodes = calibration ? fitCalibration(calibration).nodes : null;
  const trim = trimOf(build, drive.id);
  return nodes && nodes.map(({ at, us }) => ({ at, us: us + trim }));
}

export const transmissionOf = (rig: Hardware, jointId: string): Transmission | undefined =>
  rig.transmissions.find((transmission) => transmission.joints.some((id) => id === jointId));
export const wireOf = (rig: Hardware, driveId: string): Wire | undefined =>
  rig.wiring.find((wire) => wire.drive === driveId);

/** How far (° of the shaft) a reading may be from where the nominal figures put it beside the other readings, and at all. */
const FAR = { besideOthers: 15, atAll: 45 };

/**
 * Readings that are far off the nominal line, and by how much (°): a slip of the pen, or a horn some teeth on. The line may be
 * shifted as a whole, as a horn is: each is held against the middle of the others.
 */
export function farPoints(
  drive: ServoDrive,
  points: readonly { readonly at: number; readonly us: number }[],
): { readonly index: number; readonly byDeg: number }[] {
  const slope = drive.direction * drive.usPerDeg;
  const offs = points.map(({ at, us }) => at - (us - drive.centreUs) / slope);
  const middle = (list: readonly number[]): number => {
    const sorted = [...list].sort((a, b) => a - b);
    return (sorted[(sorted.length - 1) >> 1] + sorted[sorted.length >> 1]) / 2;
  };
  const far = offs.flatMap((off, index) => {
    const others = offs.filter((_, k) => k !== index);
    const beside = others.length ? off - middle(others) : 0;
    const byDeg = Math.abs(beside) > FAR.besideOthers ? beside : Math.abs(off) > FAR.atAll ? off : 0;
    return byDeg === 0 ? [] : [{ index, byDeg }];
  });
  // Of two readings that do not agree the one further from the nominal line is meant.
  if (points.length !== 2 || far.length < 2) return far;
  return [far.reduce((a, b) => (Math.abs(offs[b.index]) > Math.abs(offs[a.index]) ? b : a))];
}
