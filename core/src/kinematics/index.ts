export * from './chain';
export * from './forward';
export * from './task';
export * from './numeric';
export * from './inverse';
export * from './solution';
export * from './probe';
export * from './dexterity';
export { postureAt, postureBits } from './posture';
export { closestPose } from './closest';
export { numericSolutions } from './search';
export {
  closedBranches,
  closedFormOf,
  recogniseTurnAndPlanar,
  type ClosedForm,
  type PlanarArm,
  type SphericalArm,
} from './closed-form';
export * from './named-frames';
export * from './towards';
export * from './follow';
export * from './tip-path';
export { kinematicsFindings } from './findings';
export * from './guide';
