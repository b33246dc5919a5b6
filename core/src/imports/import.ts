/** What an import is: it reads a text and says what it would change in a rig, before anything is changed. */
import type { z } from 'zod';
import type { Rig } from '../rig';

/** What was understood of a text. */
export interface Reading {
  /** One sentence each; as long as there is one, nothing is taken in. */
  readonly problems: readonly string[];
  /** What is in it, in a few words: “12 spots”. */
  readonly summary: string;
  /** What the edit is called, for undo. */
  readonly label: string;
  /** The edit of the rig that takes it in; null where there is a problem. */
  readonly edit: ((draft: Rig) => void) | null;
}

export interface ImportOf<O extends z.ZodObject> {
  readonly id: string;
  readonly name: string;
  /** One sentence: what it reads and what becomes of it. */
  readonly says: string;
  /** Endings of files, with their dot. */
  readonly endings: readonly string[];
  /** A text to begin from. */
  readonly example: string;
  readonly options: O;
  readonly read: (text: string, rig: Rig, options: z.output<O>) => Reading;
}
/** An import whose options are parsed before they are used. */
export interface Import extends Omit<ImportOf<z.ZodObject>, 'read'> {
  readonly read: (text: string, rig: Rig, options?: unknown) => Reading;
}

export const defineImport = <O extends z.ZodObject>(made: ImportOf<O>): Import => ({
  ...made,
  read: (text, rig, options = {}) => made.read(text, rig, made.options.parse(options)),
});

/** Nothing is taken in. */
export const unread = (problems: readonly string[], summary = ''): Reading => ({
  ...{ problems, summary, label: '', edit: null },
});

/** “1 spot”, “12 spots”. */
export const counted = (count: number, one: string, many = `${one}s`): string =>
  `${count} ${count === 1 ? one : many}`;
