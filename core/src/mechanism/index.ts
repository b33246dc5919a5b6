export * from './mechanism';
export { frameToSi, siPerUnitOf } from './convert';
export * from './compile';
export { seenIn, together, type RigidBody } from './bodies';
export * from './values';
export * from './dh';
export * from './delta';
export { mechanismFindings } from './findings';
