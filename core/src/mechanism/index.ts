export * from './compile';
export * from './values';
