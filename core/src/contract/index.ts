export * from './http';
export * from './line-template';
export * from './run';
export * from './recording';
export * from './inputs';
export { contractFindings } from './findings';
export { linesCannot } from './lines-cannot';
