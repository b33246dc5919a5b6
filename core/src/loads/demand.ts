/**
 * What the joints of an arm ask of its motors. τ_m = Rᵀ·τ_j by virtual work, with the rates of the transmission at the pose; the motor of a
 * transmission that is a joint's alone is told at the joint, others at their shaft.
 */
import {
  shaftSpeed,
  shaftTorques,
  tiedDrives,
  torqueAt,
  torqueLine,
  type TiedDrive,
  type TorqueLine,
} from '../actuators';
import { inUnit, type Mechanism } from '../mechanism';
import type { Hardware } from '../rig';
import type { Rates } from '../transmissions';

export interface LoadedMotor extends TiedDrive {
  /** What may be asked of its shaft; null where no torque of it is known. */
  readonly torque: TorqueLine | null;
  readonly units: readonly ('°' | 'mm')[];
  /** Its rates where they are the same everywhere. */
  readonly rates: Rates | null;
  /** It moves one joint alone, and that by a constant ratio: torque at the shaft for 1 N·m (1 N where it slides) at the joint. */
  readonly perJoint: number | null;
}

/** The motors of a rig that move joints of its mechanism, in the order of the transmissions. */
export function loadedMotors(rig: Hardware, mechanism: Mechanism): LoadedMotor[] {
  return tiedDrives(rig, mechanism).map((tied): LoadedMotor => {
    const { drive, transmission, coupling, slots, index } = tied;
    const units = slots.map((slot) => mechanism.units[mechanism.jointOfSlot[slot]]);
    const isConstant = transmission.kind === 'ratio' || transmission.kind === 'matrix';
    const rates = isConstant ? coupling.rates(slots.map(() => 0)) : null;
    const alone = slots.length === 1 && transmission.drives.length === 1;
    return {
      ...tied,
      ...{ torque: torqueLine(drive), units, rates },
      perJoint: alone && rates ? shaftTorques(rates, [1], units)[index] : null,
    };
  });
}

/** Rates of a motor's transmission at a pose (slots, SI); null at a dead point and where its linkage cannot go. */
const ratesAt = (motor: LoadedMotor, mechanism: Mechanism, q: Float64Array): Rates | null =>
  motor.rates ?? motor.coupling.rates(motor.slots.map((slot) => inUnit(mechanism, slot, q[slot])));

/** Torque (N·m) that a motor's shaft gives for what its joints need (slots: N·m, N where sliding); Infinity where its linkage cannot go. */
export function shaftNeed(motor: LoadedMotor, mechanism: Mechanism, q: Float64Array, torques: Float64Array): number {
  const { perJoint, slots, index, units } = motor;
  if (perJoint !== null) return perJoint * torques[slots[0]];
  const rates = ratesAt(motor, mechanism, q);
  if (!rates) return Infinity;
  return shaftTorques(
    rates,
    slots.map((slot) => torques[slot]),
    units,
  )[index];
}

/** Speed (°/s) of a motor's shaft as its joints move (slots: SI a second); 0 where its linkage cannot go. */
export function shaftDegPerS(
  motor: LoadedMotor,
  mechanism: Mechanism,
  q: Float64Array,
  speeds: Float64Array,
): number {
  const { perJoint, rates, slots } = motor;
  if (perJoint === null || !rates) return shaftSpeed(motor, mechanism, q, speeds)?.degPerS ?? 0;
  return rates[0][0] === 0 ? 0 : inUnit(mechanism, slots[0], speeds[slots[0]]) / rates[0][0];
}

/** What may be asked of a motor's shaft (N·m) at a speed of it (°/s); null where no torque of it is known. */
export const usableNm = ({ torque }: LoadedMotor, degPerS = 0): number | null => torque && torqueAt(torque, degPerS);

/** Slots that no motor moves. */
export function unmoved(mechanism: Mechanism, motors: readonly LoadedMotor[]): number[] {
  const moved = new Set(motors.flatMap(({ slots }) => slots));
  return Array.from({ length: mechanism.m }, (_, slot) => slot).filter((slot) => !moved.has(slot));
}
