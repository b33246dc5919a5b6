/** What jaws hold by friction: F from the jaw's torque by virtual work, m = 2·µ·F/(g + a) for two pads. */
import { rowsAround, type Mechanism } from '../mechanism';
import type { Tool } from '../rig';
import { GRAVITY } from '../units';
import { holdShare } from '../actuators';
import { usableNm } from './demand';
import type { Loading } from './loading';

export type Grip =
  | {
      readonly ok: true;
      /** Squeeze (N) of each pad with what its motor may give for long, and held fast. */
      readonly longN: number;
      readonly stallN: number;
      /** Value of the jaw (its unit) at that opening. */
      readonly at: number;
    }
  /** no-table: how wide it opens is not known; no-motor: no motor, or none whose torque is known, moves it alone; too-wide: outside the table. */
  | { readonly ok: false; readonly why: 'no-jaw' | 'no-table' | 'no-motor' | 'too-wide' };

/** Closing on something `mm` wide. */
export function gripOn(loading: Loading, mechanism: Mechanism, tool: Tool, mm: number): Grip {
  const { grip } = tool;
  if (!grip || !('joint' in grip)) return { ok: false, why: 'no-jaw' };
  if ((grip.openingMm?.length ?? 0) < 2) return { ok: false, why: 'no-table' };
  const rows = rowsAround(grip, mm);
  if (!rows) return { ok: false, why: 'too-wide' };
  const [low, high] = rows;
  const slot = mechanism.slotOf.get(grip.joint);
  const index = loading.motors.findIndex(({ perJoint, slots }) => perJoint !== null && slots[0] === slot);
  const motor = loading.motors[index];
  const usable = motor ? usableNm(motor) : null;
  if (usable === null || slot === undefined || high.mm === low.mm) return { ok: false, why: 'no-motor' };
  // Opening (m) for 1 rad, or 1 m, of the jaw; both pads share the way, and each presses with all of the force.
  const rate = Math.abs((high.mm - low.mm) / (high.at - low.at)) / 1000 / mechanism.siPerUnit[slot];
  const longN = loading.bears(index, usable) / Math.abs(motor.perJoint!) / rate;
  return {
    ok: true,
    longN,
    stallN: longN / holdShare(motor.drive),
    at: low.at + ((high.at - low.at) * (mm - low.mm)) / (high.mm - low.mm),
  };
}

/** Mass (kg) that two pads hold by friction `mu` with a squeeze (N), lifted with an acceleration (m/s²). */
export const massHeld = (newton: number, mu: number, accel: number): number => (2 * mu * newton) / (GRAVITY + accel);
/** Squeeze (N) that a mass takes. */
export const squeezeFor = (kg: number, mu: number, accel: number): number =>
  mu > 0 ? (kg * (GRAVITY + accel)) / (2 * mu) : Infinity;
