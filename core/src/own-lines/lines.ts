/** Lines of values, as text. */
import type { LineMotor, MotorPlace } from './motors';
import { fill, LINE_ENDS, names, type FieldValues, type LineTemplate, type Parts } from './template';

/** Driver counts of 12 bits in a µs, at 50 frames a second. */
export const COUNTS_PER_US = (4096 * 50) / 1e6;

/** Which motor a text is about: its number on the board, from 1 on in the order of the line, and its name in code. */
export const motorFields = ({ channel, id }: Pick<LineMotor, 'channel' | 'id'>, k: number): FieldValues => ({
  ...{ channel, no: k + 1, id },
});
/** What is said of each motor. */
export const motorTexts = (parts: Parts, motors: readonly LineMotor[], places: readonly MotorPlace[]): string[] =>
  motors.map((motor, k) => {
    const { native, joint } = places[k];
    return fill(parts.each, {
      ...motorFields(motor, k),
      ...{ value: native, counts: native * COUNTS_PER_US, joint: joint?.inUnit ?? 0, rad: joint?.si ?? 0 },
    });
  });
/** A line of what is said of motors. `line`: ms to the next one, how many there were, and ms since the begin. */
export const valuesLine = (
  { separator }: LineTemplate,
  parts: Parts,
  texts: readonly string[],
  line: { readonly ms: number; readonly line: number; readonly time: number },
): string => fill(parts.head, line) + texts.join(separator) + fill(parts.tail, line);

/** One line for each of the motors, each text once. */
export const linesFor = (
  parts: Parts['on'],
  motors: readonly (readonly [motor: Pick<LineMotor, 'channel' | 'id'>, k: number])[],
  more: FieldValues = {},
): string[] =>
  [...new Set(motors.map(([motor, k]) => fill(parts, { ...motorFields(motor, k), ...more })))].filter(Boolean);

/** Bits a second that lines of this length take: ten for each byte of a serial line. */
export const lineBaud = ({ perS, end }: LineTemplate, letters: number): number =>
  10 * perS * (letters + LINE_ENDS[end].length);

/** What goes over the line as motors come on at these places, and as they go off. */
export function previewLines(
  template: LineTemplate,
  parts: Parts,
  motors: readonly LineMotor[],
  places: readonly MotorPlace[],
): { readonly on: string[]; readonly values: string; readonly off: string[] } {
  const numbered = motors.map((motor, k) => [motor, k] as const);
  const line = { ms: 1000 / template.perS, line: 0, time: 0 };
  return {
    on: linesFor(parts.on, numbered),
    values: valuesLine(template, parts, motorTexts(parts, motors, places), line),
    off: linesFor(parts.off, numbered),
  };
}
/** Whether each line names all motors, since none says which it is about. */
export const namesAll = (parts: Parts): boolean => !names(parts.each);
