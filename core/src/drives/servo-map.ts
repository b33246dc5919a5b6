/**
 * From joint values to native commands of a build's servos. A servo's map goes through its measured points (see
 * calibration) or, while there are none, follows its nominal figures; the trim is added to every pulse. drive angle (°) = reduction × joint value (° or mm).
 */
import type { Mechanism } from '../mechanism';
import { fitCalibration, fitLine, nodesAt, nodesUs, type Line, type Node } from './calibration';
import type { Build, Calibration, Rig, ServoDrive, Transmission, TransmissionOf, Wire } from '../rig';

export interface ServoMap {
  readonly driveId: string;
  readonly driveName: string;
  readonly jointId: string;
  readonly slot: number;
  /** Null while the motor is on no channel. */
  readonly board: string | null;
  readonly channel: number | null;
  /** µs = offsetUs + usPerSi · q (rad or m). */
  readonly offsetUs: number;
  readonly usPerSi: number;
  /** Corners of a many-piece map over the shaft's angle, which then stands for the line; and ° of the shaft per rad or m. */
  readonly nodes: readonly Node[] | null;
  readonly degPerSi: number;
  /** Whole pulses the motor may get: its own limits and the joint's, rounded inward. */
  readonly lowUs: number;
  readonly highUs: number;
  readonly drive: ServoDrive;
  /** The motor's no-load speed at the joint, SI per s. */
  readonly speed: number;
  readonly calibrated: boolean;
}

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
export const trimOf = (build: Build, driveId: string): number =>
  Object.hasOwn(build.trims, driveId) ? build.trims[driveId] : 0;

/** The corners of a drive's many-piece map on a build, trim included; null where its map is a straight line. */
export function servoNodes(drive: ServoDrive, build: Build): readonly Node[] | null {
  const calibration = calibrationOf(build, drive.id);
  const nodes = calibration ? fitCalibration(calibration).nodes : null;
  const trim = trimOf(build, drive.id);
  return nodes && nodes.map(({ at, us }) => ({ at, us: us + trim }));
}

export const transmissionOf = (rig: Rig, jointId: string): Transmission | undefined =>
  rig.transmissions.find((transmission) => transmission.joints.some((id) => id === jointId));
const ratioOf = (rig: Rig, jointId: string): TransmissionOf<'ratio'> | undefined => {
  const transmission = transmissionOf(rig, jointId);
  return transmission?.kind === 'ratio' ? transmission : undefined;
};
export const wireOf = (rig: Rig, driveId: string): Wire | undefined =>
  rig.wiring.find((wire) => wire.drive === driveId);

export const toUs = (map: ServoMap, q: number): number =>
  map.nodes ? nodesUs(map.nodes, map.degPerSi * q) : map.offsetUs + map.usPerSi * q;
export const fromUs = (map: ServoMap, us: number): number =>
  map.nodes ? nodesAt(map.nodes, us) / map.degPerSi : (us - map.offsetUs) / map.usPerSi;
/** The whole pulse sent for q: rounded, never outside what the motor and the joint allow. */
export const toWire = (map: ServoMap, q: number): number =>
  Math.min(map.highUs, Math.max(map.lowUs, Math.round(toUs(map, q))));

/**
 * The maps of a build's positional servos that turn one joint each at a constant ratio, in the order of the slots: what a servo board
 * is sent. Other motors and transmissions are in drive-map.
 */
export function servoMaps(rig: Rig, mechanism: Mechanism, build: Build): ServoMap[] {
  const maps: ServoMap[] = [];
  mechanism.slotIds.forEach((jointId, slot) => {
    const transmission = ratioOf(rig, jointId);
    const drive = transmission && rig.drives.find((d) => d.id === transmission.drives[0]);
    if (!transmission || drive?.kind !== 'servo') return;
    const line = servoLine(drive, build);
    const wire = wireOf(rig, drive.id);
    const degPerSi = transmission.reduction / mechanism.siPerUnit[slot];
    const usPerSi = line.usPerDeg * degPerSi;
    const nodes = servoNodes(drive, build);
    const ends = [mechanism.lower[slot], mechanism.upper[slot]].map((q) =>
      !Number.isFinite(q) ? null : nodes ? nodesUs(nodes, degPerSi * q) : line.atZeroUs + usPerSi * q,
    );
    const [a, b] = ends;
    const [low, high] = a === null || b === null ? [drive.minUs, drive.maxUs] : [Math.min(a, b), Math.max(a, b)];
    maps.push({
      driveId: drive.id,
      driveName: drive.name,
      jointId,
      slot,
      drive,
      board: wire?.board ?? null,
      channel: wire?.channel ?? null,
      offsetUs: line.atZeroUs,
      usPerSi,
      nodes,
      degPerSi,
      // A thousandth of a µs of slack: a limit that is a whole pulse but for rounding stays that pulse.
      lowUs: Math.ceil(Math.max(low, drive.minUs) - 1e-3),
      highUs: Math.floor(Math.min(high, drive.maxUs) + 1e-3),
      speed: Math.abs(drive.speedDegPerS / degPerSi),
      calibrated: calibrationOf(build, drive.id) !== undefined,
    });
  });
  return maps;
}
