/** What the motors are sent over a routine, moment by moment. */
import { z } from 'zod';
import { commandMaps, unitOf } from '../../actuators';
import {
  commandForms,
  commandsAt,
  commandTable,
  fold,
  formOf,
  headerBytes,
  MAX_ROWS,
  onlyChanges,
  rowsOf,
  tableToCsv,
  tableToHeader,
  type CommandForm,
  type CommandTable,
  type Fold,
  type HeaderForm,
  type HeaderOptions,
} from '../../commands';
import { fileName } from '../../rig';
import { defineExport, type Planned, type Source } from '../export';
import { finding } from '../findings';

const texts = ['csv', 'json'];
const options = z.strictObject({
  format: z
    .enum(['csv', 'json', 'h'])
    .default('csv')
    .meta({ title: 'Kind of file', titles: { csv: 'CSV', json: 'JSON', h: 'C header' } }),
  rows: z
    .enum(['all', 'changed', 'poses', 'folded'])
    .default('all')
    .meta({
      title: 'Rows',
      description:
        'an even rate, those in which a motor is told something else, where each move ends, or those with what comes again kept once',
      titles: { all: 'evenly', changed: 'only what changes', poses: 'only poses', folded: 'poses, loops once' },
    }),
  rateHz: z
    .number()
    .min(1)
    .max(1000)
    .default(50)
    .meta({ title: 'Rows a second', step: 10, when: { rows: ['all', 'changed'] } }),
  form: z
    .enum(commandForms)
    .default('whole')
    .meta({
      title: 'Motors as',
      description: 'of servos; others are told whole numbers',
      titles: {
        whole: 'µs, steps, counts',
        change: 'changes of those',
        duty: 'duty, %',
        driver: 'counts of 4096',
        share: 'share, 0 to 1',
      },
    }),
  columns: z
    .enum(['both', 'commands', 'joints'])
    .default('both')
    .meta({
      title: 'Columns',
      description: 'beside the time',
      titles: { both: 'both', commands: 'commands', joints: 'joints' },
      when: { format: texts },
    }),
  first: z
    .enum(['time', 'number'])
    .default('time')
    .meta({
      title: 'A row begins with',
      titles: { time: 'its time', number: 'its number' },
      when: { format: 'csv', rows: ['all', 'changed', 'poses'] },
    }),
  delimiter: z
    .enum([',', ';', '\t'])
    .default(',')
    .meta({
      title: 'Between columns',
      description: 'of CSV; with ; decimals have a comma',
      titles: { ',': 'comma', ';': 'semicolon', '\t': 'tab' },
      when: { format: 'csv' },
    }),
  decimals: z
    .number()
    .int()
    .min(0)
    .max(6)
    .default(2)
    .meta({
      title: 'Decimals',
      description: 'of what is not whole; times have one more',
      step: 1,
      when: { format: 'csv' },
    }),
  head: z
    .boolean()
    .default(true)
    .meta({ title: 'A line of names first', when: { format: 'csv' } }),
  packed: z
    .boolean()
    .default(false)
    .meta({ title: 'Packed, with what reads it', when: { format: 'h' } }),
});
export type CommandOptions = z.output<typeof options>;

/** The table of a routine's commands at an even rate; null where something is missing for it. */
export const commandsOf = (source: Source, rateHz: number): CommandTable | null =>
  commandRows(source, { rows: 'all', rateHz })?.table ?? null;

interface Rows {
  readonly table: CommandTable;
  readonly folds: readonly Fold[] | null;
}
type RowChoice = Pick<CommandOptions, 'rows' | 'rateHz'>;
/** The last that was made of a source: it is said how large it is, shown, and written. */
const lastRows = new WeakMap<Source, RowChoice & { readonly made: Rows | null }>();

/** The rows of a routine's commands, and which of them come again; null where something is missing for them. */
export function commandRows(source: Source, { rows, rateHz }: RowChoice): Rows | null {
  const last = lastRows.get(source);
  if (last?.rows === rows && last.rateHz === rateHz) return last.made;
  const made = rowsFor(source, { rows, rateHz });
  lastRows.set(source, { rows, rateHz, made });
  return made;
}
function rowsFor({ rig, mechanism, build, planned }: Source, { rows, rateHz }: RowChoice): Rows | null {
  if (!planned?.motion.durationS || countOf(planned, { rows, rateHz }) > MAX_ROWS) return null;
  // Those on no pin too: they may hang on a board that is not here.
  const all = commandMaps(rig, mechanism, build);
  if (!all.length) return null;
  if (rows === 'all' || rows === 'changed') {
    const even = commandTable(mechanism, all, planned.motion, rateHz);
    return { table: rows === 'changed' ? onlyChanges(even) : even, folds: null };
  }
  const table = commandsAt(mechanism, all, planned.motion, endsOf(planned));
  if (rows === 'poses') return { table, folds: null };
  const keys = Array.from(table.timeS, (t, row) =>
    [row ? Math.round((t - table.timeS[row - 1]) * 1000) : 0, ...table.natives.map((numbers) => numbers[row])].join(),
  );
  const { kept, folds } = fold(keys);
  // Times are those that a row takes: where rows are left out the clock goes on as if they were not.
  const some = rowsOf(table, kept);
  let now = 0;
  some.timeS.forEach((_, k) => {
    now += kept[k] ? table.timeS[kept[k]] - table.timeS[kept[k] - 1] : 0;
    some.timeS[k] = now;
  });
  return { table: some, folds };
}
/** When each move ends, from the beginning on (s). */
function endsOf({ plan, motion }: Planned): Float64Array {
  const ends = plan.blocks.map(({ startS, block }) => Math.min(motion.durationS, startS + block.duration));
  return Float64Array.from([0, ...ends, motion.durationS].filter((t, k, all) => !k || t > all[k - 1] + 1e-9));
}
const countOf = ({ plan, motion }: Planned, { rows, rateHz }: RowChoice): number =>
  rows === 'all' || rows === 'changed' ? Math.ceil(motion.durationS * rateHz) : plan.blocks.length + 2;

function asJson({ mechanism }: Source, { table, folds }: Rows, { columns, form }: CommandOptions): string {
  const motors = Object.fromEntries(
    table.maps.map((map, k) => {
      const { of } = formOf(map, form);
      return [map.drive.id, Array.from(table.timeS, (_, row) => of(table.natives[k], row))];
    }),
  );
  const joints = Object.fromEntries(table.slots.map((s, k) => [mechanism.slotIds[s], [...table.joints[k]]]));
  return JSON.stringify({
    timeS: [...table.timeS],
    units: Object.fromEntries(
      table.maps.map((map) => [map.drive.id, form === 'whole' ? unitOf(map) : formOf(map, form).ending]),
    ),
    ...(columns === 'joints' ? {} : { motors }),
    ...(columns === 'commands' ? {} : { joints }),
    ...(folds ? { again: folds } : {}),
  });
}

function textOf(source: Source, made: Rows, chosen: CommandOptions): string {
  if (chosen.format === 'json') return asJson(source, made, chosen);
  const { table, folds } = made;
  const { columns, delimiter, first, form, decimals, head } = chosen;
  const shape = { columns, delimiter, form, decimals, head, first: folds ? ('takes' as const) : first };
  return tableToCsv(source.rig, source.mechanism, table, { ...shape, ...(folds && { folds }) });
}

const kilo = (bytes: number): string => (bytes / 1000).toFixed(1);
/** Rows that tell how long a text will be. */
const LOOKS = 200;
function textBytes(source: Source, made: Rows, chosen: CommandOptions): number {
  const { length } = made.table.timeS;
  const looks = Math.min(length, LOOKS);
  const some = Array.from({ length: looks }, (_, k) => Math.floor((k * length) / looks));
  const bytes = (kept: readonly number[]): number =>
    new TextEncoder().encode(textOf(source, { ...made, table: rowsOf(made.table, kept) }, chosen)).length;
  const none = bytes([]);
  return none + ((bytes(some) - none) * length) / looks;
}

/** Of a header: forms with fractions, and loops kept once, are none of it. */
const headerOf = ({ rows, rateHz, form, packed }: CommandOptions): HeaderOptions => ({
  rateHz: rows === 'all' ? rateHz : null,
  form: wholeForm(form),
  packed,
});
const wholeForm = (form: CommandForm): HeaderForm => (form === 'change' || form === 'driver' ? form : 'whole');

export const commands = defineExport({
  id: 'commands',
  name: 'Motor commands',
  says: 'What every motor is sent over the routine, a row a moment.',
  takes: ['routine'],
  options,
  lacks: ({ rig, mechanism, build, planned }, chosen) => {
    if (!planned?.motion.durationS) return [finding('export-no-routine', { station: 'routine' })];
    if (!commandMaps(rig, mechanism, build).length) return [finding('export-no-motors', { station: 'motors' })];
    if (chosen.format === 'h' && wholeForm(chosen.form) !== chosen.form)
      return [finding('table-not-whole', { station: 'hand-off' })];
    if (chosen.format === 'h' && chosen.rows === 'folded')
      return [finding('table-not-folded', { station: 'hand-off' })];
    const got = countOf(planned, chosen);
    return got > MAX_ROWS ? [finding('table-too-long', { station: 'hand-off' }, { got, max: MAX_ROWS })] : [];
  },
  notes: (source, chosen) => {
    const made = commandRows(source, chosen);
    if (!made) return [];
    const { table, folds } = made;
    const rows = `${table.timeS.length} rows`;
    const again = folds?.length ? `; stretches that come again: ${folds.length}` : '';
    return chosen.format === 'h'
      ? [`${rows} for a program of your own, ${headerBytes(table, headerOf(chosen))} bytes of its flash.`]
      : [`About ${kilo(textBytes(source, made, chosen))} kB${again}.`];
  },
  write: (source, chosen) => {
    const made = commandRows(source, chosen);
    if (!made) return [];
    const { format, rows, rateHz } = chosen;
    const { id, name: title } = source.planned!.routine;
    const pace = rows === 'poses' || rows === 'folded' ? rows : `${rateHz}hz`;
    const name = fileName(source.rigId, `${id}-commands-${pace}`, format);
    const { table } = made;
    if (format === 'h')
      return [{ name, mediaType: 'text/x-c++src', text: tableToHeader(source.rig, table, title, headerOf(chosen)) }];
    const mediaType = format === 'json' ? 'application/json' : 'text/csv';
    return [{ name, mediaType, text: textOf(source, made, chosen) }];
  },
});
