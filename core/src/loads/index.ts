export * from './dynamics';
export * from './tip';
