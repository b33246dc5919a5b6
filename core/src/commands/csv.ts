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

/** Rows that become one text at a time: with all at once far more is kept meanwhile. */
const TOGETHER = 500;

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
  const { natives } = table;
  const joints = wantsJoints ? [...table.joints, ...table.spun.map(({ speeds }) => speeds)] : [];
  // Numbers alone: nothing in a row has to be quoted or made harmless.
  const parts: string[] = head ? [csvOf(fields, [], delimiter)] : [];
  let lines: string[] = [];
  for (let row = 0; row < table.timeS.length; row++) {
    let line = begins(row);
    if (wantsNatives)
      for (let k = 0; k < forms.length; k++) {
        const value = form === 'whole' ? natives[k][row] : forms[k].of(natives[k], row);
        line += delimiter + (forms[k].isWhole ? String(value) : number(value, decimals));
      }
    for (const values of joints) line += delimiter + number(values[row], decimals);
    const again = foldOf.get(row);
    if (folds) line += `${delimiter}${again?.first ?? ''}${delimiter}${again?.times ?? ''}`;
    lines.push(`${line}\r\n`);
    if (lines.length < TOGETHER && row < table.timeS.length - 1) continue;
    parts.push(lines.join(''));
    lines = [];
  }
  return parts.join('');
}
