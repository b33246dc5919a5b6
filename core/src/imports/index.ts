/** The catalogue of what comes into a rig as text. A new one is a file here and a line in this list. */
import { dh } from './dh';
import type { Import } from './import';
import { points } from './points';
import { sentences } from './sentences';

export const importList: readonly Import[] = [points, sentences, dh];
export const importOf = (id: string): Import | undefined => importList.find((made) => made.id === id);

export type { Import, Reading } from './import';
export * from './dh';
export * from './points';
export { importsFindings } from './findings';
