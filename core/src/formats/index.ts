export * from './drawing';
export * from './command-table';
export * from './dh-text';
