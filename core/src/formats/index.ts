export * from './drawing';
export * from './command-table';
export * from './dh-text';
export * from './points-text';
export * from './map-csv';
export * from './figure-sheet';
export * from './wiring-sheet';
export * from './routine-text';
