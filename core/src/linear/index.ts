export * from './sincos';
export * as vec3 from './vec3';
export type { Vec3 } from './vec3';
export * from './transform';
export * from './solve';
export * from './eigen';
export * from './random';
