/** A table of commands as CSV. */
import { pinWords, unitOf, type CommandMap } from '../actuators';
import type { CommandTable } from './table';
import type { Mechanism } from '../mechanism';
import type { Rig } from '../rig';
import { csvOf } from '../units/csv';

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
  return csvOf(fields, data, delimiter);
}
