/** From joint values to what every drive of a build is sent, through its transmission, and back. */
import type { Mechanism } from '../mechanism';
import { entryOf, type Build, type Drive, type Rig, type Transmission } from '../rig';
import { driveSpeed, exactNative, fromNative, isSpeedOnly, nativeOf, toNative, type Native } from './native';
import { lineChannels } from './line';
import { calibrationOf, wireOf } from './servo-line';
import { RAD_PER_DEG } from '../units/convert';
import { couplingOf, type Coupling, type Rates } from './transmissions';
import { invert } from './transmissions/matrix';

export interface DriveMap {
  readonly drive: Drive;
  readonly transmission: Transmission;
  readonly coupling: Coupling;
  /** Slots of the transmission's joints, in its order. */
  readonly slots: readonly number[];
  /** Which of the transmission's drives this is. */
  readonly index: number;
  readonly native: Native;
  /** Name for columns: the joint's code where the drive moves one joint alone, else the drive's own id. */
  readonly code: string;
  /** Null while the motor is on no pin. */
  readonly board: string | null;
  readonly pin: number | null;
  /** Its number on the line to the boards; null while it has no pin there. */
  readonly channel: number | null;
  /** Whether something was measured on this build: points of a servo, a turn of another motor. */
  readonly calibrated: boolean;
}

/** The maps of a build's drives that go to places, in the order of the transmissions. Joints that follow others have none. */
export function driveMaps(rig: Rig, mechanism: Mechanism, build: Build): DriveMap[] {
  const channels = lineChannels(rig);
  return rig.transmissions.flatMap((transmission) => {
    const slots = transmission.joints.map((id) => mechanism.slotOf.get(id) ?? -1);
    const built = couplingOf(transmission);
    if (!built.ok || slots.includes(-1)) return [];
    return transmission.drives.flatMap((id, index): DriveMap[] => {
      const drive = rig.drives.find((d) => d.id === id);
      const native = drive && nativeOf(drive, build);
      if (!drive || !native) return [];
      const wire = wireOf(rig, id);
      const alone = slots.length === 1 && transmission.drives.length === 1;
      return [
        {
          drive,
          transmission,
          coupling: built.coupling,
          slots,
          index,
          native: withinLimits(native, transmission, built.coupling, index, mechanism, slots),
          code: alone ? mechanism.codes[mechanism.jointOfSlot[slots[0]]] : drive.id,
          board: wire?.board ?? null,
          pin: wire?.channel ?? null,
          channel: (wire && channels(wire.board, wire.channel)) ?? null,
          calibrated: calibrationOf(build, id) !== undefined || entryOf(build.turns, id) !== null,
        },
      ];
    });
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
        [mechanism.lower[slot], mechanism.upper[slot]].map((v) => [...list, v / mechanism.siPerUnit[slot]]),
      ),
    [[]],
  );
  if (corners.some((corner) => !corner.every(Number.isFinite))) return native;
  const ends = corners.flatMap((corner) => {
    const shaft = coupling.toDrives(corner)?.[index];
    return shaft === undefined ? [] : [exactNative(native, shaft)];
  });
  if (ends.length < 2) return native;
  // A thousandth of slack: a limit that is a whole number but for rounding stays that number.
  return {
    ...native,
    low: Math.max(native.low, Math.ceil(Math.min(...ends) - 1e-3)),
    high: Math.min(native.high, Math.floor(Math.max(...ends) + 1e-3)),
  };
}

/** Slots whose motor can only be told how fast to turn: inverse kinematics refuses them. */
export function speedOnlySlots(rig: Rig, mechanism: Mechanism): Set<number> {
  return new Set(
    rig.transmissions.flatMap((t) =>
      t.drives.some((id) => rig.drives.some((d) => d.id === id && isSpeedOnly(d)))
        ? t.joints.flatMap((id) => mechanism.slotOf.get(id) ?? [])
        : [],
    ),
  );
}

const ownUnits = (map: DriveMap, mechanism: Mechanism, q: Float64Array): number[] =>
  map.slots.map((s) => q[s] / mechanism.siPerUnit[s]);

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

/** The maps of each transmission, in its order. */
export function mapGroups(maps: readonly DriveMap[]): DriveMap[][] {
  const groups = new Map<string, DriveMap[]>();
  for (const map of maps) {
    const group = groups.get(map.transmission.id);
    if (group) group.push(map);
    else groups.set(map.transmission.id, [map]);
  }
  return [...groups.values()];
}

/** Writes into `q` (slots, SI) where the joints stand whose drives stand at `nativeOf`; what is not known stays as it was. */
export function poseMeant(
  maps: readonly DriveMap[],
  mechanism: Mechanism,
  nativeOf: (map: DriveMap) => number | null,
  q: Float64Array,
): Float64Array {
  for (const group of mapGroups(maps)) {
    const natives = group.map(nativeOf);
    if (natives.includes(null)) continue;
    jointsMeant(group, natives as number[])?.forEach((value, k) => {
      const slot = group[0].slots[k];
      q[slot] = value * mechanism.siPerUnit[slot];
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
  map: DriveMap,
  mechanism: Mechanism,
  q: Float64Array,
  speeds: Float64Array,
): { degPerS: number; share: number } | null {
  const at = ownUnits(map, mechanism, q);
  const wish = map.slots.map((s) => speeds[s] / mechanism.siPerUnit[s]);
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
