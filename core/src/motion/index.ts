export * from './s-curve';
export * from './block';
