/** What the motors are sent over a routine, moment by moment. */
import { z } from 'zod';
import { commandMaps, unitOf } from '../../actuators';
import {
  commandTable,
  headerBytes,
  MAX_ROWS,
  onlyChanges,
  tableToCsv,
  tableToHeader,
  type CommandTable,
} from '../../commands';
import { fileName } from '../../rig';
import { defineExport, type Source } from '../export';
import { finding } from '../findings';

const options = z.strictObject({
  rateHz: z.number().min(1).max(1000).default(50).meta({ title: 'Rows a second', step: 10 }),
  columns: z
    .enum(['both', 'commands', 'joints'])
    .default('both')
    .meta({
      title: 'Columns',
      description: 'beside the time',
      titles: { both: 'both', commands: 'commands', joints: 'joints' },
      when: { format: ['csv', 'json'] },
    }),
  format: z
    .enum(['csv', 'json', 'h'])
    .default('csv')
    .meta({ title: 'Kind of file', titles: { csv: 'CSV', json: 'JSON', h: 'C header' } }),
  rows: z
    .enum(['all', 'changed'])
    .default('all')
    .meta({
      title: 'Rows',
      description: 'of CSV and JSON: all, or those in which a motor is told something else',
      titles: { all: 'all', changed: 'only what changes' },
      when: { format: ['csv', 'json'] },
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
});

/** The table of a routine's commands; null where something is missing for it. */
export function commandsOf({ rig, mechanism, build, planned }: Source, rateHz: number): CommandTable | null {
  if (!planned?.motion.durationS || rowsOf(planned.motion.durationS, rateHz) > MAX_ROWS) return null;
  // Those on no pin too: they may hang on a board that is not here.
  const all = commandMaps(rig, mechanism, build);
  return all.length ? commandTable(mechanism, all, planned.motion, rateHz) : null;
}
const rowsOf = (durationS: number, rateHz: number): number => Math.ceil(durationS * rateHz);

function asJson({ mechanism }: Source, table: CommandTable, columns: z.output<typeof options>['columns']): string {
  const motors = Object.fromEntries(table.maps.map(({ drive: { id } }, k) => [id, [...table.natives[k]]]));
  const joints = Object.fromEntries(table.slots.map((s, k) => [mechanism.slotIds[s], [...table.joints[k]]]));
  return JSON.stringify({
    timeS: [...table.timeS],
    units: Object.fromEntries(table.maps.map((map) => [map.drive.id, unitOf(map)])),
    ...(columns === 'joints' ? {} : { motors }),
    ...(columns === 'commands' ? {} : { joints }),
  });
}

export const commands = defineExport({
  id: 'commands',
  name: 'Motor commands',
  says: 'What every motor is sent over the routine, a row a moment.',
  takes: ['routine'],
  options,
  lacks: ({ rig, mechanism, build, planned }, { rateHz }) => {
    if (!planned?.motion.durationS) return [finding('export-no-routine', { station: 'routine' })];
    if (!commandMaps(rig, mechanism, build).length) return [finding('export-no-motors', { station: 'motors' })];
    const got = rowsOf(planned.motion.durationS, rateHz);
    return got > MAX_ROWS ? [finding('table-too-long', { station: 'hand-off' }, { got, max: MAX_ROWS })] : [];
  },
  notes: (source, { rateHz, format }) => {
    const table = format === 'h' ? commandsOf(source, rateHz) : null;
    return table
      ? [`${table.timeS.length} rows for a program of your own, ${headerBytes(table)} bytes of its flash.`]
      : [];
  },
  write: (source, { rateHz, columns, format, delimiter, rows }) => {
    const whole = commandsOf(source, rateHz);
    if (!whole) return [];
    const table = rows === 'changed' ? onlyChanges(whole) : whole;
    const name = fileName(source.rigId, `${source.planned!.routine.id}-commands-${rateHz}hz`, format);
    if (format === 'h')
      return [
        {
          name,
          mediaType: 'text/x-c++src',
          text: tableToHeader(source.rig, whole, rateHz, source.planned!.routine.name),
        },
      ];
    return format === 'csv'
      ? [
          {
            name,
            mediaType: 'text/csv',
            text: tableToCsv(source.rig, source.mechanism, table, { columns, delimiter }),
          },
        ]
      : [{ name, mediaType: 'application/json', text: asJson(source, table, columns) }];
  },
});
