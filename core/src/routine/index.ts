export * from './interpret';
export * from './plan';
