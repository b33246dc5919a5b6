/** The catalogue of what leaves the program as a file. A new one is a folder here and a line in this list. */
import { commands } from './commands';
import { dh } from './dh';
import { drawing } from './drawing';
import { firmware } from './firmware';
import { rig } from './rig';
import { sentences } from './sentences';
import { wiring } from './wiring';
import type { Export } from './export';

export const exportList: readonly Export[] = [commands, firmware, drawing, wiring, dh, sentences, rig];
export const exportOf = (id: string): Export | undefined => exportList.find((made) => made.id === id);

export * from './export';
export * from './options';
export { commandRows, commandsOf, type CommandOptions } from './commands';
export { dhHead, dhOf, dhToText } from './dh';
export { wiringSheets } from './wiring';
export { exportsFindings } from './findings';
