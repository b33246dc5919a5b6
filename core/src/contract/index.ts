export * from './http';
export * from './run';
export * from './inputs';
export { contractFindings } from './findings';
