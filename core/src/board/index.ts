export * from './protocol';
export * from './host-line';
export * from './simulated-motors';
export * from './simulated-board';
