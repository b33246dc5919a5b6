export * from './messages';
export * from './finding';
