/** A table of commands as a header of C, for a program of one's own. */
import type { Rig } from '../rig';
import { columnHead } from './csv';
import type { CommandTable } from './table';

const INT16 = 32_767;

/** Bytes that the table of such a header has. */
export const headerBytes = (table: CommandTable): number =>
  table.timeS.length * table.maps.length * (fitsShort(table) ? 2 : 4);
const fitsShort = ({ natives }: CommandTable): boolean =>
  natives.every((numbers) => numbers.every((value) => Math.abs(value) <= INT16));

/** Rows `1 / rateHz` s apart, a column a motor, in flash where the platform knows what that is. `title`: stands in a comment. */
export function tableToHeader(rig: Pick<Rig, 'boards'>, table: CommandTable, rateHz: number, title: string): string {
  const { timeS, maps, natives } = table;
  const inComment = (text: string): string => text.replace(/[\r\n\\]+/g, ' ').replace(/\?\?/g, '? ?');
  const rows = Array.from(timeS, (_, row) => `  {${natives.map((numbers) => numbers[row]).join(', ')}},`);
  return [
    `// ${inComment(title)}: ${timeS.length} rows, ${rateHz} a second, ${headerBytes(table)} bytes.`,
    '// Columns:',
    ...maps.map((map, k) => `//   ${k}: ${inComment(columnHead(rig, map))}`),
    '#pragma once',
    '#include <stdint.h>',
    '#ifndef PROGMEM',
    '#define PROGMEM',
    '#endif',
    '',
    `enum { COMMAND_ROWS = ${timeS.length}, COMMAND_COLUMNS = ${maps.length}, COMMAND_RATE_HZ = ${rateHz} };`,
    `static const ${fitsShort(table) ? 'int16_t' : 'int32_t'} COMMANDS[COMMAND_ROWS][COMMAND_COLUMNS] PROGMEM = {`,
    ...rows,
    '};',
    '',
  ].join('\n');
}

/** The rows in which a motor is told something else than in the one before, and the first and the last. */
export function onlyChanges(table: CommandTable): CommandTable {
  const { timeS, natives, joints, spun } = table;
  const end = timeS.length - 1;
  const kept = [...timeS.keys()].filter(
    (row) => row === 0 || row === end || natives.some((numbers) => numbers[row] !== numbers[row - 1]),
  );
  const some = (values: Float64Array): Float64Array => Float64Array.from(kept, (row) => values[row]);
  return {
    ...table,
    timeS: some(timeS),
    natives: natives.map((numbers) => Int32Array.from(kept, (row) => numbers[row])),
    joints: joints.map(some),
    spun: spun.map(({ slot, speeds }) => ({ slot, speeds: some(speeds) })),
  };
}
