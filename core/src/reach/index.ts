export * from './grid';
export * from './map';
export * from './shell';
export * from './fixes';
export * from './points';
export * from './figures';
export * from './lengths';
export * from './random';
