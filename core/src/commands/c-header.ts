/** A table of commands as a header of C, for a program of one's own. */
import type { Rig } from '../rig';
import { columnHead } from './csv';
import { formOf, type CommandForm } from './forms';
import { pack } from './pack';
import type { CommandTable } from './table';

const widths = [
  { bits: 8, most: 127 },
  { bits: 16, most: 32_767 },
  { bits: 32, most: 2 ** 31 - 1 },
] as const;

/** Forms with fractions are none of a header. */
export type HeaderForm = Extract<CommandForm, 'whole' | 'change' | 'driver'>;
export interface HeaderOptions {
  /** Rows a second; null: they come when their own times say. */
  readonly rateHz: number | null;
  readonly form?: HeaderForm;
  /** Changes of changes in bytes, with what reads them; otherwise plain rows. */
  readonly packed?: boolean;
}

/** Whole values begin anew after so many rows of a packed table. */
const RESTART = 200;

interface Columns {
  readonly columns: readonly Int32Array[];
  readonly bits: 8 | 16 | 32;
  readonly packed: Uint8Array | null;
}
function columnsOf(
  { natives, maps, timeS }: CommandTable,
  { form = 'whole', packed = false }: HeaderOptions,
): Columns {
  const columns = maps.map((map, k) => {
    const { of } = formOf(map, form);
    return Int32Array.from(timeS, (_, row) => of(natives[k], row));
  });
  const most = columns.reduce((far, numbers) => numbers.reduce((m, value) => Math.max(m, Math.abs(value)), far), 0);
  return {
    columns,
    bits: widths.find((width) => most <= width.most)?.bits ?? 32,
    packed: packed ? pack({ columns, levels: new Uint32Array(timeS.length) }, RESTART) : null,
  };
}

/** Bytes of flash that the table of such a header takes. */
export const headerBytes = (table: CommandTable, options: HeaderOptions): number =>
  bytesOf(table, columnsOf(table, options), options);
const bytesOf = ({ timeS }: CommandTable, { columns, bits, packed }: Columns, { rateHz }: HeaderOptions): number =>
  (rateHz === null ? 4 * timeS.length : 0) + (packed?.length ?? (timeS.length * columns.length * bits) / 8);

/** Rows, a column a motor, in flash where the platform knows what that is. `title`: stands in a comment. */
export function tableToHeader(
  rig: Pick<Rig, 'boards'>,
  table: CommandTable,
  title: string,
  options: HeaderOptions,
): string {
  const { timeS, maps } = table;
  const { rateHz, form = 'whole' } = options;
  const made = columnsOf(table, options);
  const { columns, bits, packed } = made;
  const inComment = (text: string): string => text.replace(/[\r\n\\]+/g, ' ').replace(/\?\?/g, '? ?');
  const bytes = bytesOf(table, made, options);
  const pace = rateHz === null ? 'each at its own time' : `${rateHz} a second`;
  const counts = [`COMMAND_ROWS = ${timeS.length}`, `COMMAND_COLUMNS = ${maps.length}`];
  return [
    `// ${inComment(title)}: ${timeS.length} rows, ${pace}, ${bytes} bytes.`,
    '// Columns:',
    ...maps.map((map, k) => `//   ${k}: ${inComment(columnHead(rig, map, form))}`),
    '#pragma once',
    '#include <stdint.h>',
    '#ifndef PROGMEM',
    '#define PROGMEM',
    '#define pgm_read_byte(at) (*(const uint8_t*)(at))',
    '#endif',
    '',
    `enum { ${[...counts, ...(rateHz === null ? [] : [`COMMAND_RATE_HZ = ${rateHz}`])].join(', ')} };`,
    ...(rateHz === null
      ? [
          '// When each row is, in milliseconds.',
          `static const uint32_t COMMAND_MS[COMMAND_ROWS] PROGMEM = {${listed([...timeS].map((t) => Math.round(t * 1000)))}};`,
        ]
      : []),
    ...(packed
      ? [`static const uint8_t COMMANDS[] PROGMEM = {${listed([...packed])}};`, reader]
      : [
          `static const int${bits}_t COMMANDS[COMMAND_ROWS][COMMAND_COLUMNS] PROGMEM = {`,
          ...Array.from(timeS, (_, row) => `  {${columns.map((numbers) => numbers[row]).join(', ')}},`),
          '};',
        ]),
    '',
  ].join('\n');
}
const PER_LINE = 24;
const listed = (list: readonly number[]): string =>
  `\n${Array.from({ length: Math.ceil(list.length / PER_LINE) }, (_, k) => `  ${list.slice(k * PER_LINE, (k + 1) * PER_LINE).join(', ')},`).join('\n')}\n`;

/** What reads a packed table, in C. */
const reader = `
// Row by row: CommandReader r = {}; while (commands_next(&r)) … r.now[column]
typedef struct {
  uint32_t at, row;
  uint8_t steady;
  int32_t now[COMMAND_COLUMNS], change[COMMAND_COLUMNS];
} CommandReader;
static inline uint32_t commands_number(CommandReader *r) {
  uint32_t value = 0;
  uint8_t shift = 0, byte;
  do {
    byte = pgm_read_byte(&COMMANDS[r->at++]);
    value |= (uint32_t)(byte & 127) << shift;
    shift = (uint8_t)(shift + 7);
  } while (byte & 128);
  return value;
}
static inline int32_t commands_signed(CommandReader *r) {
  const uint32_t value = commands_number(r);
  return (int32_t)(value >> 1) ^ -(int32_t)(value & 1);
}
// 0: none is left.
static inline uint8_t commands_next(CommandReader *r) {
  uint16_t k;
  if (r->row >= COMMAND_ROWS) return 0;
  if (r->row++ % ${RESTART} == 0) {
    for (k = 0; k < COMMAND_COLUMNS; k++) {
      r->now[k] = commands_signed(r);
      r->change[k] = 0;
    }
    r->at++;
    r->steady = 0;
    return 1;
  }
  if (!r->steady) {
    r->steady = pgm_read_byte(&COMMANDS[r->at++]);
    if (!r->steady) {
      for (k = 0; k < COMMAND_COLUMNS; k++) r->change[k] += commands_signed(r);
      r->at++;
      r->steady = 1;
    }
  }
  r->steady--;
  for (k = 0; k < COMMAND_COLUMNS; k++) r->now[k] += r->change[k];
  return 1;
}`;
