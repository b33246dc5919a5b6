export * from './shapes';
export * from './marks';
export * from './project';
export * from './reach-outline';
export * from './arm';
