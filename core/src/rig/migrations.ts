/**
 * migrations[n] turns a document of version n into one of version n + 1: pure, total on any document that once passed
 * its version's schema. Version 1 is the first; each later one keeps a sample of its predecessor under samples/.
 */
export const migrations: Record<number, (document: unknown) => unknown> = {};
