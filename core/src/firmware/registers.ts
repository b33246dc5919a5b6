/** Registers of an operator panel: which joints a board moves, and by what numbers. */
import { isSpin, nativeAt } from '../actuators';
import { fromUnit, inUnit } from '../mechanism';
import type { Described } from './described';
import { mirrorName } from '../rig';
import { handControlOf, KNOB_PLACES, type HandControl } from './knobs';

/** A joint that a motor of the board moves alone: between its limits (tenths of its unit) by a table of places (native numbers). */
export interface RegisterJoint {
  readonly name: string;
  readonly unit: '°' | 'mm';
  readonly motors: readonly number[];
  readonly low: number;
  readonly high: number;
  /** Where it is expected to stand. */
  readonly rest: number;
  /** Of each of its motors. */
  readonly places: readonly (readonly number[])[];
  /** The joint on the other side (place among the joints) that is its mirror image, by its name; null: none. */
  readonly twin: number | null;
}
export interface Registers extends Pick<HandControl, 'presets' | 'perS' | 'gentlePerS'> {
  readonly joints: readonly RegisterJoint[];
  /** 1 to 247. */
  readonly station: number;
  readonly baud: number;
}

/** What a number of a register counts: a tenth of a degree or of a millimetre. */
export const TENTHS = 10;
/** Of a joint without an end, so far either way (°). */
const FAR = 360;

export function registersOf(described: Described, station: number, baud: number): Registers {
  const { mechanism, motors, rig } = described;
  const { presets, perS, gentlePerS } = handControlOf(described);
  const slots = [...new Set(motors.flatMap(({ map }) => (!isSpin(map) && map.slots.length === 1 ? map.slots : [])))];
  const joints = slots.map((slot): Omit<RegisterJoint, 'twin'> => {
    const own = motors.flatMap(({ map }, k) =>
      !isSpin(map) && map.slots.length === 1 && map.slots[0] === slot ? [k] : [],
    );
    const end = (si: number, far: number): number =>
      Number.isFinite(si) ? Math.round(inUnit(mechanism, slot, si) * TENTHS) : far * TENTHS;
    const low = end(mechanism.lower[slot], -FAR);
    const high = end(mechanism.upper[slot], FAR);
    const pose = described.rest.slice();
    const places = own.map((k) =>
      Array.from({ length: KNOB_PLACES }, (_, n) => {
        const tenths = low + ((high - low) * n) / (KNOB_PLACES - 1);
        const si = fromUnit(mechanism, slot, tenths / TENTHS);
        pose[slot] = Math.min(mechanism.upper[slot], Math.max(mechanism.lower[slot], si));
        const { map, rest } = motors[k];
        return isSpin(map) ? rest : (nativeAt(map, mechanism, pose) ?? rest);
      }),
    );
    const id = mechanism.slotIds[slot];
    const joint = rig.mechanism.joints.find((j) => j.id === id)!;
    return {
      ...{ name: joint.name ?? id, unit: joint.type === 'prismatic' ? 'mm' : '°', motors: own, low, high, places },
      rest: Math.round(inUnit(mechanism, slot, described.rest[slot]) * TENTHS),
    };
  });
  const names = joints.map(({ name }) => name);
  /** Equal values of both look alike in a mirror. */
  const twinOf = (k: number): number | null => {
    const other = names.findIndex(
      (name, n) => n !== k && (mirrorName(name) === names[k] || name === mirrorName(names[k])),
    );
    return other >= 0 && joints[other].unit === joints[k].unit ? other : null;
  };
  return {
    ...{ presets, perS, gentlePerS, station, baud },
    joints: joints.map((joint, k) => ({ ...joint, twin: twinOf(k) })),
  };
}
