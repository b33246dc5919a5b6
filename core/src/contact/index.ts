export * from './solids';
export * from './distance';
export * from './parts';
export { contactsAt, TOUCH } from './placed';
export * from './scene';
export * from './sweep';
export { reachOfSlots } from './pair-watch';
