export * from './chain';
export * from './delta';
export * from './forward';
export * from './task';
export * from './numeric';
export * from './inverse';
export * from './solution';
export { recognise as recogniseTurnAndPlanar, type PlanarArm } from './closed-form/turn-and-planar';
export * from './named-frames';
