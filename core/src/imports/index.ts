/** The catalogue of what comes into a rig as text. A new one is a file or folder here and a line in this list. */
import { dh } from './dh';
import type { Import } from './import';
import { parts } from './parts';
import { points } from './points';
import { sentences } from './sentences';

export const importList: readonly Import[] = [points, sentences, parts, dh];
export const importOf = (id: string): Import | undefined => importList.find((made) => made.id === id);

export type { Import, Reading } from './import';
export * from './dh';
export * from './points';
export { importsFindings } from './findings';
