export * from './contact';
export * from './interpret';
export * from './plan';
export * from './payloads';
