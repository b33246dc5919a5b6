export * from './solids';
export * from './distance';
export * from './scene';
export * from './sweep';
