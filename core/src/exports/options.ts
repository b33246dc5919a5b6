/** The options of an export or import as fields of a form, from their schema. */
import { z } from 'zod';

/** Lists of the rig that a choice may be among. */
export type ListName = 'tools' | 'boards' | 'inputs' | 'sticks';
/** Words that a schema's fields carry for people, by `.meta()`. */
export interface OptionWords {
  readonly title: string;
  /** Of choices: what each value is called. */
  readonly titles?: Readonly<Record<string, string>>;
  /** A choice among a list of the rig instead of fixed values; the first one where nothing is chosen. */
  readonly of?: ListName;
  /** Shown only while other options are so, or one of these. */
  readonly when?: Readonly<Record<string, unknown>>;
  /** Of numbers: by how much the arrow keys change it. */
  readonly step?: number;
  /** Of numbers: an address of a bus, which may be typed as 0x27 too. */
  readonly isAddress?: boolean;
}
declare module 'zod' {
  interface GlobalMeta {
    titles?: Readonly<Record<string, string>>;
    of?: ListName;
    when?: Readonly<Record<string, unknown>>;
    step?: number;
    isAddress?: boolean;
  }
}

interface Common {
  readonly key: string;
  readonly title: string;
  readonly when?: Readonly<Record<string, unknown>>;
}
export type OptionField = Common &
  (
    | { readonly kind: 'choice'; readonly choices: readonly { readonly value: string; readonly label: string }[] }
    | { readonly kind: 'one-of'; readonly of: ListName }
    | {
        readonly kind: 'number';
        readonly min: number;
        readonly max: number;
        readonly step: number;
        readonly isAddress: boolean;
      }
    | { readonly kind: 'yes-no' }
  );

/** As JSON Schema says them, which is what a script is told too. */
export const optionsSchema = (options: z.ZodObject): z.core.JSONSchema.JSONSchema =>
  z.toJSONSchema(options, { io: 'input' });

export const defaultsOf = (options: z.ZodObject): Readonly<Record<string, unknown>> => options.parse({});

/** What was chosen of them; the defaults where that is no choice of these options (any more). */
export function optionsOf(options: z.ZodObject, chosen: unknown): Readonly<Record<string, unknown>> {
  const own = options.safeParse(chosen);
  return own.success ? own.data : defaultsOf(options);
}

export function optionFields(options: z.ZodObject): OptionField[] {
  return Object.entries(optionsSchema(options).properties ?? {}).map(([key, field]): OptionField => {
    if (typeof field === 'boolean') throw new Error(`option “${key}” has no type`);
    const { title, titles, of, step, when, isAddress = false } = field as typeof field & Partial<OptionWords>;
    const common = { key, title: title ?? key, ...(when ? { when } : {}) };
    if (of) return { ...common, kind: 'one-of', of };
    if (field.enum)
      return {
        ...common,
        kind: 'choice',
        choices: field.enum.map((value) => ({
          value: String(value),
          label: titles?.[String(value)] ?? String(value),
        })),
      };
    if (field.type === 'boolean') return { ...common, kind: 'yes-no' };
    if (field.type === 'number' || field.type === 'integer')
      return { ...common, kind: 'number', min: field.minimum!, max: field.maximum!, step: step ?? 1, isAddress };
    throw new Error(`option “${key}” has a type that no field is for`);
  });
}

/** Fields that count while options are as they are. */
export const fieldsWhile = (
  fields: readonly OptionField[],
  values: Readonly<Record<string, unknown>>,
): readonly OptionField[] =>
  fields.filter(({ when }) =>
    Object.entries(when ?? {}).every(([key, value]) =>
      Array.isArray(value) ? value.includes(values[key]) : values[key] === value,
    ),
  );
