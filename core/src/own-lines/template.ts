/**
 * Lines of a builder's own: a text with fields in braces, as firmware that somebody wrote themselves reads it. A field is
 * `{name}`, `{name*factor+offset}`, and behind a colon how it is written: `{joint:.1}` one decimal, `{value:04}` four digits with zeros in
 * front. `{{` and `}}` are braces.
 */

/** What a field may stand for, by where it stands. */
const ofMotor = ['channel', 'no', 'id'] as const;
const ofValue = ['value', 'counts', 'joint', 'rad'] as const;
const ofLine = ['ms', 'line', 'time'] as const;
type FieldName = (typeof ofMotor)[number] | (typeof ofValue)[number] | (typeof ofLine)[number] | 'level';

export interface Field {
  readonly name: FieldName;
  readonly factor: number;
  readonly offset: number;
  /** Digits at least, zeros in front; 0: as many as there are. */
  readonly width: number;
  readonly decimals: number;
}
/** Text as it stands, and fields. */
export type Part = string | Field;

export interface LineTemplate {
  /** Of a line of values: before them, for each motor, between two, and behind them. */
  readonly head: string;
  readonly each: string;
  readonly separator: string;
  readonly tail: string;
  readonly end: 'lf' | 'crlf' | 'cr';
  /** Lines of values in a second. */
  readonly perS: number;
  /** Only motors of which the text has changed; no line where none has. */
  readonly changedOnly: boolean;
  /** What an answer begins with: no further line of values goes before it. Empty: nothing answers. */
  readonly reply: string;
  /** A line for each motor that is switched on, that is let go, and for each output that is switched; empty: nothing is said. */
  readonly on: string;
  readonly off: string;
  readonly output: string;
  /** A line as the arm is frozen, after the last values; empty: these are all. */
  readonly halt: string;
}
/** Texts of a template with the fields that each may hold. */
export const templateTexts = {
  head: ofLine,
  each: [...ofMotor, ...ofValue],
  separator: [],
  tail: ofLine,
  on: ofMotor,
  off: ofMotor,
  output: [...ofMotor, 'level'],
  halt: ofLine,
} as const satisfies Partial<Record<keyof LineTemplate, readonly FieldName[]>>;
export type TemplateText = keyof typeof templateTexts;

export const usualTemplate: LineTemplate = {
  ...{ head: 'P ', each: '{channel}:{value}', separator: ' ', tail: '', end: 'lf', perS: 50, changedOnly: false },
  ...{ reply: '', on: '', off: '', output: '', halt: '' },
};
export const LINE_ENDS = { lf: '\n', crlf: '\r\n', cr: '\r' } as const;
/** Decimals of a field that says nothing of them. */
const usualDecimals: Partial<Record<FieldName, number>> = { joint: 2, rad: 4 };

const FIELD = /^([a-z]+)(?:\*(-?\d{1,6}(?:\.\d{1,6})?))?([+-]\d{1,6}(?:\.\d{1,6})?)?(?::(?:0(\d))?(?:\.(\d))?)?$/;

export type Read<T> = { readonly ok: true; readonly value: T } | { readonly ok: false; readonly message: string };
const bad = (message: string): Read<never> => ({ ok: false, message });

/** Text and fields of one text of a template; or, in one sentence, what is wrong where. */
export function readText(text: string, allowed: readonly FieldName[]): Read<readonly Part[]> {
  const parts: Part[] = [];
  const literal = (letters: string): void => {
    if (typeof parts.at(-1) === 'string') parts[parts.length - 1] += letters;
    else parts.push(letters);
  };
  for (let k = 0; k < text.length;) {
    const two = text.slice(k, k + 2);
    if (two === '{{' || two === '}}') {
      literal(two[0]);
      k += 2;
    } else if (text[k] === '}') return bad(`letter ${k + 1} of “${text}” closes a field that none opens`);
    else if (text[k] === '{') {
      const end = text.indexOf('}', k);
      if (end < 0) return bad(`the field that letter ${k + 1} of “${text}” opens has no end`);
      const inside = text.slice(k + 1, end);
      const field = readField(inside);
      if (!field) return bad(`{${inside}} is no field: {joint}, {joint*2+90} and {joint:.1} are`);
      if (!allowed.includes(field.name))
        return bad(
          allowed.length
            ? `{${field.name}} has no meaning here; ${allowed.map((name) => `{${name}}`).join(', ')} have`
            : `{${field.name}} has no meaning here: it is text alone`,
        );
      parts.push(field);
      k = end + 1;
    } else literal(text[k++]);
  }
  for (const [k, part] of parts.entries()) {
    const next = parts[k + 1];
    if (typeof part !== 'string' && next !== undefined && typeof next !== 'string' && !part.width)
      return bad(`nothing stands between {${part.name}} and {${next.name}}: nobody could tell where one ends`);
  }
  return { ok: true, value: parts };
}
function readField(inside: string): Field | null {
  const found = FIELD.exec(inside);
  if (!found) return null;
  const [, name, factor = '1', offset = '0', width = '0', decimals] = found;
  const known: readonly string[] = [...ofMotor, ...ofValue, ...ofLine, 'level'];
  if (!known.includes(name)) return null;
  const is = name as FieldName;
  const plain = is === 'id' && (found[2] ?? found[3] ?? found[4] ?? found[5]) !== undefined;
  if (plain || Number(factor) === 0) return null;
  return {
    ...{ name: is, factor: Number(factor), offset: Number(offset), width: Number(width) },
    decimals: decimals === undefined ? (usualDecimals[is] ?? 0) : Number(decimals),
  };
}

/** The parts of all texts of a template. */
export type Parts = Readonly<Record<TemplateText, readonly Part[]>>;
/** Parts of a template; or the first fault: in which of its texts, and what, one sentence without its beginning. */
export function readTemplate(
  template: LineTemplate,
):
  | { readonly ok: true; readonly value: Parts }
  | { readonly ok: false; readonly at: TemplateText; readonly message: string } {
  const parts: Partial<Record<TemplateText, readonly Part[]>> = {};
  for (const at of Object.keys(templateTexts) as TemplateText[]) {
    const read = readText(template[at], templateTexts[at]);
    if (!read.ok) return { ok: false, at, message: read.message };
    parts[at] = read.value;
  }
  const whole = parts as Parts;
  const fault = (at: TemplateText, message: string) => ({ ok: false, at, message }) as const;
  const { each } = whole;
  if (!each.some((part) => typeof part !== 'string' && isValue(part)))
    return fault('each', 'one of {value}, {counts}, {joint}, {rad} has to say where the motor is to be');
  if (template.changedOnly && !names(each))
    return fault('each', '{channel}, {no} or {id} has to say which motor it is where only what has changed is sent');
  const [first, last] = [each[0], each.at(-1)!];
  if (!template.separator && typeof first !== 'string' && typeof last !== 'string' && !last.width)
    return fault('separator', 'nothing stands between two motors: nobody could tell where one ends');
  return { ok: true, value: whole };
}
const isValue = ({ name }: Field): boolean => (ofValue as readonly string[]).includes(name);
/** Whether a text says which motor it is about. */
export const names = (parts: readonly Part[]): boolean =>
  parts.some((part) => typeof part !== 'string' && (ofMotor as readonly string[]).includes(part.name));

/** What fields stand for; numbers before factor and offset. */
export type FieldValues = Partial<Record<FieldName, number | string>>;
/** A text with its fields filled in. */
export const fill = (parts: readonly Part[], values: FieldValues): string =>
  parts.map((part) => (typeof part === 'string' ? part : fieldText(part, values[part.name] ?? 0))).join('');
function fieldText({ factor, offset, width, decimals }: Field, value: number | string): string {
  if (typeof value === 'string') return value;
  const text = (value * factor + offset).toFixed(decimals);
  const [sign, digits] = text.startsWith('-') ? ['-', text.slice(1)] : ['', text];
  // No minus before what is rounded to nothing.
  return (/[1-9]/.test(digits) ? sign : '') + digits.padStart(width - (sign ? 1 : 0), '0');
}
