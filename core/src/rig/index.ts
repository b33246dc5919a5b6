export * from './schema';
export * from './defaults';
export * from './parse';
export { checkMechanism, checkRig } from './check';
export type * from './fix';
export * from './delta';
export * from './mirror';
export * from './place-words';
