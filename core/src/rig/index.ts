export * from './schema';
export * from './defaults';
export * from './parse';
export { checkMechanism, checkRig } from './check';
