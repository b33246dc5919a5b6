export * from './dynamics';
