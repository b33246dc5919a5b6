export * from './grid';
export * from './map';
