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
import { valueAt } from './channels';

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
  const [p, v, a] = sampleBuffers(mechanism.m);
  const before = new Float64Array(mechanism.m);
  const stands = (map: CommandMap): boolean => !isSpin(map) && map.slots.every((slot) => p[slot] === before[slot]);
  for (let i = 0; i < timeS.length; i++) {
    motion.sampleInto(p, v, a, timeS[i]);
    for (let k = 0; k < maps.length; k++) {
      const last = i > 0 ? natives[k][i - 1] : 0;
      natives[k][i] = i > 0 && stands(maps[k]) ? last : (valueAt(maps[k], mechanism, p, v) ?? last);
    }
    before.set(p);
  }
  // Drives of one transmission are read back together.
  const whole = mapGroups(maps.filter((map): map is DriveMap => !isSpin(map))).filter(
    (group) => group.length === group[0].transmission.drives.length,
  );
  const spins = maps.filter(isSpin).filter((map) => map.slots.length === 1);
  const column = (map: CommandMap): Int32Array => natives[maps.indexOf(map)];
  const joints = once(() =>
    whole.flatMap((group) => {
      const columns = group.map(column);
      const meant = group[0].slots.map(() => new Float64Array(timeS.length));
      for (let i = 0; i < timeS.length; i++) {
        const values = jointsMeant(
          group,
          columns.map((numbers) => numbers[i]),
        );
        meant.forEach((own, k) => (own[i] = values?.[k] ?? NaN));
      }
      return meant;
    }),
  );
  const spun = once(() =>
    spins.map((map) => {
      const own = column(map);
      const speeds = new Float64Array(timeS.length);
      for (let i = 0; i < timeS.length; i++) {
        motion.sampleInto(p, v, a, timeS[i]);
        speeds[i] = jointSpeedMeant(map, mechanism, p, own[i]) ?? NaN;
      }
      return { slot: ownSlot(map), speeds };
    }),
  );
  return {
    ...{ timeS, maps, natives, slots: whole.flatMap((group) => group[0].slots) },
    get joints() {
      return joints();
    },
    get spun() {
      return spun();
    },
  };
}

/** Worked out when it is first asked for. */
function once<T>(make: () => T): () => T {
  let made: { readonly value: T } | null = null;
  return () => (made ??= { value: make() }).value;
}

/** Some rows of a table. */
export function rowsOf(table: CommandTable, kept: readonly number[]): CommandTable {
  const { timeS, maps, natives, slots } = table;
  const some = (values: Float64Array): Float64Array => Float64Array.from(kept, (row) => values[row]);
  const joints = once(() => table.joints.map(some));
  const spun = once(() => table.spun.map(({ slot, speeds }) => ({ slot, speeds: some(speeds) })));
  return {
    ...{ maps, slots },
    timeS: some(timeS),
    natives: natives.map((numbers) => Int32Array.from(kept, (row) => numbers[row])),
    get joints() {
      return joints();
    },
    get spun() {
      return spun();
    },
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
