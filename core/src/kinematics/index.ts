export * from './forward';
export * from './task';
export * from './numeric';
export * from './inverse';
export { recognise as recogniseTurnAndPlanar, type PlanarArm } from './closed-form/turn-and-planar';
