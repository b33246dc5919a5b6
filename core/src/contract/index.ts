export * from './messages';
export * from './finding';
export * from './http';
export * from './run';
export * from './inputs';
