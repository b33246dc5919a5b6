export * from './drawing';
export * from './command-table';
