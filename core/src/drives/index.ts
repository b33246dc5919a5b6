export * from './servo-map';
export * from './checks';
