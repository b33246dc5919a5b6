export * from './profile';
export * from './block';
export * from './spline';
export * from './path';
