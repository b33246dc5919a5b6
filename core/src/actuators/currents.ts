/** What a motor draws, by its figures: in a straight line from rest to stall, as a DC motor does; a stepper's driver holds its own current. */
import type { Drive } from '../rig';

/** A: standing without a load, moving without one, held fast. */
export interface Currents {
  readonly idleA: number;
  readonly movingA: number;
  readonly stallA: number;
}

/** Null where nothing of it is known. */
export function currentsOf({ idleA, movingA, stallA }: Drive): Currents | null {
  if (idleA === undefined && movingA === undefined && stallA === undefined) return null;
  const idle = idleA ?? 0;
  const moving = Math.max(idle, movingA ?? idle);
  return { idleA: idle, movingA: moving, stallA: Math.max(moving, stallA ?? moving) };
}

/** A at a torque (N·m) of its shaft, no more than when it is held fast; null where nothing is known. */
export function ampsAt(drive: Drive, nm: number, isMoving: boolean): number | null {
  const currents = currentsOf(drive);
  if (!currents) return null;
  const { idleA, movingA, stallA } = currents;
  const least = isMoving ? movingA : idleA;
  if (drive.kind === 'stepper' || !(drive.stallNm > 0)) return least;
  return Math.max(least, Math.min(stallA, idleA + ((stallA - idleA) * Math.abs(nm)) / drive.stallNm));
}
