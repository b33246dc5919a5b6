/**
 * Codes with the sentence people read. Every subject defines its own; call sites name a code and give the figures that its sentence
 * asks for, and nobody writes a sentence anywhere else.
 *
 * In a sentence `{name}` is filled from the data; `{name:mm}` and its like format a number with its unit; `{name:u}` takes the unit from
 * the data's own `unit` (° or mm).
 */
import { formatAmount, formatNumber } from '../units/quantity';

/** stop: cannot be run; look: wants a look before a run; note: worth knowing. */
export type Severity = 'stop' | 'look' | 'note';
export type Data = Readonly<Record<string, string | number>>;

export interface Entry<T extends string = string, R extends string = string> {
  readonly severity: Severity;
  readonly text: T;
  /** HTTP status where the code is an error of a call. */
  readonly status?: number;
  readonly remedy?: R;
}
export type Entries = Readonly<Record<string, Entry>>;

export const entry = <const T extends string, const R extends string = never>(
  severity: Severity,
  text: T,
  remedy?: R,
): Entry<T, R> => ({ severity, text, ...(remedy === undefined ? {} : { remedy }) });
export const error = <const T extends string, const R extends string = never>(
  status: number,
  text: T,
  remedy?: R,
): Entry<T, R> => ({ ...entry('stop', text, remedy), status });

/** What stands between the braces of a sentence. */
type Fields<T extends string> = T extends `${string}{${infer Field}}${infer Rest}` ? Field | Fields<Rest> : never;
type NameIn<Field> = Field extends `${infer Name}:${string}` ? Name : Field;
type Amounts<Field> = Field extends `${infer Name}:${string}` ? Name : never;
type Figures<Field extends string> = {
  readonly [Name in NameIn<Field> & string]: Name extends Amounts<Field> ? number : string | number;
} & (Extract<Field, `${string}:u`> extends never ? unknown : { readonly unit: string });
type FieldsOf<E> = E extends Entry<infer T, infer R> ? Fields<T> | Fields<R> : never;
type Left<E, But extends string> = Exclude<FieldsOf<E>, But | `${But}:${string}`>;
/** The figures that a code's sentence and remedy ask for, but for what is given apart; more may be given, for those who mend it. */
export type Needs<E, But extends string = never> = [Left<E, But>] extends [never]
  ? [data?: Data]
  : [data: Figures<Left<E, But>> & Data];
/** A code of a catalogue with its figures, but for what is given later. */
export type Saying<E extends Entries, But extends string = never> = {
  [C in keyof E & string]: { readonly code: C; readonly data: Figures<Left<E[C], But>> & Data };
}[keyof E & string];

const formats: Record<string, (v: number) => string> = {
  mm: (v) => `${formatAmount(v)} mm`,
  deg: (v) => `${formatAmount(v)}°`,
  degps: (v) => `${formatNumber(v, 0)}°/s`,
  us: (v) => `${formatNumber(v, 0)} µs`,
  s: (v) => `${formatNumber(v, 2)} s`,
  n0: (v) => formatNumber(v, 0),
  n1: (v) => formatNumber(v, 1),
  n3: (v) => formatNumber(v, 3),
};

let isStrict = false;
/** For tests: a sentence whose figure was not given is an error there; for people it has a question mark in its place. */
export const strictSentences = (): void => void (isStrict = true);

/** Most signs of a text within a sentence. */
const LONGEST = 600;

/** A sentence with its data filled in. */
export function filled(text: string, data: Data): string {
  return text.replace(/\{(\w+)(?::(\w+))?\}/g, (_, name: string, format?: string) => {
    const value = data[name];
    if (isStrict && value === undefined) throw new Error(`“${text}” was said without its ${name}`);
    // Texts that somebody wrote stay in their sentence.
    if (typeof value !== 'number')
      return String(value ?? '?')
        .replace(/\p{Cc}+/gu, ' ')
        .slice(0, LONGEST);
    if (format === 'u') return data.unit === 'mm' ? formats.mm(value) : formats.deg(value);
    return format ? formats[format](value) : formatNumber(value, 3);
  });
}
