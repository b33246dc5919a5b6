export * from './profile';
export * from './block';
export * from './spline';
export * from './joint-path';
export * from './retime';
export { lawInto, timeAt, type TimeLaw } from './time-law';
export * from './path';
export * from './low-pass';
export * from './motion';
