export * from './horn';
export * from './sensor';
export * from './leader';
export * from './facts';
export * from './tip-difference';
export { calibrationFindings } from './findings';
export * from './confirmed';
