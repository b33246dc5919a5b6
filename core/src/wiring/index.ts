export * from './boards';
export * from './place-wire';
export * from './wire-pins';
export * from './checks';
export * from './mends';
export { wiringFindings } from './findings';
