/**
 * What an export is: a name, options, what it is made from and what must be there for it. The Hand-off page makes its list, its option
 * forms and its previews of this, and the calls for scripts offer the same.
 */
import type { z } from 'zod';
import type { Admitted } from '../admit';
import type { Finding } from '../findings';
import type { Motion } from '../motion';
import type { Routine } from '../rig';
import type { Plan } from '../routine';

/** A routine as it is planned, and what motors are told over it. */
export interface Planned {
  readonly routine: Routine;
  readonly plan: Plan;
  readonly motion: Motion;
}
/** What exports are made from. */
export interface Source extends Admitted {
  /** What files are called after: the rig's id on the shelf. */
  readonly rigId: string | null;
  /** Which saved revision of it this is; left out: none. */
  readonly revision?: number;
  /** The pose on show: slots in SI. */
  readonly q: Float64Array;
  /** The routine on show; null where there is none. */
  readonly planned: Planned | null;
}
export interface ExportFile {
  readonly name: string;
  readonly mediaType: string;
  readonly text: string;
}

export interface ExportOf<O extends z.ZodObject> {
  readonly id: string;
  readonly name: string;
  /** One sentence: what it is for. */
  readonly says: string;
  /** Beside the rig. */
  readonly takes: readonly ('pose' | 'routine')[];
  /** Fields with a default each, and words for them; see {@link optionFields}. */
  readonly options: O;
  /** What is missing for it: where anything is, nothing is written. */
  readonly lacks: (source: Source, options: z.output<O>) => Finding[];
  /** Sentences about what is written, such as how much room it takes; called where nothing is missing. */
  readonly notes?: (source: Source, options: z.output<O>) => readonly string[];
  /** Called where nothing is missing. */
  readonly write: (source: Source, options: z.output<O>) => readonly ExportFile[];
}
/** An export whose options are parsed before they are used. */
export interface Export {
  readonly id: string;
  readonly name: string;
  readonly says: string;
  readonly takes: readonly ('pose' | 'routine')[];
  readonly options: z.ZodObject;
  /** `options`: anything; what does not pass the schema throws its error. */
  readonly lacks: (source: Source, options: unknown) => Finding[];
  readonly notes: (source: Source, options: unknown) => readonly string[];
  /** Nothing where anything is missing. */
  readonly write: (source: Source, options: unknown) => readonly ExportFile[];
}

export const defineExport = <O extends z.ZodObject>(made: ExportOf<O>): Export => ({
  ...made,
  lacks: (source, options) => made.lacks(source, made.options.parse(options)),
  notes: (source, options) => {
    const parsed = made.options.parse(options);
    return made.lacks(source, parsed).length ? [] : (made.notes?.(source, parsed) ?? []);
  },
  write: (source, options) => {
    const parsed = made.options.parse(options);
    return made.lacks(source, parsed).length ? [] : made.write(source, parsed);
  },
});
