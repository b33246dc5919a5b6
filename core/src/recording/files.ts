/** Recordings as files, piece by piece: an hour is never in one text. */
import { csvOf } from '../units/csv';
import type { RecordingEvent, RecordingHead } from './shape';
import { Track } from './track';

const unitWord = { '°': 'deg', mm: 'mm' } as const;
/** Of the columns of a table, and of the numbers of a row in JSON. */
export const recordingColumns = ({ joints }: RecordingHead): string[] => [
  'time_s',
  'own_time_s',
  'plan_time_s',
  ...joints.map(({ id, unit }) => `${id}_commanded_${unitWord[unit]}`),
  ...joints.map(({ id, unit }) => `${id}_measured_${unitWord[unit]}`),
];
/** Values of a row in the order of the columns; null where nothing is known. */
function values(track: Track, row: number): (number | null)[] {
  const joints = [...track.head.joints.keys()];
  const known = (value: number): number | null => (Number.isNaN(value) ? null : value);
  return [
    track.atS(row),
    track.ownS(row),
    track.planS(row),
    ...joints.map((k) => track.value(row, k, 'commanded')),
    ...joints.map((k) => track.value(row, k, 'measured')),
  ].map(known);
}

/** A kind of file, made of a begin, of pieces as they come, and of an end. */
export interface RecordingFile {
  readonly mediaType: string;
  begin(head: RecordingHead, run: object, events: readonly RecordingEvent[]): string;
  /** `isFirst`: no rows stand before these. */
  rows(head: RecordingHead, rows: Int32Array, isFirst: boolean): string;
  readonly end: string;
}
export const recordingFiles: Readonly<Record<'csv' | 'json', RecordingFile>> = {
  /** RFC 4180; cells of what is not known are empty. */
  csv: {
    mediaType: 'text/csv; charset=utf-8',
    begin: (head) => csvOf(recordingColumns(head), []),
    rows(head, rows) {
      const track = new Track(head, rows);
      const text = (value: number | null, k: number): string => (value === null ? '' : value.toFixed(k < 3 ? 4 : 3));
      const table = csvOf(
        [],
        Array.from({ length: track.length }, (_, row) => values(track, row).map(text)),
      );
      return table.slice(table.indexOf('\r\n') + 2);
    },
    end: '',
  },
  /** One object: what is said of the run, the head, what happened, names of the columns, and the rows. */
  json: {
    mediaType: 'application/json; charset=utf-8',
    begin(head, run, events) {
      const begin = JSON.stringify({ run, head, events, columns: recordingColumns(head) });
      return `${begin.slice(0, -1)},"rows":[`;
    },
    rows(head, rows, isFirst) {
      const track = new Track(head, rows);
      const lines = Array.from({ length: track.length }, (_, row) => `\n${JSON.stringify(values(track, row))}`);
      return lines.length ? (isFirst ? '' : ',') + lines.join(',') : '';
    },
    end: '\n]}\n',
  },
};
