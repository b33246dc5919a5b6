/** Pieces of a data header. */

/** A name inside of a comment: nothing that ends it, one line. */
export const inComment = (name: string): string =>
  name
    .replace(/\*\//g, '* /')
    .replace(/[\r\n\\]+/g, ' ')
    .replace(/\?\?/g, '? ?');
/** A table of C; an empty one has a place all the same. */
export const rows = (list: readonly string[]): string =>
  list.length ? `\n${list.map((row) => `  ${row}`).join('\n')}\n` : '{}';
export const numbers = (list: readonly number[]): string => `{${list.join(', ')}},`;
