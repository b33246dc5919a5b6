export * from './protocol';
export * from './simulated-servo';
export * from './simulated-board';
