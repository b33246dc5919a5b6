export * from './define';
export * from './finding';
export { general } from './general';
export * from './stations';
