export * from './forward';
export * from './task';
export * from './numeric';
export * from './inverse';
