export * from './power-up';
export * from './homing';
export * from './checks';
export { bringUpFindings } from './findings';
