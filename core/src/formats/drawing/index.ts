export * from './shapes';
export * from './marks';
export * from './project';
export * from './input';
export * from './reach-outline';
export * from './arm';
