/** A servo's map on a build: through its measured points (see calibration) or, while there are none, by its nominal figures; the trim is added to every pulse. */
import { fitCalibration, fitLine, type Line, type Node } from './calibration';
import {
  entryOf,
  type Build,
  type Calibration,
  type Rig,
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

export const transmissionOf = (rig: Rig, jointId: string): Transmission | undefined =>
  rig.transmissions.find((transmission) => transmission.joints.some((id) => id === jointId));
export const wireOf = (rig: Rig, driveId: string): Wire | undefined =>
  rig.wiring.find((wire) => wire.drive === driveId);
