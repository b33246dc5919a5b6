export * from './dynamics';
export * from './tip';
export * from './demand';
export * from './seats';
export * from './loading';
export * from './worst';
export * from './pace';
export * from './along';
