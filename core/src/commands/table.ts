/** The table of commands of a motion: for every moment the value of every motor and what it stands for. */
import {
  isSpin,
  jointSpeedMeant,
  jointsMeant,
  mapGroups,
  ownSlot,
  type CommandMap,
  type DriveMap,
} from '../actuators';
import type { Mechanism } from '../mechanism';
import { sampleBuffers, sampleTimes, type Motion } from '../motion';
import { valuesAt } from './channels';

export interface CommandTable {
  readonly timeS: Float64Array;
  readonly maps: readonly CommandMap[];
  /** Per map: the whole numbers sent (µs, counts, microsteps); where a linkage cannot go, the number before. */
  readonly natives: readonly Int32Array[];
  /** Slots that the drives move to places, and per slot the joint values (document units) that these numbers really mean. */
  readonly slots: readonly number[];
  readonly joints: readonly Float64Array[];
  /** The same for slots that are sent speeds: document units per s. */
  readonly spun: readonly { readonly slot: number; readonly speeds: Float64Array }[];
}

/** Most rows a table may have. */
export const MAX_ROWS = 500_000;

/** Rows `1 / rateHz` s apart, and one at the end. */
export function commandTable(
  mechanism: Mechanism,
  maps: readonly CommandMap[],
  motion: Motion,
  rateHz: number,
): CommandTable {
  return commandsAt(mechanism, maps, motion, sampleTimes(motion.durationS, 1 / rateHz));
}

/** The same at moments (s, rising) of one's own. */
export function commandsAt(
  mechanism: Mechanism,
  maps: readonly CommandMap[],
  motion: Motion,
  timeS: Float64Array,
): CommandTable {
  const natives = maps.map(() => new Int32Array(timeS.length));
  // Drives of one transmission are read back together.
  const whole = mapGroups(maps.filter((map): map is DriveMap => !isSpin(map))).filter(
    (group) => group.length === group[0].transmission.drives.length,
  );
  const slots = whole.flatMap((group) => group[0].slots);
  const joints = slots.map(() => new Float64Array(timeS.length));
  const column = new Map(slots.map((slot, k) => [slot, joints[k]]));
  const spins = maps.filter(isSpin).filter((map) => map.slots.length === 1);
  const spun = spins.map((map) => ({ slot: ownSlot(map), speeds: new Float64Array(timeS.length) }));
  const now = new Map<CommandMap, number>(maps.map((map) => [map, 0]));
  const [p, v, a] = sampleBuffers(mechanism.m);
  timeS.forEach((t, i) => {
    motion.sampleInto(p, v, a, t);
    for (const [map, value] of valuesAt(maps, mechanism, p, v)) now.set(map, value);
    maps.forEach((map, k) => (natives[k][i] = now.get(map)!));
    for (const group of whole) {
      const meant = jointsMeant(
        group,
        group.map((map) => now.get(map)!),
      );
      group[0].slots.forEach((slot, k) => (column.get(slot)![i] = meant?.[k] ?? NaN));
    }
    spins.forEach((map, k) => {
      spun[k].speeds[i] = jointSpeedMeant(map, mechanism, p, now.get(map)!) ?? NaN;
    });
  });
  return { timeS, maps, natives, slots, joints, spun };
}

/** Some rows of a table. */
export function rowsOf(table: CommandTable, kept: readonly number[]): CommandTable {
  const { timeS, natives, joints, spun } = table;
  const some = (values: Float64Array): Float64Array => Float64Array.from(kept, (row) => values[row]);
  return {
    ...table,
    timeS: some(timeS),
    natives: natives.map((numbers) => Int32Array.from(kept, (row) => numbers[row])),
    joints: joints.map(some),
    spun: spun.map(({ slot, speeds }) => ({ slot, speeds: some(speeds) })),
  };
}

/** The rows in which a motor is told something else than in the one before, and the first and the last. */
export function onlyChanges(table: CommandTable): CommandTable {
  const { timeS, natives } = table;
  const end = timeS.length - 1;
  return rowsOf(
    table,
    [...timeS.keys()].filter(
      (row) => row === 0 || row === end || natives.some((numbers) => numbers[row] !== numbers[row - 1]),
    ),
  );
}
