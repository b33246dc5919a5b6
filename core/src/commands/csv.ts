/** A table of commands as CSV. */
import { pinWords, type CommandMap } from '../actuators';
import type { CommandTable } from './table';
import type { Mechanism } from '../mechanism';
import type { Rig } from '../rig';
import { csvOf } from '../units/csv';
import { formOf, type CommandForm } from './forms';
import type { Fold } from './fold';

export interface CsvOptions {
  readonly delimiter: ',' | ';' | '\t';
  /** Which columns beside the time. */
  readonly columns: 'commands' | 'joints' | 'both';
  /** Each row begins with when it is, its number from 0, or how long it takes since the row before; the time unless said. */
  readonly first?: 'time' | 'number' | 'takes';
  readonly form?: CommandForm;
  /** Decimals of what is not whole; times have one more. 2 unless said. */
  readonly decimals?: number;
  /** Whether the first line says what the columns are; it does unless said. */
  readonly head?: boolean;
  /** Stretches that come again and again: from which row, and how often, behind each one's last row. */
  readonly folds?: readonly Fold[];
}

/** What a column of commands is headed: whose it is, its unit, and board and pin as they are printed on the board. */
export function columnHead(rig: Pick<Rig, 'boards'>, map: CommandMap, form: CommandForm = 'whole'): string {
  const words = pinWords(rig, map);
  return `${map.code}_${formOf(map, form).ending} (${words ? `${words.board}: pin ${words.pin}` : 'no pin'})`;
}

/** RFC 4180 text. */
export function tableToCsv(
  rig: Pick<Rig, 'boards'>,
  mechanism: Mechanism,
  table: CommandTable,
  { delimiter, columns, first = 'time', form = 'whole', decimals = 2, head = true, folds }: CsvOptions,
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
    { time: 'time_s', number: 'row', takes: 'takes_s' }[first],
    ...(wantsNatives ? table.maps.map((map) => columnHead(rig, map, form)) : []),
    ...(wantsJoints ? table.slots.map((slot) => jointField(slot)) : []),
    ...(wantsJoints ? table.spun.map(({ slot }) => jointField(slot, '_per_s')) : []),
    ...(folds ? ['again_from_row', 'times_in_all'] : []),
  ];
  const forms = table.maps.map((map) => formOf(map, form));
  const foldOf = new Map(folds?.map((each) => [each.last, each]));
  const begins = (row: number): string =>
    first === 'number'
      ? String(row)
      : number(table.timeS[row] - (first === 'takes' && row ? table.timeS[row - 1] : 0), decimals + 1);
  const data = Array.from(table.timeS, (_, row) => [
    begins(row),
    ...(wantsNatives
      ? forms.map(({ of, isWhole }, k) => {
          const value = of(table.natives[k], row);
          return isWhole ? String(value) : number(value, decimals);
        })
      : []),
    ...(wantsJoints ? table.joints.map((values) => number(values[row], decimals)) : []),
    ...(wantsJoints ? table.spun.map(({ speeds }) => number(speeds[row], decimals)) : []),
    ...(folds ? [String(foldOf.get(row)?.first ?? ''), String(foldOf.get(row)?.times ?? '')] : []),
  ]);
  return csvOf(head ? fields : null, data, delimiter);
}
