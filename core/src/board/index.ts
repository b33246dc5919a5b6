export * from './protocol';
export * from './simulated-motors';
export * from './simulated-board';
