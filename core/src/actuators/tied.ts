/** The drives of a rig with what ties them to their joints and where they hang on a board. */
import type { Mechanism } from '../mechanism';
import type { Drive, Hardware, Transmission } from '../rig';
import { linePins } from './line';
import { wireOf } from './servo-line';
import { couplingOf, type Coupling } from '../transmissions';

export interface TiedDrive {
  readonly drive: Drive;
  readonly transmission: Transmission;
  readonly coupling: Coupling;
  /** Slots of the transmission's joints, in its order. */
  readonly slots: readonly number[];
  /** Which of the transmission's drives this is. */
  readonly index: number;
  /** Name for columns: the joint's code where the drive moves one joint alone, else the drive's own id. */
  readonly code: string;
  /** Null while the motor is on no pin. */
  readonly board: string | null;
  readonly pin: number | null;
  /** The board at the end of the line that reaches it, and its number there; null while it has no pin. */
  readonly line: string | null;
  readonly channel: number | null;
}

/** In the order of the transmissions; those whose transmission cannot work are left out. Joints that follow others have none. */
export function tiedDrives(rig: Hardware, mechanism: Mechanism): TiedDrive[] {
  const reached = linePins(rig);
  return rig.transmissions.flatMap((transmission) => {
    const slots = transmission.joints.map((id) => mechanism.slotOf.get(id) ?? -1);
    const built = couplingOf(transmission);
    if (!built.ok || slots.includes(-1)) return [];
    const alone = slots.length === 1 && transmission.drives.length === 1;
    return transmission.drives.flatMap((id, index): TiedDrive[] => {
      const drive = rig.drives.find((d) => d.id === id);
      if (!drive) return [];
      const wire = wireOf(rig, id);
      const pin = wire && reached(wire.board, wire.channel);
      return [
        {
          drive,
          transmission,
          coupling: built.coupling,
          slots,
          index,
          code: alone ? mechanism.codes[mechanism.jointOfSlot[slots[0]]] : drive.id,
          board: wire?.board ?? null,
          pin: wire?.channel ?? null,
          line: pin?.line ?? null,
          channel: pin?.channel ?? null,
        },
      ];
    });
  });
}

/** The slot that a drive stands for: the one of its own place, or the last where there are fewer joints. */
export const ownSlot = ({ slots, index }: Pick<TiedDrive, 'slots' | 'index'>): number =>
  slots[Math.min(index, slots.length - 1)];

/** The drives of each transmission, in its order. */
export function mapGroups<T extends TiedDrive>(maps: readonly T[]): T[][] {
  const groups = new Map<string, T[]>();
  for (const map of maps) {
    const group = groups.get(map.transmission.id);
    if (group) group.push(map);
    else groups.set(map.transmission.id, [map]);
  }
  return [...groups.values()];
}

/** Drives of transmissions that are wholly on pins: what can be moved over the line. */
export const wiredMaps = <T extends TiedDrive>(maps: readonly T[]): T[] =>
  mapGroups(maps).flatMap((group) => (group.every((m) => m.channel !== null) ? group : []));

/** Where a drive hangs, in the words that are printed on its board: the board's name and the pin's label. */
export function pinWords(
  { boards }: Pick<Hardware, 'boards'>,
  { board, pin }: Pick<TiedDrive, 'board' | 'pin'>,
): { readonly board: string; readonly pin: string } | null {
  const found = boards.find((b) => b.id === board);
  if (!found || pin === null) return null;
  return { board: found.name, pin: found.pins.find((p) => p.pin === pin)?.label ?? `${pin}?` };
}
