/** The table of commands of a planned routine: for every moment the value of every motor and what it stands for. */
import Papa from 'papaparse';
import {
  isSpin,
  jointSpeedMeant,
  jointsMeant,
  mapGroups,
  nativeAt,
  ownSlot,
  pinWords,
  spinPulse,
  unitOf,
  type CommandMap,
  type DriveMap,
} from '../actuators';
import type { Mechanism } from '../mechanism';
import { plannedMotion, type MotionChoice, type Rig } from '../rig';
import { commandedAt, sampleBuffers, samplePlanInto, sampleTimes, type Plan } from '../routine';

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

export function commandTable(
  mechanism: Mechanism,
  maps: readonly CommandMap[],
  plan: Plan,
  rateHz: number,
  motion: MotionChoice = plannedMotion,
): CommandTable {
  const timeS = sampleTimes(plan.durationS, 1 / rateHz);
  const natives = maps.map(() => new Int32Array(timeS.length));
  const placed = maps.filter((map): map is DriveMap => !isSpin(map));
  // Drives of one transmission are read back together.
  const whole = mapGroups(placed).filter((group) => group.length === group[0].transmission.drives.length);
  const slots = whole.flatMap((group) => group[0].slots);
  const joints = slots.map(() => new Float64Array(timeS.length));
  const column = new Map(slots.map((slot, k) => [slot, joints[k]]));
  const spins = maps.filter(isSpin).filter((map) => map.slots.length === 1);
  const spun = spins.map((map) => ({ slot: ownSlot(map), speeds: new Float64Array(timeS.length) }));
  const row = new Map(maps.map((map, k) => [map, natives[k]]));
  const [p, v, a] = sampleBuffers(mechanism);
  // What the other schools send has a memory: all of it is made at once.
  const sent = motion.school === 'planned' ? null : commandedAt(mechanism, placed, plan, motion, timeS);
  timeS.forEach((t, i) => {
    samplePlanInto(p, v, a, plan, t);
    // At the end of the plan nothing turns on.
    if (i === timeS.length - 1) v.fill(0);
    if (sent) p.set(sent[i]);
    for (const map of maps)
      row.get(map)![i] = isSpin(map)
        ? spinPulse(map, mechanism, p, v)
        : (nativeAt(map, mechanism, p) ?? row.get(map)![Math.max(0, i - 1)]);
    for (const group of whole) {
      const meant = jointsMeant(
        group,
        group.map((map) => row.get(map)![i]),
      );
      group[0].slots.forEach((slot, k) => (column.get(slot)![i] = meant?.[k] ?? NaN));
    }
    spins.forEach((map, k) => {
      spun[k].speeds[i] = jointSpeedMeant(map, mechanism, p, row.get(map)![i]) ?? NaN;
    });
  });
  return { timeS, maps, natives, slots, joints, spun };
}

export interface CsvOptions {
  readonly delimiter: ',' | ';' | '\t';
  /** Which columns beside the time. */
  readonly columns: 'commands' | 'joints' | 'both';
}

const endings = { µs: 'us', counts: 'counts', steps: 'steps' } as const;

/** What a column of commands is headed: whose it is, its unit, and board and pin as they are printed on the board. */
export function columnHead(rig: Pick<Rig, 'boards'>, map: CommandMap): string {
  const words = pinWords(rig, map);
  return `${map.code}_${endings[unitOf(map)]} (${words ? `${words.board}: pin ${words.pin}` : 'no pin'})`;
}

/** RFC 4180 text with a header; times to 1 ms, joint values and speeds to 0.01. */
export function tableToCsv(
  rig: Pick<Rig, 'boards'>,
  mechanism: Mechanism,
  table: CommandTable,
  { delimiter, columns }: CsvOptions,
): string {
  const comma = delimiter === ';';
  const number = (value: number, digits: number): string =>
    comma ? value.toFixed(digits).replace('.', ',') : value.toFixed(digits);
  const wantsNatives = columns !== 'joints';
  const wantsJoints = columns !== 'commands';
  const jointField = (slot: number, per = ''): string => {
    const j = mechanism.jointOfSlot[slot];
    return `${mechanism.codes[j]}_${mechanism.units[j] === 'mm' ? 'mm' : 'deg'}${per}`;
  };
  const fields = [
    'time_s',
    ...(wantsNatives ? table.maps.map((map) => columnHead(rig, map)) : []),
    ...(wantsJoints ? table.slots.map((slot) => jointField(slot)) : []),
    ...(wantsJoints ? table.spun.map(({ slot }) => jointField(slot, '_per_s')) : []),
  ];
  const data = Array.from(table.timeS, (t, row) => [
    number(t, 3),
    ...(wantsNatives ? table.natives.map((numbers) => String(numbers[row])) : []),
    ...(wantsJoints ? table.joints.map((values) => number(values[row], 2)) : []),
    ...(wantsJoints ? table.spun.map(({ speeds }) => number(speeds[row], 2)) : []),
  ]);
  return Papa.unparse({ fields, data }, { delimiter, newline: '\r\n', escapeFormulae: /^[=+@\t\r]/ }) + '\r\n';
}
