/** The table of commands of a planned routine: for every moment the pulse of every motor and the angle it stands for. */
import Papa from 'papaparse';
import { jointsMeant, nativeAt, type DriveMap } from '../drives';
import type { Mechanism } from '../mechanism';
import { plannedMotion, type MotionChoice } from '../rig';
import { commandedAt, sampleBuffers, samplePlanInto, sampleTimes, type Plan } from '../routine';

export interface CommandTable {
  readonly timeS: Float64Array;
  readonly maps: readonly DriveMap[];
  /** Per map: the whole numbers sent (µs, counts, microsteps); where a linkage cannot go, the number before. */
  readonly natives: readonly Int32Array[];
  /** Slots that the drives move, and per slot the joint values (document units) that these numbers really mean. */
  readonly slots: readonly number[];
  readonly joints: readonly Float64Array[];
}

/** Most rows a table may have. */
export const MAX_ROWS = 500_000;

export function commandTable(
  mechanism: Mechanism,
  maps: readonly DriveMap[],
  plan: Plan,
  rateHz: number,
  motion: MotionChoice = plannedMotion,
): CommandTable {
  const timeS = sampleTimes(plan.durationS, 1 / rateHz);
  const natives = maps.map(() => new Int32Array(timeS.length));
  // Drives of one transmission are read back together.
  const groups = [...new Set(maps.map((map) => map.transmission))].map((transmission) => ({
    slots: maps.find((map) => map.transmission === transmission)!.slots,
    members: maps.flatMap((map, k) => (map.transmission === transmission ? [k] : [])),
  }));
  const whole = groups.filter(({ members }) => members.length === maps[members[0]].transmission.drives.length);
  const slots = whole.flatMap((group) => group.slots);
  const joints = slots.map(() => new Float64Array(timeS.length));
  const column = new Map(slots.map((slot, k) => [slot, joints[k]]));
  const [p, v, a] = sampleBuffers(mechanism);
  // What the other schools send has a memory: all of it is made at once.
  const sent = motion.school === 'planned' ? null : commandedAt(mechanism, maps, plan, motion, timeS);
  timeS.forEach((t, row) => {
    if (sent) p.set(sent[row]);
    else samplePlanInto(p, v, a, plan, t);
    maps.forEach((map, k) => {
      natives[k][row] = nativeAt(map, mechanism, p) ?? natives[k][Math.max(0, row - 1)];
    });
    for (const { slots: own, members } of whole) {
      const meant = jointsMeant(
        members.map((k) => maps[k]),
        members.map((k) => natives[k][row]),
      );
      own.forEach((slot, k) => (column.get(slot)![row] = meant?.[k] ?? NaN));
    }
  });
  return { timeS, maps, natives, slots, joints };
}

export interface CsvOptions {
  readonly delimiter: ',' | ';' | '\t';
  /** Which columns beside the time. */
  readonly columns: 'commands' | 'joints' | 'both';
}

const endings = { µs: 'us', counts: 'counts', steps: 'steps' } as const;

/** RFC 4180 text with a header; times to 1 ms, joint values to 0.01. */
export function tableToCsv(mechanism: Mechanism, table: CommandTable, { delimiter, columns }: CsvOptions): string {
  const comma = delimiter === ';';
  const number = (value: number, digits: number): string =>
    comma ? value.toFixed(digits).replace('.', ',') : value.toFixed(digits);
  const wantsNatives = columns !== 'joints';
  const wantsJoints = columns !== 'commands';
  const jointField = (slot: number): string => {
    const j = mechanism.jointOfSlot[slot];
    return `${mechanism.codes[j]}_${mechanism.units[j] === 'mm' ? 'mm' : 'deg'}`;
  };
  const fields = [
    'time_s',
    ...(wantsNatives ? table.maps.map((map) => `${map.code}_${endings[map.native.unit]}`) : []),
    ...(wantsJoints ? table.slots.map(jointField) : []),
  ];
  const data = Array.from(table.timeS, (t, row) => [
    number(t, 3),
    ...(wantsNatives ? table.natives.map((numbers) => String(numbers[row])) : []),
    ...(wantsJoints ? table.joints.map((values) => number(values[row], 2)) : []),
  ]);
  return Papa.unparse({ fields, data }, { delimiter, newline: '\r\n' }) + '\r\n';
}
