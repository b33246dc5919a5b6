/**
 * Motors that are sent speeds, not places: the pulse of a continuous servo for a speed of its shaft, through what was measured on
 * the build or, while nothing was, by its nominal figures, and back.
 */
import { inUnit, type Mechanism } from '../mechanism';
import { entryOf, type Build, type DriveOf, type Hardware } from '../rig';
import { fitMonotone, nodesAt, nodesUs, type Node } from './calibration';
import { driveMaps, shaftSpeed, type DriveMap } from './drive-map';
import { held, type NativeUnit } from './native';
import { tiedDrives, type TiedDrive } from './tied';

export type SpinDrive = DriveOf<'continuous-servo'>;

export interface SpinMap extends TiedDrive {
  readonly drive: SpinDrive;
  /** Whole pulses (µs) at which it stands, and between which it may be sent. */
  readonly stopUs: number;
  readonly low: number;
  readonly high: number;
  /** Corners of speed of the shaft (°/s, as `at`) over pulse, rising in speed. */
  readonly nodes: readonly Node[];
  /** Whether its stop pulse was measured on this build. */
  readonly calibrated: boolean;
}

/** A motor that is sent something: a place or a speed. */
export type CommandMap = DriveMap | SpinMap;
export const isSpin = (map: TiedDrive): map is SpinMap => map.drive.kind === 'continuous-servo';
/** All motors of a build that are sent something, in the order of the transmissions and of their drives. */
export function commandMaps(rig: Hardware, mechanism: Mechanism, build: Build): CommandMap[] {
  const made = new Map<string, CommandMap>(
    [...driveMaps(rig, mechanism, build), ...spinMaps(rig, mechanism, build)].map((map) => [map.drive.id, map]),
  );
  return tiedDrives(rig, mechanism).flatMap(({ drive }) => made.get(drive.id) ?? []);
}
/** Unit of what it is sent. */
export const unitOf = (map: CommandMap): NativeUnit => (isSpin(map) ? 'µs' : map.native.unit);

/** Speeds over pulses of a drive on a build: measured ones where there are any, else the line of its figures about its stop. */
export function speedNodes(drive: SpinDrive, build: Build): { readonly stopUs: number; readonly nodes: Node[] } {
  const measured = entryOf(build.speeds, drive.id);
  const stopUs = measured?.stopUs ?? drive.stopUs;
  const points = (measured?.points ?? []).map(({ us, degPerS }) => ({ at: degPerS, us }));
  if (points.some(({ at }) => at !== 0)) return { stopUs, nodes: fitMonotone([{ at: 0, us: stopUs }, ...points]) };
  const way = drive.direction * drive.fullUs;
  return {
    stopUs,
    nodes: [
      { at: -drive.speedDegPerS, us: stopUs - way },
      { at: drive.speedDegPerS, us: stopUs + way },
    ],
  };
}

/** In the order of the transmissions. The range of pulses is cut to what the joint's own limit of speed allows. */
export function spinMaps(rig: Hardware, mechanism: Mechanism, build: Build): SpinMap[] {
  return tiedDrives(rig, mechanism).flatMap((tied): SpinMap[] => {
    const { drive } = tied;
    if (drive.kind !== 'continuous-servo') return [];
    const { stopUs, nodes } = speedNodes(drive, build);
    const ends = nodes.map(({ us }) => us);
    let [low, high] = [
      Math.max(drive.minUs, Math.min(stopUs, ...ends)),
      Math.min(drive.maxUs, Math.max(stopUs, ...ends)),
    ];
    const most = tied.slots.length === 1 ? fastestShaft(tied, mechanism) : null;
    if (most !== null) {
      const limits = [-most, most].map((speed) => nodesUs(nodes, speed));
      low = Math.max(low, Math.min(stopUs, ...limits));
      high = Math.min(high, Math.max(stopUs, ...limits));
    }
    return [
      {
        ...tied,
        drive,
        stopUs: Math.round(stopUs),
        nodes,
        // A thousandth of slack: a limit that is a whole number but for rounding stays that number.
        low: Math.min(Math.round(stopUs), Math.ceil(low - 1e-3)),
        high: Math.max(Math.round(stopUs), Math.floor(high + 1e-3)),
        calibrated: entryOf(build.speeds, drive.id) !== null,
      },
    ];
  });
}

/** Speed (°/s) of the shaft at its joint's own limit of speed; null without a limit. */
function fastestShaft(tied: TiedDrive, mechanism: Mechanism): number | null {
  const [slot] = tied.slots;
  if (!Number.isFinite(mechanism.speed[slot])) return null;
  const speeds = new Float64Array(mechanism.m);
  speeds[slot] = mechanism.speed[slot];
  const shaft = shaftSpeed(tied, mechanism, mechanism.home, speeds);
  return shaft && Math.abs(shaft.degPerS);
}

/** The whole pulse (µs) for a speed of the shaft (°/s), never outside the range; its own stop pulse for none. */
export const pulseAtSpeed = (map: SpinMap, degPerS: number): number =>
  degPerS === 0 ? map.stopUs : held(map, Math.round(nodesUs(map.nodes, degPerS)));

/** The speed of the shaft (°/s) that a pulse (µs) asks for. */
export const speedAtPulse = (map: SpinMap, us: number): number => (us === map.stopUs ? 0 : nodesAt(map.nodes, us));

/** The pulse at a pose with speeds (slots, SI); standing still where the transmission is at a dead point. */
export const spinPulse = (map: SpinMap, mechanism: Mechanism, q: Float64Array, v: Float64Array): number =>
  pulseAtSpeed(map, shaftSpeed(map, mechanism, q, v)?.degPerS ?? 0);

/** The joint's speed (document units per s) that a pulse means; null where several motors mix or at a dead point. */
export function jointSpeedMeant(map: SpinMap, mechanism: Mechanism, q: Float64Array, us: number): number | null {
  if (map.slots.length !== 1) return null;
  const rates = map.coupling.rates(map.slots.map((s) => inUnit(mechanism, s, q[s])));
  return rates && rates[0][map.index] * speedAtPulse(map, us);
}
