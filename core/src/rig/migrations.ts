/**
 * migrations[n] turns a document of version n into one of version n + 1: pure, total on any document that once passed
 * its version's schema. A sample of each older version is kept under samples/ and read by the tests.
 *
 * 1 → 2: new keys with defaults only (rotary delta, named frames, wheels, solids, cables, limits while another joint is
 * past a value, code names, tool times and friction, planes).
 * 2 → 3: new kinds of drives and transmissions, figures of drives.
 */
type Document = Record<string, unknown>;

export const migrations: Record<number, (document: Document) => Document> = {
  1: (document) => ({ ...document, version: 2 }),
  2: (document) => ({ ...document, version: 3 }),
};
