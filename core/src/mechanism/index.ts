export * from './mechanism';
export { frameToSi, siPerUnitOf } from './convert';
export * from './compile';
export * from './values';
export * from './dh';
export * from './delta';
