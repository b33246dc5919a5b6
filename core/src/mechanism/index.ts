export * from './mechanism';
export { frameToSi, siPerUnitOf } from './convert';
export * from './compile';
export { bodyOf, seenIn, together, type RigidBody } from './bodies';
export type { CompiledPlace, CompiledSpring } from './springs';
export * from './values';
export * from './dh';
export * from './delta';
export { mechanismFindings } from './findings';
