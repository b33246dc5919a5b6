export * from './convert';
export * from './quantity';
