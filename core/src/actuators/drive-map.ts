/** From joint values to what every drive of a build is sent, through its transmission, and back. */
import { fromUnit, inUnit, type Mechanism } from '../mechanism';
import { entryOf, type Build, type Hardware, type Transmission } from '../rig';
import {
  driveSpeed,
  exactNative,
  fromNative,
  isSpeedOnly,
  nativeOf,
  rangeFor,
  toNative,
  type Native,
} from './native';
import { calibrationOf } from './servo-line';
import { tiedDrives, type TiedDrive } from './tied';
import { RAD_PER_DEG } from '../units/convert';
import type { Coupling, Rates } from '../transmissions';
import { invert } from '../transmissions/matrix';

export interface DriveMap extends TiedDrive {
  readonly native: Native;
  /** Whether something was measured on this build: points of a servo, a turn of another motor. */
  readonly calibrated: boolean;
}

/** The maps of a build's drives that go to places, in the order of the transmissions. Joints that follow others have none. */
export function driveMaps(rig: Hardware, mechanism: Mechanism, build: Build): DriveMap[] {
  return tiedDrives(rig, mechanism).flatMap((tied): DriveMap[] => {
    const { drive, transmission, coupling, index, slots } = tied;
    const native = nativeOf(drive, build);
    if (!native) return [];
    return [
      {
        ...tied,
        native: withinLimits(native, transmission, coupling, index, mechanism, slots),
        calibrated: calibrationOf(build, drive.id) !== undefined || entryOf(build.turns, drive.id) !== null,
      },
    ];
  });
}

/**
 * The native range cut to what the limits of its joints allow, rounded inward: between the limits of a joint of its own, between
 * the corners of all limits where a matrix mixes several.
 */
function withinLimits(
  native: Native,
  { kind }: Transmission,
  coupling: Coupling,
  index: number,
  mechanism: Mechanism,
  slots: readonly number[],
): Native {
  if (slots.length > 1 && kind !== 'matrix') return native;
  const corners = slots.reduce<number[][]>(
    (lists, slot) =>
      lists.flatMap((list) =>
        [mechanism.lower[slot], mechanism.upper[slot]].map((v) => [...list, inUnit(mechanism, slot, v)]),
      ),
    [[]],
  );
  if (corners.some((corner) => !corner.every(Number.isFinite))) return native;
  const ends = corners.flatMap((corner) => {
    const shaft = coupling.toDrives(corner)?.[index];
    return shaft === undefined ? [] : [exactNative(native, shaft)];
  });
  if (ends.length < 2) return native;
  return { ...native, ...rangeFor(native, ends) };
}

/** Slots whose motor can only be told how fast to turn: inverse kinematics refuses them. */
export function speedOnlySlots(rig: Hardware, mechanism: Mechanism): Set<number> {
  return new Set(
    rig.transmissions.flatMap((t) =>
      t.drives.some((id) => rig.drives.some((d) => d.id === id && isSpeedOnly(d)))
        ? t.joints.flatMap((id) => mechanism.slotOf.get(id) ?? [])
        : [],
    ),
  );
}

const ownUnits = (map: TiedDrive, mechanism: Mechanism, q: Float64Array): number[] =>
  map.slots.map((s) => inUnit(mechanism, s, q[s]));

/** Angle (°) of the drive's shaft at a pose (slots, SI); null where the linkage cannot go. */
export function shaftAt(map: DriveMap, mechanism: Mechanism, q: Float64Array): number | null {
  return map.coupling.toDrives(ownUnits(map, mechanism, q))?.[map.index] ?? null;
}

/** The whole number that the drive is sent at a pose, held inside its own range; null where the linkage cannot go. */
export function nativeAt(map: DriveMap, mechanism: Mechanism, q: Float64Array): number | null {
  const shaft = shaftAt(map, mechanism, q);
  return shaft === null ? null : toNative(map.native, shaft);
}

/**
 * Joint values (document units, in the order of the transmission) that whole numbers of its drives mean; `natives` in the order of
 * the transmission's drives.
 */
export function jointsMeant(maps: readonly DriveMap[], natives: readonly number[]): number[] | null {
  const [first] = maps;
  if (!first || maps.length !== first.transmission.drives.length) return null;
  return first.coupling.toJoints(maps.map((map, k) => fromNative(map.native, natives[k])));
}

/**
 * Writes into `q` (slots, SI) where the joints stand whose drives stand at `nativeOf`; what is not known stays as it was. `groups`: the
 * drives of each transmission.
 */
export function poseMeant(
  groups: readonly (readonly DriveMap[])[],
  mechanism: Mechanism,
  nativeOf: (map: DriveMap) => number | null,
  q: Float64Array,
): Float64Array {
  for (const group of groups) {
    const natives = group.map(nativeOf);
    if (natives.includes(null)) continue;
    jointsMeant(group, natives as number[])?.forEach((value, k) => {
      const slot = group[0].slots[k];
      q[slot] = fromUnit(mechanism, slot, value);
    });
  }
  return q;
}

/** How far (° or mm) each joint of the transmission moves for one unit of this drive; null at a dead point. */
export function resolutionAt(map: DriveMap, mechanism: Mechanism, q: Float64Array): number[] | null {
  const rates = map.coupling.rates(ownUnits(map, mechanism, q));
  return rates && rates.map((row) => Math.abs(row[map.index] / map.native.perDeg));
}

/**
 * Speed (°/s) of the drive's shaft for joint speeds (document units per s), and its share of the drive's own top speed. Null at a dead
 * point.
 */
export function shaftSpeed(
  map: TiedDrive,
  mechanism: Mechanism,
  q: Float64Array,
  speeds: Float64Array,
): { degPerS: number; share: number } | null {
  const at = ownUnits(map, mechanism, q);
  const wish = map.slots.map((s) => inUnit(mechanism, s, speeds[s]));
  // A small step along the wished speeds, taken through the linkage both ways: exact for constant ratios.
  const rates = map.coupling.rates(at);
  const back = rates && pseudo(rates, wish);
  if (!back) return null;
  const degPerS = back[map.index];
  return { degPerS, share: Math.abs(degPerS) / driveSpeed(map.drive) };
}

/** Whether motor and joint turn at one ratio everywhere. */
export const hasConstantRatio = ({ transmission: { kind } }: DriveMap): boolean =>
  kind === 'ratio' || kind === 'matrix';

/** Motor speeds for joint speeds through the rates: the inverse, or with one motor for several joints the first joint's. */
function pseudo(rates: Rates, wish: readonly number[]): number[] | null {
  const motors = rates[0].length;
  if (motors === 1) return rates[0][0] === 0 ? null : [wish[0] / rates[0][0]];
  const back = invert(rates);
  return back && back.map((row) => row.reduce((sum, f, k) => sum + f * wish[k], 0));
}

/** m per rad in one mm per degree. */
const SLIDING = 1e-3 / RAD_PER_DEG;

/**
 * Torques (N·m) that the drives of a transmission give for what its joints need (N·m, N where sliding): τ_m = Rᵀ τ_j by virtual
 * work. `rates` as {@link Coupling.rates} gives them, `units` of the joints.
 */
export function shaftTorques(rates: Rates, joints: readonly number[], units: readonly ('°' | 'mm')[]): number[] {
  return rates[0].map((_, motor) =>
    rates.reduce((sum, row, k) => sum + row[motor] * joints[k] * (units[k] === 'mm' ? SLIDING : 1), 0),
  );
}
