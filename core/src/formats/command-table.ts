/** The table of commands of a planned routine: for every moment the pulse of every motor and the angle it stands for. */
import Papa from 'papaparse';
import { fromUs, toWire, type ServoMap } from '../drives';
import type { Mechanism } from '../mechanism';
import { sampleBuffers, samplePlanInto, sampleTimes, type Plan } from '../routine';

export interface CommandTable {
  readonly timeS: Float64Array;
  readonly maps: readonly ServoMap[];
  /** Per map: whole pulses (µs), and the joint values (document units) that these pulses really mean. */
  readonly pulses: readonly Int32Array[];
  readonly joints: readonly Float64Array[];
}

/** Most rows a table may have. */
export const MAX_ROWS = 500_000;

export function commandTable(
  mechanism: Mechanism,
  maps: readonly ServoMap[],
  plan: Plan,
  rateHz: number,
): CommandTable {
  const timeS = sampleTimes(plan.durationS, 1 / rateHz);
  const pulses = maps.map(() => new Int32Array(timeS.length));
  const joints = maps.map(() => new Float64Array(timeS.length));
  const [p, v, a] = sampleBuffers(mechanism);
  timeS.forEach((t, row) => {
    samplePlanInto(p, v, a, plan, t);
    maps.forEach((map, k) => {
      pulses[k][row] = toWire(map, p[map.slot]);
      joints[k][row] = fromUs(map, pulses[k][row]) / mechanism.siPerUnit[map.slot];
    });
  });
  return { timeS, maps, pulses, joints };
}

export interface CsvOptions {
  readonly delimiter: ',' | ';' | '\t';
  /** Which columns beside the time. */
  readonly columns: 'pulses' | 'joints' | 'both';
}

/** RFC 4180 text with a header; times to 1 ms, joint values to 0.01. */
export function tableToCsv(mechanism: Mechanism, table: CommandTable, { delimiter, columns }: CsvOptions): string {
  const comma = delimiter === ';';
  const number = (value: number, digits: number): string =>
    comma ? value.toFixed(digits).replace('.', ',') : value.toFixed(digits);
  const unit = (map: ServoMap): string =>
    mechanism.units[mechanism.index.get(map.jointId)!] === 'mm' ? 'mm' : 'deg';
  const code = (map: ServoMap): string => mechanism.codes[mechanism.index.get(map.jointId)!];
  const wantsPulses = columns !== 'joints';
  const wantsJoints = columns !== 'pulses';
  const fields = [
    'time_s',
    ...(wantsPulses ? table.maps.map((map) => `${code(map)}_us`) : []),
    ...(wantsJoints ? table.maps.map((map) => `${code(map)}_${unit(map)}`) : []),
  ];
  const data = Array.from(table.timeS, (t, row) => [
    number(t, 3),
    ...(wantsPulses ? table.pulses.map((column) => String(column[row])) : []),
    ...(wantsJoints ? table.joints.map((column) => number(column[row], 2)) : []),
  ]);
  return Papa.unparse({ fields, data }, { delimiter, newline: '\r\n' }) + '\r\n';
}
