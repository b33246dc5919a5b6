export * from './profile';
export * from './block';
